"""Directly welded moment joint: the beam's flanges butt-welded to the column, its web bolted to a tab."""

import math
from typing import Annotated

import msgspec

from uncus.connect import params as p_
from uncus.connect import shear_tab
from uncus.connect.coping import clearing
from uncus.connect.fitup import Fitup, axes_of
from uncus.connect.flange_plates import before_column
from uncus.connect.kind import Joint, Kind, up_to
from uncus.connect.meeting import Meeting
from uncus.connect.moment_at_web import behind, web_end, web_outline, weld_in_column
from uncus.connect.protected import beam_depth
from uncus.connect.stiffening import (
    Continuity,
    ContinuityThickness,
    Doubler,
    DoublerThickness,
    stiffen,
)
from uncus.connect.strength import missing, moment
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.steel.features import EndCut, Face, Notch
from uncus.steel.joint import Contribution

_PAST = 25.4  # mm from a column's flanges to the beam's end: plates run out 3/4 in. past them (AISC Manual part 12)


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    root: Annotated[float, About("Root opening", low=0, high=13, help="From the column to the flanges' ends.")] = 6.35
    backing: Annotated[str, About("Backing bars", unit="choice", choices=("left in place", "none"))] = "left in place"
    access: Annotated[
        float | None, About("Access holes' length", low=20, high=120, help="Along the web, for the flange welds.")
    ] = None
    bolt: p_.Bolt = None
    rows: p_.Rows = None
    pitch: p_.Pitch = None
    tab: Annotated[float | None, About("Tab thickness", low=4, high=60)] = None
    side: Annotated[str | None, About("Side of the web", unit="choice", choices=("near", "far"))] = None
    continuity: Continuity = "both flanges"
    continuity_thickness: ContinuityThickness = None
    doubler: Doubler = "none"
    doubler_thickness: DoublerThickness = None


def build(joint: Joint) -> Contribution:
    """End cut, access holes, backing bars, flange welds, the web's tab; a finding alone where they cannot be made."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    m = before_column(joint, fit)
    if isinstance(m, Contribution):
        return m
    s = m.body.section
    at_web = not m.surface.flange
    cleared = clearing(fit, m, p.root, bevel=m.skewed, flush=True, past=at_web)
    if isinstance(cleared, str):
        return fit.refused(cleared)
    if at_web:  # a root's opening off plates that end a little past the column's flanges
        cleared = web_end(m, cleared, _PAST)
    long, deep = p.access or max(38.0, 1.5 * s.tw), max(19.0, s.tw, s.k - s.tf + 3)
    dropped = cleared._replace(top=s.tf + deep, bottom=s.tf + deep)
    asked = shear_tab.Params(rows=p.rows, thickness=p.tab, side=p.side, bolt=p.bolt, pitch=p.pitch)
    tab = shear_tab.set_out(fit, m, dropped, asked)
    if isinstance(tab, str):
        return fit.refused(tab)
    cleared.apply(fit, m)
    shear_tab.tab(fit, m, tab, asked)
    _access(fit, m, cleared.cut, long, deep)
    held = _web_plates(fit, m, p, cleared.cut, tab.y) if at_web else {}
    _flanges(fit, m, p, cleared.cut, held)
    if not at_web:
        levels = [(words, sign * (s.d - s.tf) / 2) for words, sign in (("top", 1.0), ("bottom", -1.0))]
        stiffen(fit, m, p, [(words, m.flat(m.side_x(0.0, z), z)[1], s.tf) for words, z in levels])
        if s.b / 2 / math.cos(math.radians(m.skew)) > m.surface.high + 0.5:
            fit.look(f"The flanges of the {m.body.words} are wider than those of the {m.surface.body.words}.")
    return fit.done()


def _access(fit: Fitup, m: Meeting, cut: EndCut, long: float, deep: float) -> None:
    """Weld access holes in the web at both flanges (AISC 360 J1.6: at least 1 1/2 web thicknesses long, 3/4 in.
    high)."""
    s = m.body.section
    for sign in (1.0, -1.0):
        inside = sign * (s.d / 2 - s.tf)
        end = cut.x(0.0, inside)
        steps = [(-30.0, 0.0), (long, 0.0), (long * 0.6, deep), (-30.0, deep)]
        fit.feature(m.body.id, Notch(Face.WEB, tuple((end + m.sign * x, inside - sign * z) for x, z in steps)))


def _web_plates(fit: Fitup, m: Meeting, p: Params, cut: EndCut, tab: float) -> dict[str, str]:
    """Plates between a column's flanges in line with the beam's, at whose edges those are welded; their ids."""
    s, beam = m.body.section, m.body
    t = fit.stocked(s.tf + 3.0)
    made, levels = {}, []
    # flush with the undersides of the beam's flanges, where the backing bars lie
    for words, z in (("top", s.d / 2 - s.tf + t / 2), ("bottom", (t - s.d) / 2)):
        start = m.side_x(0.0, z)
        far = m.sign * (cut.x(0.0, z) - start) - p.root
        frame = Placement(beam.frame.to_model((start, 0.0, z)), axes_of(m.sign * beam.frame.x, -m.sign * beam.frame.y))
        shape = web_outline(m, up_to(s.b + 25.4, fit.inch, 0.5, 10), far)
        made[words] = fit.plate(f"{words} plate", frame, shape, t, m.surface.body.id, "flange plate")
        weld_in_column(fit, m, words, frame, shape, t, made[words], tab)
        levels.append((words, z, t))
    behind(fit, m, p, levels)
    return made


def _flanges(fit: Fitup, m: Meeting, p: Params, cut: EndCut, held: dict[str, str]) -> None:
    """The groove weld of each flange, to the column or to what is `held` to it, on a backing bar under it."""
    s, beam = m.body.section, m.body
    bar, wide, half = 6.35, 25.4, s.b / 2 + 25.4
    for words, z in (("top", s.d / 2), ("bottom", -s.d / 2 + s.tf)):
        path = [beam.frame.to_model((cut.x(y, z), y, z)) for y in (-s.b / 2, s.b / 2)]
        to = held.get(words, m.surface.body.id)
        fit.weld(f"{words} flange", s.tf, path, (to, beam.id), 1, field=True, form=fit.GROOVE)
        if p.backing == "none":
            continue
        under = z - s.tf
        back = 12.7 if held else 0.0  # a bar lies under both edges

        def near(y: float, faces: tuple[float, float] = (under, under - bar), back: float = back) -> float:
            sides = [m.sign * cut.x(y, z) - p.root if held else m.sign * m.side_x(y, z) for z in faces]
            return max(sides) - back

        frame = Placement(beam.frame.to_model((0.0, 0.0, under - bar / 2)),
            axes_of(m.sign * beam.frame.x, -m.sign * beam.frame.y))  # fmt: skip
        shape = [(near(y) + x, -m.sign * y) for y, x in ((-half, 0.0), (-half, wide), (half, wide), (half, 0.0))]
        id = fit.plate(f"{words} backing", frame, shape, bar, beam.id, "backing bar")
        tack = [beam.frame.to_model((m.sign * (near(y) + wide), y, under)) for y in (-s.b / 2 + 5, s.b / 2 - 5)]
        fit.weld(f"{words} backing", 5.0, tack, (beam.id, id), 1)


KIND = Kind(
    "welded moment",
    "Welded moment joint",
    Params,
    build,
    "The beam's flanges groove-welded on site to the column, or to plates between its flanges, its web bolted to a "
    "tab.",
    protects=beam_depth,
    checks=moment.welded_moment,
    missing=(
        missing.STIFFENED_FLANGES,
        missing.CONTINUITY_WELDS,
        missing.COLUMN_WEB,
    ),
)
