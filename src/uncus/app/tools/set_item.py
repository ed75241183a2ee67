"""A bought item set in the model by itself: where its foot comes, and which way it stands out."""

from __future__ import annotations

from typing import Annotated

import msgspec
import numpy as np

from uncus.app.tools.tool import Commit, PointTool, Preview, Result, Site
from uncus.job.bought import BoughtItem, Placed
from uncus.job.errors import JobError
from uncus.job.forms import FLAGS, About
from uncus.job.records import Member, Point
from uncus.reference.items import item_in, set_item

ORDERS = ("finished", "black")


class SetItemOptions(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    code: Annotated[str, About("Item", unit="item", help="Its code among the job's bought items.")] = "RACK-600"
    mirror: Annotated[str, About("Mirror image", unit="choice", choices=FLAGS)] = FLAGS[1]
    order: Annotated[str, About("Ordered", unit="choice", choices=ORDERS, help="Black: without its finish.")] = ORDERS[
        0
    ]
    turn: Annotated[float, About("Turned", unit="angle", low=-180, high=180, help="About the way it stands out.")] = 0.0


class SetItemTool(PointTool):
    words = "Set a bought item"

    def __init__(self, site: Site, code: str = "") -> None:
        super().__init__(site)
        self.options: SetItemOptions = self._remembered(SetItemOptions)
        if code:
            self.options = msgspec.structs.replace(self.options, code=code)

    @property
    def prompt(self) -> str:  # type: ignore[override]
        return "pick the way it stands out" if self.picks else f"pick where the foot of the {self.options.code} comes"

    def taken(self) -> Result:
        if len(self.picks) < 2:
            return None
        item, made = self._made(*self.points)
        put: tuple[Member | BoughtItem, ...] = (made,)
        if self.site.job.get(item.id, BoughtItem) is None:
            put = (item, made)  # the job keeps a copy of what it uses
        self.picks.clear()
        return Commit(f"Set {item.code}", put)

    def _made(self, at: Point, to: Point) -> tuple[BoughtItem, Member]:
        o = self.options
        item = item_in(self.site.job, o.code)
        out = np.subtract(to, at)
        if float(np.linalg.norm(out)) < 1.0:
            raise JobError("The item stands out nowhere; pick a point farther off.")
        facts = item.facts
        if o.mirror == FLAGS[0] and not facts.mirrors:
            raise JobError(f"A {item.code} is not made as a mirror image; set it without.")
        if o.order == ORDERS[1] and not facts.black:
            raise JobError(f"A {item.code} is not sold without its finish; order it finished.")
        if o.turn and not facts.turns:
            raise JobError(f"A {item.code} is set upright, as its maker says; give no turn.")
        x = out / np.linalg.norm(out)
        up = np.array((0.0, 0.0, 1.0)) if abs(x[2]) < 0.999 else np.asarray(self.site.plane.place.y)
        up = up - (up @ x) * x
        up /= np.linalg.norm(up)
        turn = np.radians(o.turn)
        up = np.cos(turn) * up + np.sin(turn) * np.cross(x, up)
        how = Placed(item.code, o.mirror == FLAGS[0], o.order == ORDERS[1])
        return item, set_item(item, at, tuple(x.tolist()), tuple(up.tolist()), how)

    def preview(self) -> Preview:
        path = self._path()
        if len(path) < 2:
            return Preview()
        try:
            _, made = self._made(path[0], path[1])
        except JobError:
            return Preview(lines=(path,))
        return Preview(members=(made,), lines=(path,))
