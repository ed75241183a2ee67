"""Bends tighter, or legs shorter, than they can be made cold."""

from __future__ import annotations

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Over, Rule
from uncus.frame.placement import point_of
from uncus.steel.joint import Severity
from uncus.steel.tooling import too_tight


def each(looked: Looked, _: NoValues, id: str) -> Iterator[Found]:
    for piece in looked.assemblies[id].pieces:
        for short in too_tight(piece.part):
            at = point_of(piece.placement.to_model(piece.part.centre))
            text = f"The {piece.words}: {short.said(looked.project.units)}; bend it wider, or make the leg longer."
            form = form_of(short.what, round(short.is_, 1), round(short.least, 1), piece.part.grade)
            yield Found("bends", (f"{piece.id}/{short.what}",), text, Severity.LOOK, at, form)
            break


KIND = Rule("bends", "Bends that no tool makes", "Inside radii and legs of bent plates that are less than their grade, "
    "thickness and tool allow.", each, Over.PIECES, state=lambda looked: looked.project.units)  # fmt: skip
