"""Calculation sheets: a joint's loads and limit states as a PDF that can be followed by hand."""

from __future__ import annotations

import io
from collections.abc import Sequence
from functools import cache
from importlib.resources import files
from typing import NamedTuple

from reportlab.lib import colors
from reportlab.lib.pagesizes import A4, letter
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import KeepTogether, PageBreak, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from uncus.connect.kinds import KINDS
from uncus.connect.strength.design import Design, says
from uncus.connect.strength.limit import Limit, kind_of, pretty, shown
from uncus.job.forms import fields, shown_value
from uncus.job.job import Job
from uncus.job.records import Connection, Grid, Member
from uncus.mark.marking import Marks
from uncus.shop.shop import Shop
from uncus.shop.whereabouts import whereabouts
from uncus.units import Units
from uncus.words import quoted

_INK, _QUIET, _RULE = colors.HexColor("#1F2A30"), colors.HexColor("#5A6B74"), colors.HexColor("#C9D2D6")


class Calculated(NamedTuple):
    """One joint to print: what it is, where, the values of its kind as (words, value), and its design."""

    title: str
    place: str
    values: tuple[tuple[str, str], ...]
    findings: tuple[str, ...]
    design: Design


def sheets_of(job: Job, shop: Shop, connections: Sequence[Connection]) -> list[Calculated]:
    """Joints as their calculation sheets show them; what carries nothing is left out."""
    marks, grid = Marks(job, shop.carried), next(iter(job.all(Grid)), None)
    found = []
    for c in connections:
        made, member = shop.design(c.id), job.get(c.member, Member)
        assembly = shop.assemblies.get(c.member)
        if made is None or member is None or assembly is None:
            continue
        held = job.get(c.support, Member) if c.support else None
        kind = KINDS.get(c.kind)
        title = f"{kind.words if kind else quoted(c.kind)}, {member.role} {member.section}"
        title += f" to {held.role} {held.section}" if held else ""
        mark = marks.of_assembly(member.id)
        place = f"{c.end} end{f' of {mark}' if mark else ''}, {whereabouts(grid, assembly)}"
        about = fields(kind.params) if kind else {}
        values = tuple(
            (about[k].words, shown_value(about[k], v, job.project.units)) for k, v in c.params.items() if k in about
        )
        said = tuple(f.text for f in shop.said(c.id))
        found.append(Calculated(title, place, values, said, made))
    return found


@cache
def _faces() -> tuple[str, str]:
    """Our interface's faces, which have the Greek letters that formulas need; registered once."""
    for name in ("Regular", "SemiBold"):
        data = (files("uncus") / "fonts" / f"IBMPlexSans-{name}.ttf").read_bytes()
        pdfmetrics.registerFont(TTFont(f"Plex{name}", io.BytesIO(data)))
    return "PlexRegular", "PlexSemiBold"


def _indexed(text: str) -> str:
    """Indices and powers in small print, near their line."""
    return text.replace("<sub>", '<sub size="6.5" rise="2">').replace("<super>", '<super size="6.5" rise="3.5">')


def calculation_pdf(job: str, joints: Sequence[Calculated]) -> bytes:
    """A sheet or more a joint: loads, a summary with the governing limit first, then each limit worked out."""
    plain, strong = _faces()
    text = ParagraphStyle("text", fontName=plain, fontSize=9, leading=13, textColor=_INK)
    styles = {
        "text": text,
        "title": ParagraphStyle("title", text, fontName=strong, fontSize=15, leading=19, spaceAfter=2),
        "quiet": ParagraphStyle("quiet", text, textColor=_QUIET),
        "heading": ParagraphStyle(
            "heading", text, fontName=strong, fontSize=10, leading=14, spaceBefore=8, spaceAfter=2
        ),
        "line": ParagraphStyle("line", text, leftIndent=6 * mm),
    }
    imperial = not joints or joints[0].design.code.units is Units.IMPERIAL
    out = io.BytesIO()
    page = letter if imperial else A4
    document = SimpleDocTemplate(
        out, pagesize=page, leftMargin=20 * mm, rightMargin=18 * mm, topMargin=20 * mm, bottomMargin=18 * mm,
        title=f"Calculations, {job}", creator="Uncus", invariant=1,
    )  # fmt: skip
    story: list[object] = []
    for n, joint in enumerate(joints):
        if n:
            story.append(PageBreak())
        story += _joint(joint, styles)

    def furniture(canvas: Canvas, doc: SimpleDocTemplate) -> None:
        canvas.setFont(plain, 8)
        canvas.setFillColor(_QUIET)
        canvas.drawString(20 * mm, page[1] - 12 * mm, job)
        canvas.drawRightString(page[0] - 18 * mm, page[1] - 12 * mm, f"Calculations, page {doc.page}")

    document.build(story or [Paragraph("No joint was picked.", text)], onFirstPage=furniture, onLaterPages=furniture)
    return out.getvalue()


def _joint(joint: Calculated, styles: dict[str, ParagraphStyle]) -> list[object]:
    design = joint.design
    units = design.code.units
    story: list[object] = [Paragraph(joint.title, styles["title"]), Paragraph(joint.place, styles["quiet"])]
    loads = design.loads
    given = [
        (words, shown(value, kind, units))
        for words, value, kind in (
            ("Shear", loads.shear, "force"),
            ("Axial, tension positive", loads.axial, "force"),
            ("Moment", loads.moment, "moment"),
        )
        if value
    ]
    said = (
        "; ".join(f"{words.lower()} {value}" for words, value in given)
        or "no load is known: the limits show capacities only"
    )
    story.append(Paragraph(f"{design.code.name}. Loads ({design.source}): {said}.", styles["text"]))
    if joint.values:
        story.append(
            Paragraph("; ".join(f"{words.lower()} {value}" for words, value in joint.values) + ".", styles["text"])
        )
    story += [Paragraph(f"To be looked at: {words}", styles["text"]) for words in joint.findings]
    story += [Paragraph(f"NOT CHECKED: {words}.", styles["text"]) for words in design.unchecked]
    if not design.limits:
        return story
    story += [Paragraph("Summary, the governing limit first", styles["heading"]), _summary(design, styles)]
    story.append(Paragraph("Working", styles["heading"]))
    for n, limit in enumerate(design.limits, 1):
        story.append(KeepTogether(_worked(n, limit, units, styles)))
    return story


def _summary(design: Design, styles: dict[str, ParagraphStyle]) -> Table:
    units = design.code.units
    rows: list[list[object]] = [["", "Limit state", "Where", "Clause", "Demand", "Capacity", "Used", ""]]
    for n, one in enumerate(design.limits, 1):
        rows.append(
            [
                str(n),
                Paragraph(one.words, styles["text"]),
                Paragraph(one.where, styles["text"]),
                Paragraph(one.clause, styles["text"]),
                shown(one.demand, one.kind, units),
                shown(one.capacity, one.kind, units),
                f"{one.used:.2f}",
                says(one.used),
            ]
        )
    table = Table(rows, colWidths=[7 * mm, 38 * mm, 36 * mm, 23 * mm, 21 * mm, 21 * mm, 11 * mm, 17 * mm], repeatRows=1)
    face = styles["text"].fontName
    table.setStyle(
        TableStyle(
            [
                ("FONT", (0, 0), (-1, -1), face, 8.5),
                ("TEXTCOLOR", (0, 0), (-1, 0), _QUIET),
                ("VALIGN", (0, 0), (-1, -1), "TOP"),
                ("ALIGN", (4, 0), (6, -1), "RIGHT"),
                ("LINEBELOW", (0, 0), (-1, -1), 0.4, _RULE),
                ("TOPPADDING", (0, 0), (-1, -1), 2),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
            ]
        )
    )
    return table


def _worked(n: int, limit: Limit, units: Units, styles: dict[str, ParagraphStyle]) -> list[object]:
    lines: list[object] = [Paragraph(f"{n}. {limit.words}, {limit.where} ({limit.clause})", styles["heading"])]
    kind = limit.kind
    for step in limit.steps:
        symbol = pretty(step.symbol)
        result = shown(step.result, kind_of(step.symbol), units)
        body = f"{symbol} = {step.written(units, False)} = {step.written(units, True)} = {result}"
        lines.append(Paragraph(_indexed(body + (f"  ({step.note})" if step.note else "")), styles["line"]))
    last = limit.steps[-1]
    nominal, capacity = shown(last.result, kind, units), shown(limit.capacity, kind, units)
    if limit.factor is not None:
        name, value = limit.factor
        symbol = pretty(last.symbol)
        if name == "phi":
            lines.append(Paragraph(_indexed(f"φ{symbol} = {value:g} × {nominal} = {capacity}"), styles["line"]))
        else:
            lines.append(Paragraph(_indexed(f"{symbol}/Ω = {nominal} / {value:g} = {capacity}"), styles["line"]))
    used = f"{shown(limit.demand, kind, units)} / {capacity} = {limit.used:.2f}: {says(limit.used)}"
    lines += [Paragraph(used, styles["line"]), Spacer(1, 2 * mm)]
    return lines
