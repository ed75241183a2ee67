"""The list of rules of checking: a new one is one file and one name here."""

from uncus.check.rule import Rule
from uncus.connect.listed import Listed

RULES: Listed[Rule] = Listed(
    __name__,
    (
        "clashes",
        "made",
        "strength",
        "twice",
        "room",
        "welding",
        "touching",
        "gaps",
        "open_ends",
        "loose",
        "hanging",
        "no_length",
        "edges",
        "fillets",
        "off_lines",
        "askew",
        "heights",
        "deck",
        "shipping",
        "lifting",
        "unmarked",
        "held",
        "topics",
        "grades",
        "lengths",
        "stocked",
        "camber",
        "bends",
        "headroom",
        "vents",
        "rods",
        "joists",
        "hands",
        "parts",
    ),
)
