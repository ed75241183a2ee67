"""The viewer: a package's model, pieces, lists and sheets as one HTML page that opens from disk and needs nothing else.

The page is `web/viewer.html` with the script that `tools/web` makes of three.js and ours, and the package's data in it:
packed (RFC 1952, base 64), so that no character of it is markup; its words are put in as text, its sheets as pictures.
Its policy lets its own script run, known by its sum, and nothing else (Content Security Policy Level 3, W3C).
"""

from __future__ import annotations

import base64
import gzip
import hashlib
import re
import zlib
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import cache, lru_cache
from importlib.resources import files
from typing import Any

import manifold3d
import msgspec
import numpy as np

from uncus.bill.shown import head_words, shown
from uncus.bill.stood import stuff_of
from uncus.bill.table import Table, Unit
from uncus.catalog.bolts import bolt_sizes
from uncus.deliver.ifc_shapes import along, discs, shank
from uncus.deliver.making import File, Making
from uncus.draw.entries import assemblies
from uncus.draw.entry import Entry
from uncus.draw.sheet import Sheet
from uncus.job.errors import JobError
from uncus.shop.pieces import Assembly
from uncus.standin.noticeboard import PAGE, with_changes
from uncus.steel.joint import FastenerKind, Fasteners
from uncus.steel.part import Part
from uncus.steel.solid import plain_mesh, view_mesh
from uncus.units import Units, counted, format_weight

ASIDE = "aside"  # the folder of what is kept for the page and not written by itself
LARGEST = 14_500_000  # bytes of a page; sheets are left out of a larger one, and it says so
_DATA = re.compile(rb'<script type="text/plain" id="data">([^<]*)</script>')
_SIDES = 6  # of a bolt's shank


def sheets_aside(name: str, kind: str, sheets: Sequence[Sheet]) -> Iterator[File]:
    """The pictures of an entry's sheets, kept for the page."""
    from uncus.deliver.svg import svg_text

    for sheet in sheets:
        yield File(ASIDE, sheet.name, ".svg", kind, name, svg_text(sheet).encode())


def page(making: Making, entries: Sequence[Entry], pictures: Iterable[File], tables: Iterable[Table]) -> bytes:
    """The page of what goes: its pieces, the sheets that were drawn, its lists, and what is different since the
    package that its receiver had before (`making.changes`)."""
    drawn = sorted(pictures, key=lambda f: (f.kind, f.name))
    content = _content(making, entries, drawn, tables)
    titles = {e.name: e.title for e in entries}
    content["sheets"] = {f.name: {"kind": f.kind, "title": f"{f.name} {titles.get(f.mark, '')}".strip(),
        "svg": f.data.decode()} for f in drawn}  # fmt: skip
    whole = _filled(content, making)
    if len(whole) > LARGEST:
        content["sheets"] = {}
        content["noSheets"] = (
            "The sheets would make this page too large and are left out; look for them as PDF beside it."
        )
        whole = _filled(content, making)
    return whole


def _filled(content: Mapping[str, Any], making: Making) -> bytes:
    packed = base64.b64encode(gzip.compress(msgspec.json.encode(content), 9, mtime=0))
    return with_changes(_empty().replace(b"%DATA%", packed), making.changes)


@cache
def _empty() -> bytes:
    """The page without data."""
    web = files(__package__) / "web"
    script = (web / "viewer.js").read_bytes().strip()
    own = base64.b64encode(hashlib.sha256(script).digest()).decode()
    policy = f"default-src 'none'; script-src 'sha256-{own}'; style-src 'unsafe-inline'; img-src data:; font-src data:"
    found = (web / "viewer.html").read_bytes()
    for place, data in ((b"%POLICY%", policy.encode()), (b"%FONT%", base64.b64encode(_face())),
            (b"%SCRIPT%", script)):  # fmt: skip
        found = found.replace(place, data)
    return found


def _face() -> bytes:
    return (files("uncus") / "fonts" / "IBMPlexSans-Regular.ttf").read_bytes()


# -- what is in it ------------------------------------------------------------------------------------------------
def _content(
    making: Making, entries: Sequence[Entry], drawn: Sequence[File], tables: Iterable[Table]
) -> dict[str, Any]:
    units, project = making.job.project.units, making.job.project
    own = [(line.mark, a) for line in making.lines for a in line.assemblies]
    sheets, pages = defaultdict[str, list[str]](list), defaultdict[str, list[str]](list)
    for picture in drawn:
        pages[picture.mark].append(picture.name)
    revisions = {id: e.revision for e in entries if e.kind == assemblies.KIND for id in e.pieces}
    for entry in sorted(entries, key=lambda e: e.kind == "erection"):  # its own first
        for id in entry.pieces:
            sheets[id] += pages[entry.name]
    model = _model([a for _, a in own])
    steel = sum(a.gross for _, a in own)
    return {"job": project.name, "number": project.number,
        "about": f"{counted(len(own), 'piece')}, {format_weight(steel, units)}", **model,
        "pieces": [_piece(making, mark, a, sheets[a.id], revisions.get(a.id, ""), units) for mark, a in own],
        "lists": [_list(table, units) for table in tables]}  # fmt: skip


def _piece(making: Making, mark: str, a: Assembly, sheets: list[str], revision: str, units: Units) -> dict[str, Any]:
    parts = dict.fromkeys(m for p in a.pieces if (m := making.marks.of_part(p.id)))
    return {"id": a.id, "mark": mark, "what": stuff_of(a.main.part), "role": str(a.member.role), "lot": a.member.lot,
        "finish": a.main.part.finish, "kg": format_weight(a.gross, units), "sheets": sheets, "parts": list(parts),
        "revision": revision}  # fmt: skip


def _list(table: Table, units: Units) -> dict[str, Any]:
    return {"title": table.title, "heads": [head_words(c.words, c.unit, units) for c in table.columns],
        "right": [c.unit is not Unit.TEXT for c in table.columns],
        "rows": [[str(shown(cell, c.unit, units)) for cell, c in zip(row, table.columns, strict=True)]
            for row in table.rows]}  # fmt: skip


def _model(own: Sequence[Assembly]) -> dict[str, Any]:
    """Each shape once, and where it stands: `places` are axes by row and origin, 12 numbers each, about `origin`."""
    shapes: dict[Part | tuple[object, ...], int] = {}
    bodies: list[dict[str, Any]] = []
    of: list[int] = []
    which: list[int] = []
    axes: list[Any] = []
    at: list[Any] = []
    for number, assembly in enumerate(own):
        for piece in assembly.pieces:
            if piece.part not in shapes:
                shapes[piece.part] = len(bodies)
                bodies.append(_part_body(piece.part))
            of.append(number)
            which.append(shapes[piece.part])
            axes.append(piece.placement.axes)
            at.append(piece.placement.origin)
        for group in assembly.holds:
            key = (group.kind, group.size, group.length, group.grip)
            if key not in shapes:
                shapes[key] = len(bodies)
                bodies.append({**_body(*_of_fastener(group)), "bolt": True})
            turned = along(group.axis)
            for point in group.points:
                of.append(number)
                which.append(shapes[key])
                axes.append(turned)
                at.append(np.array(point))
    origin = np.round(np.mean(at, axis=0)) if at else np.zeros(3)
    places = np.hstack([np.array(axes).reshape(-1, 9), np.array(at).reshape(-1, 3) - origin])
    return {"shapes": bodies, "places": _b64(places.astype("<f4")), "of": _b64(np.array(of, dtype="<u4")),
        "shape": _b64(np.array(which, dtype="<u4")), "origin": origin.tolist()}  # fmt: skip


def _part_body(part: Part) -> dict[str, Any]:
    """A part as it is, and without its holes for when it is far away."""
    near, far = view_mesh(part), plain_mesh(part)
    made = _body(near.points, near.triangles)
    if 2 * len(far.triangles) < len(near.triangles):
        made["far"] = _body(far.points, far.triangles)
    return made


@lru_cache(maxsize=512)
def _fastener_body(kind: FastenerKind, size: str, length: float, grip: float, d: float) -> tuple[Any, Any]:
    bodies = [manifold3d.Manifold.cylinder(length, d / 2, d / 2, _SIDES)]
    if kind is FastenerKind.BOLT:
        for disc in discs(bolt_sizes()[size], grip):
            body = manifold3d.Manifold.cylinder(disc.deep, disc.radius, disc.radius, 6 if disc.six else 2 * _SIDES)
            bodies.append(body.translate((0.0, 0.0, disc.at)))
    found = manifold3d.Manifold.compose(bodies).to_mesh()
    return np.array(found.vert_properties[:, :3], dtype=np.float64), np.array(found.tri_verts)


def _of_fastener(group: Fasteners) -> tuple[Any, Any]:
    return _fastener_body(group.kind, group.size, group.length, group.grip, shank(group))


def _body(points: Any, triangles: Any) -> dict[str, Any]:
    return {"p": _b64(np.round(points, 2).astype("<f4")), "t": _b64(triangles.astype("<u4"))}


def _b64(array: Any) -> str:
    return base64.b64encode(np.ascontiguousarray(array).tobytes()).decode()


def pieces_in(data: bytes) -> set[str]:
    """The ids of the pieces that a page shows. Raises JobError where it is no whole page of ours."""
    found = _DATA.search(data)
    try:
        packed = gzip.decompress(base64.b64decode(found[1] if found else b"", validate=True))
        return {one.id for one in msgspec.json.decode(packed, type=_Shown).pieces}
    except (OSError, EOFError, ValueError, zlib.error, msgspec.MsgspecError):
        raise JobError(f"{PAGE} is no whole page.") from None


class _Piece(msgspec.Struct, frozen=True):
    id: str


class _Shown(msgspec.Struct, frozen=True):
    pieces: tuple[_Piece, ...]


def page_file(data: bytes) -> File:
    """The page as a file of a package, at its usual name."""
    stem, _, ending = PAGE.rpartition(".")
    return File("", stem, f".{ending}", "viewer", "", data)
