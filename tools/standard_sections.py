"""Sections by their standards' own nominal sizes and formulas, for `make_catalog.py`.

EN 10210-2:2006 and EN 10219-2:2006 annex B: hollow sections; EN 10056-1:1998: angles; DIN 997: gages of channels.
"""

import math
from collections.abc import Iterator

from uncus.catalog.sections import ANGLE_GAGES

DENSITY = 0.00785  # kg/m to a mm2
FILLET = 1 - math.pi / 4
WALLS = (3.0, 3.2, 4.0, 5.0, 6.0, 6.3, 8.0, 10.0, 12.0, 12.5, 14.2, 16.0, 20.0)
# sides or diameter: the least and the greatest wall
SQUARE = {
    40: (3, 5), 50: (3, 6.3), 60: (3, 8), 70: (3, 8), 80: (3, 8), 90: (4, 8), 100: (4, 10), 120: (5, 12.5),
        140: (5, 12.5),
    150: (5, 16), 160: (5, 16), 180: (5, 16), 200: (5, 16), 220: (6, 16), 250: (6, 16), 260: (6, 16), 300: (6, 16),
    350: (8, 16), 400: (10, 20),
}  # fmt: skip
OBLONG = {
    (50, 30): (3, 5), (60, 40): (3, 6.3), (80, 40): (3, 8), (90, 50): (3, 8), (100, 50): (3, 8), (100, 60): (3, 8),
    (120, 60): (4, 10), (120, 80): (4, 10), (140, 80): (4, 10), (150, 100): (4, 12.5), (160, 80): (4, 12.5),
    (180, 100): (4, 12.5), (200, 100): (4, 16), (200, 120): (6, 12.5), (250, 150): (6, 16), (260, 180): (6, 16),
    (300, 200): (6, 16), (350, 250): (6, 16), (400, 200): (8, 16), (450, 250): (8, 16), (500, 300): (10, 20),
}  # fmt: skip
ROUND = {
    33.7: (3, 4), 42.4: (3, 4), 48.3: (3, 5), 60.3: (3, 5), 76.1: (3, 6.3), 88.9: (3, 6.3), 101.6: (3, 10),
        114.3: (3, 10),
    139.7: (3, 12.5), 168.3: (3, 12.5), 177.8: (5, 12.5), 193.7: (5, 16), 219.1: (5, 20), 244.5: (5, 20), 273: (5, 20),
    323.9: (5, 20), 355.6: (6, 20), 406.4: (6, 20), 457: (6, 20), 508: (6, 20),
}  # fmt: skip
# legs: root radius, thicknesses
ANGLES = {
    (20, 20): (3.5, (3,)), (25, 25): (3.5, (3, 4)), (30, 30): (5, (3, 4)), (35, 35): (5, (4,)), (40, 40): (6, (4, 5)),
    (45, 45): (7, (4.5,)), (50, 50): (7, (4, 5, 6)), (60, 60): (8, (5, 6, 8)), (65, 65): (9, (7,)),
        (70, 70): (9, (6, 7)),
    (75, 75): (9, (6, 8)), (80, 80): (10, (8, 10)), (90, 90): (11, (7, 8, 9, 10)), (100, 100): (12, (8, 10, 12)),
    (120, 120): (13, (10, 12)), (130, 130): (14, (12,)), (150, 150): (16, (10, 12, 15, 18)), (160, 160): (17, (15,)),
    (180, 180): (18, (16, 18)), (200, 200): (18, (16, 18, 20, 24)), (250, 250): (18, (28, 35)),
    (30, 20): (4, (3, 4)), (40, 20): (4, (4,)), (40, 25): (4, (4,)), (45, 30): (4.5, (4,)), (50, 30): (5, (5,)),
    (60, 30): (5, (5,)), (60, 40): (6, (5, 6)), (65, 50): (6, (5,)), (70, 50): (7, (6,)), (75, 50): (7, (6, 8)),
    (80, 40): (7, (6, 8)), (80, 60): (8, (7,)), (100, 50): (8, (6, 8)), (100, 65): (10, (7, 8, 10)),
    (100, 75): (10, (8, 10, 12)), (120, 80): (11, (8, 10, 12)), (125, 75): (11, (8, 10, 12)), (135, 65): (11, (8, 10)),
    (150, 75): (12, (9, 10, 12, 15)), (150, 90): (12, (10, 12, 15)), (150, 100): (12, (10, 12)),
    (200, 100): (15, (10, 12, 15)), (200, 150): (15, (12, 15, 18)),
}  # fmt: skip
CHANNEL_GAGES = {80: 25, 100: 30, 120: 30, 140: 35, 160: 35, 180: 40, 200: 40, 220: 45, 240: 45, 260: 50, 280: 50,
    300: 55,
                 320: 58, 350: 58, 380: 60, 400: 60}  # fmt: skip


def corner(t: float, hot: bool) -> tuple[float, float]:
    """Outer and inner corner radius for calculation (EN 10210-2, 10219-2 annex B)."""
    if hot:
        return 1.5 * t, t
    return (2 * t, t) if t <= 6 else (2.5 * t, 1.5 * t) if t <= 10 else (3 * t, 2 * t)


def hollow() -> Iterator[dict[str, object]]:
    sides = [(a, a, limits) for a, limits in SQUARE.items()] + [(a, b, limits) for (a, b), limits in OBLONG.items()]
    for hot in (True, False):
        head = "HF" if hot else "CF"
        for d, b, (least, most) in sides:
            for t in (w for w in WALLS if least <= w <= most):
                outer, inner = corner(t, hot)
                if b < 2 * outer + t:
                    continue
                area = 2 * t * (b + d - 2 * t) - (4 - math.pi) * (outer**2 - inner**2)
                yield _row(f"{head}RHS{d:g}X{b:g}X{t:g}", f"{head}RHS", "BOX", area, float(d), float(b), t, t, outer)
        for across, (least, most) in ROUND.items():
            for t in (w for w in WALLS if least <= w <= most):
                area = math.pi * t * (across - t)
                yield _row(
                    f"{head}CHS{across:g}X{t:g}", f"{head}CHS", "TUBE", area, float(across), float(across), t, t, 0.0
                )


def angles() -> Iterator[dict[str, object]]:
    for (d, b), (root, thicknesses) in ANGLES.items():
        for t in thicknesses:
            toe = root / 2
            area = t * (d + b - t) + FILLET * (root**2 - 2 * toe**2)
            # the fillet that gives the standard's area stands for root and toes; k keeps the root's own
            solved = math.sqrt(root**2 - 2 * toe**2)
            yield _row(f"L{d}X{b}X{t:g}", "L EN", "L", area, float(d), float(b), float(t), float(t), solved) | {
                "k": t + root,
                "k1": t + root,
                "gage": float(ANGLE_GAGES.get(d, 0) if d >= 30 else 0),
            }


def _row(name: str, family: str, form: str, area: float, d: float, b: float, tw: float, tf: float,
    r: float) -> dict[str, object]:  # fmt: skip
    return {"name": name, "family": family, "form": form, "kg_m": area * DENSITY, "area": area, "d": d, "b": b,
        "tw": tw, "tf": tf, "r": r}  # fmt: skip
