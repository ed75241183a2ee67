"""Site welds that other steel leaves no room to lay: all that is near, beyond what their own joint looks at."""

from collections.abc import Iterator

import numpy as np

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Over, Rule
from uncus.connect.buildable.blocks import blocks_of_piece
from uncus.connect.buildable.reach import in_way, sticks
from uncus.job.records import Connection
from uncus.steel.joint import NewPart, Weld, WeldForm

_WIDE = 80.0  # mm about a weld that an electrode may take


def each(looked: Looked, _: NoValues, id: str) -> Iterator[Found]:
    made, record = looked.connections[id], looked.get(id, Connection)
    members = record.members if record else ()
    plates = {f"{id}/{p.key}": p for p in made.parts if p.part.is_plate}
    for weld in made.welds:
        new = next((plates[j] for j in reversed(weld.joins) if j in plates), None)
        if weld.field and weld.form is WeldForm.FILLET and new is not None:
            yield from _found(looked, id, members, weld, new)


def _found(looked: Looked, id: str, members: tuple[str, ...], weld: Weld, new: NewPart) -> Iterator[Found]:
    path = np.asarray(weld.path)
    near = looked.pieces_in(path.min(axis=0) - _WIDE, path.max(axis=0) + _WIDE)
    others = [p for p in near if p.maker != id and p.maker not in members and p.id not in weld.joins]
    others.sort(key=lambda p: p.id)
    blocks = [b for p in others for b in blocks_of_piece(p.id, p.owner, "", p.part, p.placement)]
    way = in_way(weld, *sticks(weld, new), blocks) if blocks else None
    if way is not None:
        words = looked.ties.words[way.piece]
        text = (
            f"The site weld of the {new.words} cannot be laid: the {words} stands in the way of the electrode; move "
            f"it, or weld before it comes."
        )
        x, y, z = path.mean(axis=0).tolist()
        yield Found("weld room", (f"{id}/{weld.key}", way.piece), text, at=(x, y, z), form=form_of(weld.size, words))


def also(looked: Looked) -> set[str]:
    """Joints near steel that changed, or was there."""
    near = {m for low, high in looked.changed_boxes() for m in looked.room.meeting(low - _WIDE, high + _WIDE)}
    return {c.id for m in near for c in looked.joints_at(m)}


KIND = Rule("weld room", "No room for a site weld", "Site welds that other steel keeps from being laid, wherever it "
    "comes from.", each, Over.JOINTS, also=also)  # fmt: skip
