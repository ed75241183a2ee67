"""Records of drawing: presets, what was done to a sheet by hand, its revisions and the copies that went out."""

from __future__ import annotations

import msgspec

from uncus.job.record import Record

MANNERS = {
    "along": ("running", "each from the next"),
    "start": ("left end", "right end"),
    "plates": ("nearer edge", "middle"),
    "gages": ("top", "bottom"),
}


class SheetPreset(Record, frozen=True, tag=True):
    """What the sheets of some kinds of piece (roles, "assembly" or "part") show: the rules left `off`, bevels in
    `degrees`, `neighbours` shown for reference, long pieces shortened, paper by name ("" for the usual) or an own
    `template` (SVG); `several` plates to a sheet.

    How it is dimensioned: positions `along` running from an end or each from the next, from which `start`; plates that
    stand across at their nearer edge or their middle (`plates`); rows of holes in a web from its top or bottom
    (`gages`); plates on the skew in degrees or as a bevel to `twelfths`."""

    name: str
    kinds: tuple[str, ...] = ()
    off: tuple[str, ...] = ()
    degrees: bool = False
    neighbours: bool = False
    shorten: bool = True
    paper: str = ""
    template: str = ""
    several: int = 1
    along: str = "running"
    start: str = "left end"
    plates: str = "nearer edge"
    gages: str = "top"
    twelfths: bool = False

    def problem(self) -> str | None:
        for name, choices in MANNERS.items():
            if getattr(self, name) not in choices:
                return f"A preset's {name} is one of: {', '.join(choices)}."
        if not 1 <= self.several <= 12:
            return "A sheet takes between 1 and 12 parts."
        return None if self.name.strip() else "A preset needs a name."


class Moved(msgspec.Struct, frozen=True, tag="moved"):
    """An annotation moved by so many mm of paper: a chain outwards or inwards, words any way."""

    key: str
    dx: float
    dy: float


class Hidden(msgspec.Struct, frozen=True, tag="hidden"):
    """An annotation left out, or one stop of a chain."""

    key: str
    stop: str = ""


class Merged(msgspec.Struct, frozen=True, tag="merged"):
    """The stops of one chain taken into another on the same side."""

    key: str
    other: str


class Split(msgspec.Struct, frozen=True, tag="split"):
    """A chain made two at one of its stops."""

    key: str
    stop: str


class Reached(msgspec.Struct, frozen=True, tag="reached"):
    """A further stop of a chain: a point of the view known by its key."""

    key: str
    stop: str


class Spanned(msgspec.Struct, frozen=True, tag="spanned"):
    """A dimension added: between two points of a view known by their keys, along u or v, or straight ("")."""

    key: str
    view: str
    a: str
    b: str
    along: str = "u"


class Written(msgspec.Struct, frozen=True, tag="written"):
    """A note added at a place of a view (its own mm from the piece's left end and middle), with a leader or without."""

    key: str
    view: str
    u: float
    v: float
    words: str
    leader: bool = True


class Scaled(msgspec.Struct, frozen=True, tag="scaled"):
    """A view drawn 1 to `scale`; `key` is the view's own name."""

    key: str
    scale: float


class Recut(msgspec.Struct, frozen=True, tag="recut"):
    """A section cut at another place: `at` mm from the piece's left end; `key` is the section's own name."""

    key: str
    at: float


Edit = Moved | Hidden | Merged | Split | Reached | Spanned | Written | Scaled | Recut
OF_VIEWS = Scaled | Recut


class Revision(msgspec.Struct, frozen=True):
    """One issue of a sheet after the first or any before: its mark, what changed, who and when."""

    mark: str
    on: str
    words: str
    drawn: str = ""
    checked: str = ""


class Drawing(Record, frozen=True, tag=True):
    """What people did to a sheet. Its id is `drawing:` and what it shows: a piece, whose fellows of one mark share the
    sheet.

    `scale` 0 and `preset` "" leave the choice to the program; `sections` are added at these distances from the left
    end. `sheet` is what it was called last and `pieces` what it showed, by which it is found again
    (`draw/histories.py`); `anchors` tell where that is which its edits hold on to (`draw/anchors.py`).
    """

    piece: str
    kind: str
    edits: tuple[Edit, ...] = ()
    scale: float = 0.0
    preset: str = ""
    sections: tuple[float, ...] = ()
    revisions: tuple[Revision, ...] = ()
    flags: tuple[str, ...] = ()
    drawn: str = ""
    checked: str = ""
    sheet: str = ""
    pieces: tuple[str, ...] = ()
    anchors: tuple[tuple[str, str], ...] = ()

    def problem(self) -> str | None:
        scales = [self.scale or 1.0, *(e.scale for e in self.edits if isinstance(e, Scaled))]
        if any(not 0.5 <= scale <= 1000 for scale in scales):
            return "A scale lies between 2:1 and 1:1000."
        if any(not r.mark.strip() for r in self.revisions):
            return "A revision needs a mark."
        return None


class Issue(Record, frozen=True, tag=True):
    """A sheet as it went out, the `number`th of its piece: its name and `pieces` then, what it was made from and its
    lines, packed (see `uncus.draw.issue`)."""

    piece: str
    kind: str
    sheet: str
    revision: str
    on: str
    content: str
    packed: str
    number: int = 1
    pieces: tuple[str, ...] = ()


def drawing_id(kind: str, piece: str) -> str:
    return f"drawing:{kind}:{piece}"
