"""Directly welded moment joint: the beam's flanges butt-welded to the column, its web bolted to a tab."""

from typing import Annotated

import msgspec

from uncus.connect import params as p_
from uncus.connect import shear_tab
from uncus.connect.coping import clearing
from uncus.connect.fitup import Fitup, axes_of, rectangle
from uncus.connect.flange_plates import square_to_flange
from uncus.connect.kind import Joint, Kind
from uncus.connect.meeting import Meeting
from uncus.connect.stiffening import (
    Continuity,
    ContinuityThickness,
    Doubler,
    DoublerThickness,
    stiffen,
)
from uncus.connect.strength import moment
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.steel.features import Face, Notch
from uncus.steel.joint import Contribution


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
    m = square_to_flange(joint, fit)
    if isinstance(m, Contribution):
        return m
    s = m.body.section
    cleared = clearing(fit, m, p.root, flush=True)
    if isinstance(cleared, str):
        return fit.refused(cleared)
    long, deep = p.access or max(38.0, 1.5 * s.tw), max(19.0, s.tw, s.k - s.tf + 3)
    dropped = cleared._replace(top=s.tf + deep, bottom=s.tf + deep)
    asked = shear_tab.Params(rows=p.rows, thickness=p.tab, side=p.side, bolt=p.bolt, pitch=p.pitch)
    tab = shear_tab.set_out(fit, m, dropped, asked)
    if isinstance(tab, str):
        return fit.refused(tab)
    cleared.apply(fit, m)
    shear_tab.tab(fit, m, tab, asked)
    _access(fit, m, cleared.end, long, deep)
    _flanges(fit, m, p, cleared.end)
    e = m.trace(0.0)
    flanges = [("top", m.top(e) - s.tf / 2, s.tf), ("bottom", m.bottom(e) + s.tf / 2, s.tf)]
    stiffen(fit, m, p, flanges)
    if s.b / 2 > m.surface.high + 0.5:
        fit.look(f"The flanges of the {m.body.words} are wider than those of the {m.surface.body.words}.")
    return fit.done()


def _access(fit: Fitup, m: Meeting, end: float, long: float, deep: float) -> None:
    """Weld access holes in the web at both flanges (AISC 360 J1.6: at least 1 1/2 web thicknesses long, 3/4 in. high)."""
    s = m.body.section
    for sign in (1.0, -1.0):
        inside = sign * (s.d / 2 - s.tf)
        flat = [(end - 30.0, inside), (end + long, inside), (end + long * 0.6, inside - sign * deep), (end - 30.0, inside - sign * deep)]  # fmt: skip
        fit.feature(m.body.id, Notch(Face.WEB, tuple(m.local(e, z) for e, z in flat)))


def _flanges(fit: Fitup, m: Meeting, p: Params, end: float) -> None:
    """The groove weld of each flange, on a backing bar under it."""
    s, beam, support = m.body.section, m.body, m.surface.body
    e0 = m.trace(0.0)
    for words, q in (("top", m.top(e0)), ("bottom", m.bottom(e0) + s.tf)):
        path = [m.model(end, q, y) for y in (-s.b / 2, s.b / 2)]
        fit.weld(f"{words} flange", s.tf, path, (support.id, beam.id), 1, field=True, form=fit.GROOVE)
        if p.backing == "none":
            continue
        bar, wide, half = 6.35, 25.4, s.b / 2 + 25.4
        under = q - s.tf
        frame = Placement(m.model(0.0, under - bar / 2, 0.0), axes_of(m.away, -beam.frame.y * m.sign))
        id = fit.plate(f"{words} backing", frame, rectangle(e0, e0 + wide, -half, half), bar, beam.id, "backing bar")
        tack = [m.model(e0 + wide, under, y) for y in (-s.b / 2 + 5, s.b / 2 - 5)]
        fit.weld(f"{words} backing", 5.0, tack, (beam.id, id), 1)


KIND = Kind(
    "welded moment",
    "Welded moment joint",
    Params,
    build,
    "The beam's flanges groove-welded to the column on site, its web bolted to a tab, with access holes and backing bars.",
    checks=moment.welded_moment,
)
