"""What people did to a sheet, applied to what its rules say: kept by the keys of what is measured, so that a sheet
redone keeps each edit once, and an edit whose feature is gone is told."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import msgspec

from uncus.draw.annotation import Aligned, Annotation, Chain, Note, Stop
from uncus.job.drawings import OF_VIEWS, Edit, Hidden, Merged, Moved, Reached, Recut, Scaled, Spanned, Split, Written

replace = msgspec.structs.replace
Points = Mapping[str, tuple[float, float]]


class Edited(msgspec.Struct, frozen=True):
    """Annotations after the edits, how far each is moved (paper mm), and the edits that found nothing."""

    annotations: tuple[Annotation, ...]
    moved: dict[str, tuple[float, float]]
    lost: tuple[Edit, ...]


def view_of(edit: Edit) -> str:
    """The view an edit belongs to: what its key begins with."""
    return edit.view if isinstance(edit, Spanned | Written) else edit.key.partition("|")[0]


def applied(annotations: Sequence[Annotation], edits: Sequence[Edit], points: Points) -> Edited:
    """The edits of one view in the order in which they were made. Should two rules give one key, both are drawn: the
    second as `key~2`, so that no figure is lost for it."""
    there: dict[str, Annotation] = {}
    for one in annotations:
        again = sum(key.partition("~")[0] == one.key for key in there) if one.key in there else 0
        kept = replace(one, key=f"{one.key}~{again + 1}") if again else one
        there[kept.key] = kept
    moved: dict[str, tuple[float, float]] = {}
    lost = []
    for edit in edits:
        if isinstance(edit, OF_VIEWS):
            continue  # the view itself was drawn by it
        if isinstance(edit, Moved):
            if edit.key in there:
                moved[edit.key] = (edit.dx, edit.dy)
                continue
        elif isinstance(edit, Spanned):
            made = _spanned(edit, points)
            if made is not None:
                there[edit.key] = made
                continue
        elif isinstance(edit, Written):
            there[edit.key] = Note(edit.key, (edit.u, edit.v), edit.words, edit.v >= 0, edit.leader)
            continue
        elif _changed(there, edit, points):
            continue
        lost.append(edit)
    return Edited(tuple(there.values()), moved, tuple(lost))


def _changed(there: dict[str, Annotation], edit: Edit, points: Points) -> bool:
    """Make an edit of an annotation that is there; False where it, or what it measures, is gone."""
    found = there.get(edit.key)
    if found is None:
        return False
    if isinstance(edit, Hidden):
        if not edit.stop:
            del there[edit.key]
            return True
        if not isinstance(found, Chain) or all(s.key != edit.stop for s in found.stops):
            return False
        left = tuple(s for s in found.stops if s.key != edit.stop)
        if len(left) < 2:
            del there[edit.key]
        else:
            there[edit.key] = replace(found, stops=left)
        return True
    if not isinstance(found, Chain):
        return False
    if isinstance(edit, Merged):
        other = there.get(edit.other)
        if not isinstance(other, Chain) or other.along_u != found.along_u:
            return False
        there[edit.key] = _ordered(found, (*found.stops, *other.stops))
        del there[edit.other]
        return True
    if isinstance(edit, Split):
        return _split(there, found, edit)
    if isinstance(edit, Reached):
        at = points.get(edit.stop)
        if at is None:
            return False
        stop = Stop(edit.stop, at[0] if found.along_u else at[1], at[1] if found.along_u else at[0])
        there[edit.key] = _ordered(found, (*found.stops, stop))
        return True
    return False


def _ordered(chain: Chain, stops: tuple[Stop, ...]) -> Chain:
    """A chain with its stops in order, those at one place once; a running one keeps its start first."""
    first, rest = (stops[0], stops[1:]) if chain.how == "running" else (None, stops)
    sign = 1.0 if chain.along_u else -1.0
    kept: list[Stop] = []
    for stop in sorted(rest, key=lambda s: sign * s.at):
        if (not kept or abs(kept[-1].at - stop.at) > 0.05) and (first is None or abs(first.at - stop.at) > 0.05):
            kept.append(stop)
    return replace(chain, stops=(first, *kept) if first else tuple(kept))


def _split(there: dict[str, Annotation], chain: Chain, edit: Split) -> bool:
    at = next((i for i, s in enumerate(chain.stops) if s.key == edit.stop), None)
    if at is None or not 0 < at < len(chain.stops) - 1:
        return False
    first = (chain.stops[0],) if chain.how == "running" else ()  # both run from the same end
    there[chain.key] = replace(chain, stops=chain.stops[: at + 1], to_edge=False)
    rest = chain.stops[at + 1 :] if first else chain.stops[at:]
    there[f"{chain.key}+{edit.stop}"] = replace(
        chain, key=f"{chain.key}+{edit.stop}", stops=(*first, *rest), rank=chain.rank + 1
    )
    return True


def _spanned(edit: Spanned, points: Points) -> Annotation | None:
    a, b = points.get(edit.a), points.get(edit.b)
    if a is None or b is None or a == b:
        return None
    if edit.along == "u":
        stops = sorted((Stop(edit.a, *a), Stop(edit.b, *b)), key=lambda s: s.at)
        return (
            Chain(edit.key, "above", tuple(stops), rank=4, datum=stops[0].at)
            if stops[1].at - stops[0].at > 0.05
            else None
        )
    if edit.along == "v":
        ends = sorted((Stop(edit.a, a[1], a[0]), Stop(edit.b, b[1], b[0])), key=lambda s: -s.at)
        return Chain(edit.key, "right", tuple(ends), rank=4) if ends[0].at - ends[1].at > 0.05 else None
    return Aligned(edit.key, a, b)


def said(edit: Edit) -> str:
    """An edit in words, for the list of those that found nothing."""
    what = edit.key.partition("|")[2].split("/")[-1] or edit.key
    words = {
        Moved: "moved",
        Hidden: "left out",
        Merged: "merged",
        Split: "split",
        Reached: "a point added",
        Spanned: "a dimension added",
        Written: "a note added",
        Scaled: "another scale",
        Recut: "cut elsewhere",
    }
    if isinstance(edit, OF_VIEWS):
        return f"{words[type(edit)]}: {view_of(edit)}"
    return f"{words[type(edit)]}: {what} in the {view_of(edit)} view"
