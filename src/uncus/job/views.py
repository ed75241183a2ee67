"""Records of the erector's views: the boxes that drawings are made from, and how steel is shown in each."""

from __future__ import annotations

from typing import Annotated

import msgspec

from uncus.job.forms import About, problem_of
from uncus.job.record import FAR, Point, Record

STICKS, OUTLINES, SOLID, BOTH = STEEL = (
    "as lines",
    "as outlines",
    "as solids, by hidden lines",
    "as outlines, with its lines",
)
LEFT_OUT, DASHED, FULL = HIDDEN = ("left out", "dashed", "in full")
BRACES = ("in full", "dashed", "left out")
ONCE, EACH, LISTED = SIZES = ("once of each mark", "at each piece", "in the list only")
ABSOLUTE, FROM_LEVEL, UNSAID = HEIGHTS = ("absolute", "from the view's level", "left out")


class Showing(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True, kw_only=True):
    """How a view shows its steel, and what it says of it. Lenses by name or as typed rows; "" for none."""

    steel: Annotated[str, About("Steel", unit="choice", choices=STEEL)] = STICKS
    hidden: Annotated[str, About("Hidden lines", unit="choice", choices=HIDDEN, only=("steel", SOLID))] = LEFT_OUT
    other: Annotated[str, About("Otherwise for", unit="text",
        help="A lens, its name or rows such as role is column: steel that is shown another way.")] = ""  # fmt: skip
    other_steel: Annotated[str, About("That steel", unit="choice", choices=STEEL)] = SOLID
    main: Annotated[bool, About("Main steel", unit="flag", help="The members themselves, where parts are drawn.")] = (
        True
    )
    fixed: Annotated[bool, About("What is fixed on", unit="flag",
        help="Plates and other parts that pieces bring with them, where parts are drawn.")] = True  # fmt: skip
    holes: Annotated[bool, About("Holes", unit="flag", help="Where parts are drawn and are seen face on.")] = False
    bolts: Annotated[bool, About("Site bolts", unit="flag", help="A filled dot at each.")] = False
    shop: Annotated[bool, About("Shop bolts", unit="flag", help="An open dot at each.")] = False
    odd: Annotated[bool, About("Odd site bolts", unit="flag",
        help="Of another size or grade than most: said where they are.")] = True  # fmt: skip
    tabs: Annotated[bool, About("Sides of tabs", unit="flag",
        help="A tick at an end, on the side of the web that its tab stands on.")] = False  # fmt: skip
    welds: Annotated[bool, About("Site welds", unit="flag", help="Each with its size and length.")] = True
    braces: Annotated[str, About("Bracing aslant", unit="choice", choices=BRACES,
        help="Braces that run out of the view's own plane.")] = BRACES[0]  # fmt: skip
    shape: Annotated[bool, About("Shape at the line", unit="flag", only=("steel", STICKS),
        help="The section, turned into the view beside its line: which way a member is turned.")] = False  # fmt: skip
    beyond: Annotated[float, About("Faint beyond", low=0.0, high=100_000.0,
        help="How far behind the box steel is shown faint, without marks.")] = 0.0  # fmt: skip
    sizes: Annotated[str, About("Sizes", unit="choice", choices=SIZES)] = ONCE
    heights: Annotated[str, About("Heights", unit="choice", choices=HEIGHTS,
        help="Of steel that does not lie at the view's own level.")] = ABSOLUTE  # fmt: skip
    repeats: Annotated[bool, About("Like pieces once", unit="flag",
        help="Pieces of one mark side by side are marked once, with how far they go.")] = False  # fmt: skip
    moments: Annotated[bool, About("Moment ends", unit="flag", help="A triangle at ends that hold a moment.")] = True
    studs: Annotated[bool, About("Studs", unit="flag", help="How many a piece has, as (24).")] = True
    says: Annotated[str, About("Says as well", unit="text",
        help="Facts of lenses, said after the size: lot, camber, grade, weight, level ...")] = "camber"  # fmt: skip
    above: Annotated[bool, About("Grid above", unit="flag", help="Bubbles and dimensions.")] = True
    below: Annotated[bool, About("Grid below", unit="flag", help="Bubbles and dimensions.")] = False
    left: Annotated[bool, About("Grid at the left", unit="flag", help="Bubbles and dimensions.")] = True
    right: Annotated[bool, About("Grid at the right", unit="flag", help="Bubbles and dimensions.")] = False
    overall: Annotated[bool, About("Overall", unit="flag", help="A dimension over all lines of a side.")] = True
    offs: Annotated[bool, About("Off the grid", unit="flag",
        help="Steel on no line is dimensioned from those next to it; in elevations its height.")] = True  # fmt: skip
    signs: Annotated[bool, About("Signs of views", unit="flag",
        help="Where other views cut this one, with the sheets they are on.")] = True  # fmt: skip
    only: Annotated[str, About("Only steel of", unit="text",
        help="A lens: its name, or rows such as role is beam.")] = ""  # fmt: skip
    standing: Annotated[str, About("Stands already", unit="text", help="A lens: drawn in a line of its own.")] = ""
    heavy: Annotated[str, About("In heavy lines", unit="text", help="A lens: drawn heavily, with a key.")] = ""

    @property
    def facts(self) -> tuple[str, ...]:
        """The facts that it says of each piece."""
        return tuple(filter(None, (word.strip() for word in self.says.split(","))))

    def problem(self) -> str | None:
        return problem_of(self)


class ViewFrame(Record, frozen=True, tag=True, omit_defaults=True):
    """A placed box that a drawing view is made from: centre, look axes (`x` right, `y` up), size, depth before and
    behind its face; the look direction is against x cross y. Views with the same `sheet` stand together on one; at
    1 : `scale`, or where that is 0 as large as there is room."""

    name: str
    origin: Point
    x: Point
    y: Point
    width: float
    height: float
    before: float = 300.0
    behind: float = 300.0
    shows: Showing = Showing()
    sheet: str = ""
    scale: float = 0.0
    drawn: bool = True  # else it is left out of the drawings, and no usual view comes in its place

    def problem(self) -> str | None:
        if not self.name.strip():
            return "A view frame needs a name."
        if not all(abs(n) < FAR for n in (*self.origin, *self.x, *self.y)):
            return f"View frame “{self.name}” is out of reach (10 km)."
        if not all(1.0 <= n < FAR for n in (self.width, self.height)):
            return f"View frame “{self.name}” needs a width and a height; pick two opposite corners."
        if not all(0.0 <= n < FAR for n in (self.before, self.behind)) or self.before + self.behind < 1.0:
            return f"View frame “{self.name}” needs some depth before or behind it."
        if self.scale and not 0.5 <= self.scale <= 5000.0:
            return f"View frame “{self.name}” is drawn at a scale between 2:1 and 1:5000."
        wrong = self.shows.problem()
        return f"View frame “{self.name}”: {wrong}" if wrong else None
