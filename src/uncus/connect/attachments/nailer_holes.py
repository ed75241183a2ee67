"""Nailer holes: rows of holes in flanges or web for what is fixed to the steel, in line or staggered."""

from typing import Annotated

from uncus.connect.attachments.kind import AttachmentKind, Fitting, Spread, stations
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Body
from uncus.job.forms import About, checked
from uncus.steel import profile
from uncus.steel.features import Face, Hole
from uncus.steel.joint import Contribution
from uncus.units import Units, format_length

_FACES = {
    "top flange": (Face.TOP,),
    "bottom flange": (Face.BOTTOM,),
    "both flanges": (Face.TOP, Face.BOTTOM),
    "web": (Face.WEB,),
}
_EACH_ROW, _NEXT_ROW = "along one row", "from one row to the next"


class Params(Spread, frozen=True, forbid_unknown_fields=True):
    into: Annotated[str, About("Holes in the", unit="choice", choices=tuple(_FACES))] = "top flange"
    diameter: Annotated[float, About("Hole", low=5, high=60)] = 14.2875
    rows: Annotated[int, About("Rows", unit="count", low=1, high=6)] = 2
    gage: Annotated[
        float | None, About("Between rows", low=20, high=1000, help="The flange's gage where left empty.")
    ] = None
    stagger: Annotated[str, About("Rows stand", unit="choice", choices=("in line", "staggered"))] = "staggered"
    leads: Annotated[
        str,
        About("Row that stands first", unit="choice", choices=("near", "far"), help="Of staggered rows in a flange."),
    ] = "near"
    web_leads: Annotated[
        str,
        About(
            "In a web, the row", unit="choice", choices=("bottom", "top"), help="The staggered row that stands first."
        ),
    ] = "bottom"
    means: Annotated[
        str,
        About(
            "Spacing is",
            unit="choice",
            choices=(_EACH_ROW, _NEXT_ROW),
            help="Of staggered rows, what the spacing means.",
        ),
    ] = _EACH_ROW


def steps(p: Params) -> tuple[float, float]:
    """The spacing along one row, and from a hole in one row to the next hole in the row beside it."""
    if p.stagger == "in line" or p.rows == 1:
        return p.spacing, 0.0
    if p.means == _EACH_ROW:
        return p.spacing, p.spacing / 2
    return 2 * p.spacing, p.spacing


def reading(params: object, units: Units) -> str:
    """Both readings of a staggered spacing."""
    assert isinstance(params, Params)
    each, next_row = steps(params)
    if params.by != "spacing":
        return ""
    if not next_row:
        return f"{format_length(each, units)} along each row, holes side by side"
    return f"{format_length(each, units)} along one row, {format_length(next_row, units)} from one row to the next"


def build(fitting: Fitting) -> Contribution:
    """The holes; findings where they meet a fillet or an edge."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    s = fitting.member.section
    each, offset = steps(p)
    if p.by == "spacing":
        p_row = type(p)(**{**{f: getattr(p, f) for f in p.__struct_fields__}, "spacing": each})
    else:
        p_row, offset = p, 0.0
    inwards = -1.0 if p.start == "right end" else 1.0
    base = stations(fit, fitting, p_row, "nailer holes")
    for face in _FACES[p.into]:
        wall = profile.faces(s).get(face)
        if wall is None:
            fit.find(f"The {fitting.member.words} has no {p.into} for nailer holes.")
            continue
        gage = p.gage or (
            s.gage or s.b / 2 if face is not Face.WEB else min(s.T or s.d / 2, 150.0) / max(1, p.rows - 1)
        )
        middle = 0.0 if s.form != "U" or face is Face.WEB else s.tw / 2
        across = [middle + (n - (p.rows - 1) / 2) * gage for n in range(p.rows)]
        clear = s.tw / 2 + s.r if face is not Face.WEB and s.flanged and s.form != "U" else 0.0
        if any(not wall.lo + p.diameter < w < wall.hi - p.diameter or abs(w) - p.diameter / 2 < clear for w in across):
            fit.find(
                f"Nailer holes meet the fillet or the edge of the {fitting.member.words}; give another distance "
                f"between rows.")  # fmt: skip
        turned = p.web_leads == "top" if face is Face.WEB else p.leads == "far"
        for n, w in enumerate(reversed(across) if turned else across):
            for x in base:
                at = x + (offset if n % 2 else 0.0) * inwards
                if fitting.left + p.diameter < at < fitting.right - min(p.last, 25.0):
                    fit.feature(fitting.member.id, Hole(face, at, w, p.diameter))
    return fit.done()


def _fits(body: Body) -> bool:
    return body.section.flanged and body.record.double is None


KIND = AttachmentKind(
    "nailer holes",
    "Nailer holes",
    Params,
    build,
    _fits,
    "Rows of holes in a flange or the web for wood nailers and the like, in line or staggered.",
    reading,
    places=False,
)
