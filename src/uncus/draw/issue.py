"""Sheets that went out: kept whole, opened again, and compared with what they would be now: why a sheet is stale, in
words, and where on it something changed."""

from __future__ import annotations

import base64
import difflib
import math
import zlib
from collections import Counter
from collections.abc import Iterable, Sequence
from typing import Any

import msgspec

from uncus.caches import Cache
from uncus.catalog.grades import electrode_words
from uncus.draw import erection_reasons
from uncus.draw.anchor_plan import AnchorJob
from uncus.draw.board import united
from uncus.draw.cells import meet
from uncus.draw.erection import PlanJob
from uncus.draw.gathered import GatheredJob
from uncus.draw.inputs import SheetJob, encoded, printed
from uncus.draw.piece_job import PieceJob
from uncus.draw.rules.rule import LEAST
from uncus.draw.schedules import ScheduleJob
from uncus.draw.sheet import Box, Layer, Polyline, Sheet
from uncus.draw.site_plan import SiteJob
from uncus.draw.site_work import counted_bolts, counted_welds
from uncus.draw.subject import Fixed, Subject
from uncus.draw.view_job import ViewJob
from uncus.frame.placement import Placement
from uncus.job.errors import JobError
from uncus.mark.differences import differences
from uncus.units import Units, format_length

_OfErectors = PlanJob | ViewJob | AnchorJob | SiteJob | ScheduleJob
_BY_64 = ":"  # before a copy in letters of base 64 (RFC 4648); those before job version 19 are in base 85
_MOST = 40_000_000  # bytes that a copy may come to
_OPENED: Cache[str, tuple[SheetJob, tuple[Sheet, ...]]] = Cache(64)


class _Copy(msgspec.Struct, frozen=True):
    sheets: tuple[Sheet, ...]
    piece: PieceJob | None = None
    plan: PlanJob | None = None
    gathered: GatheredJob | None = None
    view: ViewJob | None = None
    anchors: AnchorJob | None = None
    site: SiteJob | None = None
    schedule: ScheduleJob | None = None


_KEPT_AS: dict[type, str] = {PieceJob: "piece", PlanJob: "plan", GatheredJob: "gathered", ViewJob: "view",
    AnchorJob: "anchors", SiteJob: "site", ScheduleJob: "schedule"}  # fmt: skip


def _encoded(value: object) -> object:
    if isinstance(value, Placement):
        return [value.origin.tolist(), value.axes.tolist()]
    raise NotImplementedError(type(value).__name__)


def _decoded(kind: type, value: Any) -> object:
    if kind is Placement:
        return Placement(value[0], value[1])
    raise NotImplementedError(kind.__name__)


def packed(job: SheetJob, sheets: Sequence[Sheet]) -> str:
    """A copy of sheets with what they were made from."""
    bare = msgspec.structs.replace(job, since="", on="")
    copy = msgspec.structs.replace(_Copy(tuple(sheets)), **{_KEPT_AS[type(job)]: bare})
    data = msgspec.json.encode(copy, enc_hook=_encoded)
    return _BY_64 + base64.b64encode(zlib.compress(data, 4)).decode("ascii")


def opened(copy: str) -> tuple[SheetJob, tuple[Sheet, ...]]:
    """What was packed. Raises JobError for a copy that is damaged."""
    return _OPENED.of(copy, lambda: _unpacked(copy))


def _unpacked(copy: str) -> tuple[SheetJob, tuple[Sheet, ...]]:
    try:
        unpacker = zlib.decompressobj()
        letters = base64.b64decode(copy[1:], validate=True) if copy[:1] == _BY_64 else base64.b85decode(copy)
        data = unpacker.decompress(letters, _MOST)
        found = msgspec.json.decode(data, type=_Copy, dec_hook=_decoded)
    except (ValueError, TypeError, IndexError, zlib.error, msgspec.DecodeError, NotImplementedError) as error:
        raise JobError(
            f"The kept copy of the sheet cannot be read ({error}); the sheet itself is not touched."
        ) from None
    job = next((one for name in _KEPT_AS.values() if (one := getattr(found, name)) is not None), None)
    if job is None or not found.sheets:
        raise JobError("The kept copy of the sheet holds no sheet.")
    return job, found.sheets


# -- why ----------------------------------------------------------------------------------------------
def reasons(old: SheetJob, new: SheetJob) -> list[str]:
    """What changed between two inputs, in words; none where they draw the same sheet, and one at least where their
    fingerprints differ."""
    old, new = printed(old), printed(new)
    if old.content == new.content:
        return []
    return _known(old, new) or _unnamed(old, new)


def _known(old: SheetJob, new: SheetJob) -> list[str]:
    if isinstance(old, _OfErectors) and isinstance(new, _OfErectors) and type(old) is type(new):
        found = erection_reasons.reasons(old, new)
        return [*found, "edited by hand"] if _by_hand(old) != _by_hand(new) else found
    if isinstance(old, GatheredJob) and isinstance(new, GatheredJob):
        return _of_gathered(old, new)
    if not isinstance(old, PieceJob) or not isinstance(new, PieceJob):
        return ["another kind of sheet"]
    units = new.units
    found = list(differences(new.subject.main, old.subject.main, units))
    found += _of_fixed(old, new)
    if old.required != new.required:
        found.append(f"{new.required} required against {old.required}")
    if old.name != new.name:
        found.append(f"marked {new.name}, was {old.name}")
    found += _of_marks(old, new)
    found += _of_meets(old.subject, new.subject)
    if old.electrode != new.electrode:
        found.append(f"electrode {_electrode(new)} against {_electrode(old)}")
    for words, a, b in (("paint", old.finish, new.finish), ("levels", old.subject.levels, new.subject.levels),
        ("work points", old.subject.works, new.subject.works),
        ("letters of its faces", old.subject.faces, new.subject.faces),
        ("studs", old.subject.studs, new.subject.studs), ("camber", old.camber, new.camber),
        ("how it lies on gussets", old.subject.bracing, new.subject.bracing),
        ("protected zones", old.subject.zones, new.subject.zones),
        ("how its base is levelled", old.subject.bases, new.subject.bases),
        ("places", old.places, new.places), ("project", (old.project, old.number), (new.project, new.number)),
        ("what the shop works to", old.work, new.work), ("tests of welds", old.weld_tests, new.weld_tests),
        ("what holds it", old.held, new.held),
        ("bolts that hold by friction", old.slips, new.slips),
        ("what frames to it", old.subject.framing, new.subject.framing), ("role", old.role, new.role)):  # fmt: skip
        if a != b:
            found.append(f"{words} changed")
    if _held(old) != _held(new):
        found.append("bolts or site welds changed")
    if old.preset != new.preset:
        found.append("what is shown changed")
    if _by_hand(old) != _by_hand(new):
        found.append("edited by hand")
    return found


def _electrode(job: PieceJob) -> str:
    return electrode_words(job.electrode) if job.electrode else "none"


def _of_meets(old: Subject, new: Subject) -> list[str]:
    """Ends that frame to something of another name, at another place or angle."""
    before = {m.right: m for m in old.meets}
    found = []
    for now in new.meets:
        was = before.pop(now.right, None)
        end = "right" if now.right else "left"
        if was is None or was.words != now.words:
            found.append(
                f"the {end} end frames to {now.words.lower()}" + (f", not to {was.words.lower()}" if was else "")
            )
        elif was != now:
            found.append(f"the {end} end meets its support otherwise")
    return found + [f"the {'right' if right else 'left'} end does not frame on a skew any more" for right in before]


def _unnamed(old: SheetJob, new: SheetJob) -> list[str]:
    """Of two inputs that differ in nothing that has words of its own: in which part of them they do."""
    pairs: list[tuple[msgspec.Struct, msgspec.Struct]] = [(old, new)]
    if isinstance(old, PieceJob) and isinstance(new, PieceJob):
        pairs.append((old.subject, new.subject))
    names = [
        name
        for a, b in pairs
        for name in a.__struct_fields__
        if name not in ("content", "since", "on", "hand", "subject")
        and encoded(getattr(a, name)) != encoded(getattr(b, name))
    ]
    if set(names) <= {"main", "fixed", "bill", "works"}:
        return ["sizes or places changed by less than half a millimetre"]
    return [f"its {', '.join(name.replace('_', ' ') for name in names)} changed"]


def _held(job: PieceJob) -> tuple[object, ...]:
    bolts = [counted_bolts(g for g in job.holds if g.field == field) for field in (False, True)]
    return bolts, counted_welds(job.site_welds), job.some_bolts, job.some_welds


def _by_hand(job: SheetJob) -> object:
    hand, aside = job.hand, getattr(job, "aside", ())
    return (aside, hand.edits, hand.scale, hand.sections) if hand else (aside, (), 0.0, ())


def _of_marks(old: PieceJob, new: PieceJob) -> list[str]:
    """Parts that are called something else now."""
    before = {f.id: f.mark for f in old.subject.fixed}
    named = sorted({(before[f.id], f.mark) for f in new.subject.fixed if f.id in before and before[f.id] != f.mark})
    return [f"part {was} is {now} now" for was, now in named]


def _of_fixed(old: PieceJob, new: PieceJob) -> list[str]:
    before = {f.id: f for f in old.subject.fixed}
    after = {f.id: f for f in new.subject.fixed}
    units, found = new.units, []
    for id, f in after.items():
        was = before.get(id)
        if was is None:
            found.append(f"{f.mark} added")
            continue
        found += [f"{f.mark} {words}" for words in differences(f.part, was.part, units)]
        found += _shift(was, f, units)
        if was.weld != f.weld and (was.weld is None or f.weld is None or abs(was.weld.size - f.weld.size) > 0.1
            or was.weld.sides != f.weld.sides):  # fmt: skip
            found.append(f"the weld of {f.mark} changed")
    found += [f"{f.mark} gone" for id, f in before.items() if id not in after]
    return _counted(found)


def _counted(lines: Iterable[str]) -> list[str]:
    return [f"{n} x {words}" if n > 1 else words for words, n in Counter(lines).items()]


def _shift(was: Fixed, now: Fixed, units: Units) -> list[str]:
    if was.part != now.part and differences(now.part, was.part, units):
        return []
    d = (now.centre - was.centre).tolist()
    words = []
    for value, more, less in ((d[0], "further along", "less far along"), (d[1], "to the far side", "to the near side"),
        (d[2], "higher", "lower")):  # fmt: skip
        if abs(value) > LEAST:
            words.append(f"{format_length(abs(value), units)} {more if value > 0 else less}")
    return [f"{now.mark} moved {', '.join(words)}"] if words else []


def _of_gathered(old: GatheredJob, new: GatheredJob) -> list[str]:
    before, after = ({j.name: j for j in job.jobs} for job in (old, new))
    found = [f"{name} {words}" for name in after if name in before for words in reasons(before[name], after[name])]
    found += [f"{name} added" for name in after if name not in before]
    return found + [f"{name} gone" for name in before if name not in after]


# -- where --------------------------------------------------------------------------------------------
_UNWATCHED = tuple(f"title|{name}" for name in ("sheet", "drawn", "checked", "date", "revision", "name", "scale"))


def changed_boxes(old: Sequence[Sheet], new: Sheet) -> list[Box]:
    """Where a sheet says or shows something that the old ones did not: figures, words, rows of the bill, holes and
    plates."""
    lines = {spot.key: [w for w, _ in spot.texts] for sheet in old for spot in sheet.spots}
    boxes: list[Box] = []
    for spot in new.spots:
        if spot.key in _UNWATCHED:
            continue
        said = [w for w, _ in spot.texts]
        was = lines.get(spot.key)
        if was is None:
            boxes += [box for _, box in spot.texts] or [spot.box]
            continue
        if was == said:
            continue
        for tag, _, _, first, last in difflib.SequenceMatcher(None, was, said, autojunk=False).get_opcodes():
            if tag != "equal":
                boxes += [box for _, box in spot.texts[first:last]]
    before = {(f.name, key): p[2:] for sheet in old for f in sheet.frames for key, p in f.points.items()}
    for frame in new.frames:
        for key, (x, y, u, v) in frame.points.items():
            was_at = before.get((frame.name, key))
            hole = "|x" in key or "|w" in key
            if hole and (was_at is None or math.dist(was_at, (u, v)) > LEAST):
                boxes.append((x - 2.5, y - 2.5, x + 2.5, y + 2.5))
    return _joined(boxes)


def _joined(boxes: list[Box]) -> list[Box]:
    """Boxes that touch, or that one cloud would go round, made one."""
    left = list(boxes)
    found: list[Box] = []
    while left:
        box = left.pop()
        while True:
            hits = [b for b in left if meet(_wider(b, _ROUND), _wider(box, _ROUND))]
            if not hits:
                break
            left = [b for b in left if b not in hits]
            box = united([box, *hits])
        found.append(box)
    return sorted(found)


def _wider(box: Box, by: float) -> Box:
    return box[0] - by, box[1] - by, box[2] + by, box[3] + by


_ROUND = 1.2  # mm from what changed to its cloud, where there is room
_BULGE = 0.9  # mm that a cloud's arcs stand out
_STEP = 3.2  # mm of one arc


def roomy(box: Box, others: Sequence[Box]) -> Box:
    """The box of a cloud round what changed: as far from it as its neighbours leave room, each side by itself."""
    sides = list(_wider(box, _ROUND))
    for other in others:
        if meet(other, box):
            continue
        across = other[1] < box[3] and box[1] < other[3]
        over = other[0] < box[2] and box[0] < other[2]
        if across and other[2] <= box[0]:
            sides[0] = max(sides[0], min(box[0], other[2] + _BULGE))
        elif across and other[0] >= box[2]:
            sides[2] = min(sides[2], max(box[2], other[0] - _BULGE))
        elif over and other[3] <= box[1]:
            sides[1] = max(sides[1], min(box[1], other[3] + _BULGE))
        elif over and other[1] >= box[3]:
            sides[3] = min(sides[3], max(box[3], other[1] - _BULGE))
    return sides[0], sides[1], sides[2], sides[3]


def cloud(box: Box) -> Polyline:
    """A revision cloud along a box: arcs outwards all round it."""
    x0, y0, x1, y1 = box
    corners = [(x0, y0), (x1, y0), (x1, y1), (x0, y1), (x0, y0)]
    points: list[tuple[float, float]] = []
    for (ax, ay), (bx, by) in zip(corners, corners[1:], strict=False):
        long = math.hypot(bx - ax, by - ay)
        count = max(1, round(long / _STEP))
        ux, uy = (bx - ax) / long, (by - ay) / long
        r = long / count / 2
        for n in range(count):
            middle = (n + 0.5) * long / count
            for k in range(7):
                a = math.pi - math.pi * k / 6
                along, out = middle + r * math.cos(a), min(_BULGE, 0.7 * r) * math.sin(a)
                points.append((ax + ux * along + uy * out, ay + uy * along - ux * out))
    return Polyline(Layer.CLOUD, tuple(points), closed=True)


def clouded(old: Sequence[Sheet], new: Sequence[Sheet]) -> tuple[Sheet, ...]:
    """The new sheets with clouds round what changed since the old ones."""
    found = []
    for sheet in new:
        words = [box for spot in sheet.spots for _, box in spot.texts]
        clouds = [cloud(roomy(box, words)) for box in changed_boxes(old, sheet)]
        found.append(msgspec.structs.replace(sheet, items=(*sheet.items, *clouds)))
    return tuple(found)


def laid_over(old: Sheet, new: Sheet) -> tuple[list, list, list]:  # type: ignore[type-arg]
    """Primitives that both sheets have, that only the old has and that only the new has."""
    before, after = Counter(map(_plain, old.items)), Counter(map(_plain, new.items))
    both = [i for i in new.items if _plain(i) in before]
    only_old = [i for i in old.items if _plain(i) not in after]
    only_new = [i for i in new.items if _plain(i) not in before]
    return both, only_old, only_new


def _plain(item: object) -> object:
    """A primitive to a hundredth of a mm, so that the last bits do not tell them apart."""
    found = msgspec.structs.astuple(item)  # type: ignore[arg-type]
    return tuple(
        round(v, 2)
        if isinstance(v, float)
        else tuple((round(a, 2), round(b, 2)) for a, b in v)
        if isinstance(v, tuple)
        else v
        for v in found
    )
