"""Safety holes: holes through a column for the erector's cables, at heights above its floors."""

from typing import Annotated

from uncus.connect.attachments.kind import AttachmentKind, Fitting, Spread, stations
from uncus.connect.fitup import Fitup
from uncus.job.forms import About, checked
from uncus.steel import profile
from uncus.steel.features import Face, Hole
from uncus.steel.joint import Contribution
from uncus.units import UnitError, parse_lengths


class Params(Spread, frozen=True, forbid_unknown_fields=True):
    by: Annotated[str, About("Spread by", unit="choice", choices=("loads", "places", "count", "spacing"),
        help="Above each floor that frames in, or as typed.")] = "loads"  # fmt: skip
    above: Annotated[str, About("Above each floor", unit="spacings",
        help="One from the next, from where a floor frames in.")] = "21, 21"  # fmt: skip
    into: Annotated[str, About("Holes in the", unit="choice", choices=("web", "flanges"))] = "web"
    diameter: Annotated[float, About("Hole", low=8, high=60)] = 20.6375
    off: Annotated[float, About("Off the middle", low=-500, high=500, help="Across the web or the flange.")] = 0.0


def build(fitting: Fitting) -> Contribution:
    """The holes; findings where they meet a fillet or lie past the member's end."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    s = fitting.member.section
    base = stations(fit, fitting, p, "safety holes")
    if p.by == "loads":
        try:
            gaps = parse_lengths(p.above, fitting.units)
        except UnitError as error:
            fit.find(str(error))
            return fit.done()
        up = 1.0 if fitting.member.frame.x[2] >= 0 else -1.0
        floors: list[float] = []
        for x in sorted(base):
            if not floors or abs(x - floors[-1]) > 600.0:
                floors.append(x)
        base = []
        for x in floors:
            at = x
            for gap in gaps:
                at += up * gap
                base.append(at)
    faces = (Face.WEB,) if p.into == "web" else (Face.TOP, Face.BOTTOM)
    walls = profile.faces(s)
    for face in faces:
        wall = walls.get(face)
        if wall is None:
            fit.find(f"The {fitting.member.words} has no {p.into} for safety holes.")
            break
        edge = s.k + p.diameter / 2 if face is Face.WEB and s.flanged else p.diameter
        if not wall.lo + edge <= p.off <= wall.hi - edge:
            fit.find(
                f"Safety holes meet the fillet or the edge of the {fitting.member.words}; move them to its middle."
            )
            continue
        if face is not Face.WEB and s.form == "I" and abs(p.off) < s.clear + p.diameter / 2:
            fit.find(f"Safety holes meet the web of the {fitting.member.words}; move them off its middle.")
            continue
        inside = [x for x in base if fitting.left + p.diameter < x < fitting.right - p.diameter]
        if len(inside) < len(base):
            fit.look(
                f"{len(base) - len(inside)} safety holes lie past the end of the {fitting.member.words} and are left "
                f"out."
            )
        for x in inside:
            fit.feature(fitting.member.id, Hole(face, x, p.off, p.diameter))
    return fit.done()


KIND = AttachmentKind(
    "safety holes",
    "Safety holes",
    Params,
    build,
    lambda body: body.section.flanged or body.section.form == "BOX",
    "Holes for the erector's safety cables, above each floor that frames in or at typed places.",
    places=False,
)
