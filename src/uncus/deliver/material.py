"""The material file of a package, from its pieces; its layout is `bill.material`'s."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from typing import Any

from uncus.bill.material import NAME, material_bytes, schema_bytes
from uncus.bill.stood import stuff_of
from uncus.deliver.making import File, Making
from uncus.job.records import AdvanceMark
from uncus.shop.pieces import Assembly
from uncus.steel.describe import billed_length
from uncus.steel.flat import gross_weight


def material_rows(making: Making) -> Iterator[dict[str, Any]]:
    """All rows, in the order of marks and ids."""
    advance = {a.piece: a.mark for a in making.job.all(AdvanceMark) if a.part}
    for line in making.lines:
        for assembly in line.assemblies:
            yield {"row": "assembly", "id": assembly.id, "mark": line.mark, "number": 1,
                "description": assembly.member.section if not assembly.is_bought else stuff_of(assembly.main.part),
                "role": str(assembly.member.role), "grade": assembly.main.part.grade,
                "length": round(assembly.main.part.length, 3), "weight": round(assembly.gross, 4),
                "bought": round(assembly.bought, 4) or "", "finish": assembly.main.part.finish,
                "lot": assembly.member.lot}  # fmt: skip
            yield from _parts(making, assembly, advance)
            yield from _bolts(assembly)


def _parts(making: Making, assembly: Assembly, advance: dict[str, str]) -> Iterator[dict[str, Any]]:
    for piece in sorted(assembly.pieces, key=lambda p: p.id):
        part = piece.part
        plate = part.section is None and part.item is None
        # a member's own length is told from its assembly, which has the member's id
        id = f"{piece.id}/part" if piece.main else piece.id
        yield {"row": "part", "id": id, "of": assembly.id, "mark": making.marks.of_part(piece.id), "number": 1,
            "description": stuff_of(part), "role": piece.words, "grade": part.grade, "finish": part.finish,
            "length": round(billed_length(part), 3), "width": round(min(part.width, part.length), 3) if plate else "",
            "thickness": round(part.thickness, 3) if plate else "",
            "weight": round(gross_weight(part), 4) if part.item is None else 0.0,
            "bought": round(part.item.kg, 4) if part.item else "", "lot": assembly.member.lot,
            "advance": advance.get(piece.id, "")}  # fmt: skip


def _bolts(assembly: Assembly) -> Iterator[dict[str, Any]]:
    alike: Counter[tuple[str, str, str, float, str]] = Counter()
    for group in assembly.holds:
        place = "site" if group.field else "shop"
        alike[str(group.kind), group.size, group.grade, round(group.length, 2), place] += len(group.points)
    for (kind, size, grade, length, place), n in sorted(alike.items()):
        yield {"row": "bolt", "of": assembly.id, "number": n, "description": size, "role": kind, "grade": grade,
            "length": length, "place": place}  # fmt: skip


def material(making: Making) -> Iterator[File]:
    """The file and its schema, as files of a package."""
    yield File("", NAME, ".csv", "material", "", material_bytes(material_rows(making)))
    yield File("", f"{NAME}.csv-metadata", ".json", "material schema", "", schema_bytes(f"{NAME}.csv"))
