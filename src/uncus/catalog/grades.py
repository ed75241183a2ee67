"""Steel grades, bolt grades and electrodes, with the strengths that checks use (MPa)."""

import msgspec

from uncus.catalog.sections import Form, Section

KSI = 6.894757


class Grade(msgspec.Struct, frozen=True):
    """A steel grade: yield and ultimate strength in MPa, and what it is made as."""

    name: str
    fy: float
    fu: float
    forms: tuple[str, ...]


GRADES = {
    grade.name: grade
    for grade in (
        Grade("A992", 50 * KSI, 65 * KSI, ("I", "T")),
        Grade("A36", 36 * KSI, 58 * KSI, ("U", "L", "PLATE", "I", "T", "ROUND")),
        Grade("A572-50", 50 * KSI, 65 * KSI, ("PLATE", "I", "U", "L", "T", "ROUND")),
        Grade("A500-C", 50 * KSI, 62 * KSI, ("BOX", "TUBE")),
        Grade("A53-B", 35 * KSI, 60 * KSI, ("TUBE",)),
        Grade("S235JR", 235, 360, ("I", "U", "L", "T", "PLATE", "ROUND")),
        Grade("S275JR", 275, 430, ("I", "U", "L", "T", "PLATE", "ROUND")),
        Grade("S355J2", 355, 510, ("I", "U", "L", "T", "PLATE", "ROUND")),
        Grade("S355J2H", 355, 510, ("BOX", "TUBE")),
    )
}

# Ultimate strength of bolts: ASTM F3125 and A307, ISO 898-1
BOLT_GRADES = {"A325": 120 * KSI, "A490": 150 * KSI, "A307": 60 * KSI, "8.8": 800.0, "10.9": 1000.0}
ROD_GRADES = {"F1554-36": 58 * KSI, "F1554-55": 75 * KSI, "F1554-105": 125 * KSI, "8.8": 800.0}
ELECTRODES = {"E70": 70 * KSI, "G42": 500.0}  # AWS A5.18; ISO 14341-A


def electrode_words(name: str) -> str:
    """An electrode as sheets call it: E70XX as AWS names a class, G42 as ISO does."""
    return f"{name}XX" if name.startswith("E") else name


def plate_grades() -> tuple[str, ...]:
    """The grades that plates come in."""
    return tuple(g.name for g in GRADES.values() if "PLATE" in g.forms)


_USUAL = {
    Form.I: "A992",
    Form.CHANNEL: "A36",
    Form.ANGLE: "A36",
    Form.TEE: "A992",
    Form.BOX: "A500-C",
    Form.TUBE: "A500-C",
    Form.FLAT: "A36",
    Form.ROUND: "A36",
}
_EUROPEAN = dict.fromkeys(("IPE", "HEA", "HEB", "HEM", "UPN", "FL", "RD", "L EN"), "S275JR") | dict.fromkeys(
    ("HFRHS", "HFCHS", "CFRHS", "CFCHS"), "S355J2H"
)  # EN 10025-2; EN 10210-1 and EN 10219-1


def usual_grade(section: Section) -> str:
    """The grade a section is bought in where nothing is said."""
    if section.family in _EUROPEAN:
        return _EUROPEAN[section.family]
    return "A53-B" if section.family == "PIPE" else _USUAL[section.form]
