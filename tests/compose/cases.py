"""Things of many parts as they are asked for: kind, points, values."""

STRAIGHT = ((0, 0, 0), (4600, 0, 3048))
PIPE = ("HSS2X2X1/4",) * 3
SQUARE = {"top": PIPE[0], "posts": PIPE[1], "middle": PIPE[2]}
UP = ((0, 0, 0), (3000, 0, 0), (5500, 0, 1700), (6800, 0, 1700), (6800, 2000, 1700))
WINDING = ((0, 0, 0), (1000, 0, 0), (0, 0, 3048))
DUCT = ((0, 0, 1000), (100, 60, 400))

CASES = [
    ("stair", STRAIGHT, {}),
    ("stair", STRAIGHT, {"held": "bolted", "tread": "plate"}),
    ("stair", ((0, 0, 0), (-2500, 3500, 2600)), {"tread": "pan for concrete", "stringer": "HSS10X4X1/4"}),
    ("stair", STRAIGHT, {"tread": "grating", "tread_thickness": 31.75, "held": "bolted", "stringer": "PL1/2X12"}),
    ("stair", STRAIGHT, {"foot": "in a pit", "head": "against a face, with an end plate"}),
    ("stair", STRAIGHT, {"head": "on the landing, turned level"}),
    *(("stair with a landing", ((0, 0, 0), (1000, 300, 0), (0, 0, 3500)), {"turns": turns})
        for turns in ("straight on", "a quarter to the left", "half round to the right")),
    ("winding stair", WINDING, {}),
    ("winding stair", WINDING, {"hand": "to the right", "outer_stringer": "no"}),
    ("winding stair", WINDING, {"about": "between two stringers", "turn": 180.0, "stringer": "C10X15.3",
        "outer": 1800.0}),
    ("winding stair", WINDING, {"about": "between two stringers", "turn": 120.0, "stringer": "HSS10X4X1/4",
        "outer": 2500.0, "inner": 1200.0, "tread": "plate", "lip": 0.0, "hand": "to the right"}),
    ("rail", UP[:2], {"first_end": "to a wall, with a plate", "toe": 100.0}),
    ("rail", UP, {"first_end": "returned to the middle rail", "last_end": "returned to the middle rail", "rails": 2}),
    ("rail", UP, {**SQUARE, "between": "bars"}),
    ("rail", UP[:2], {**SQUARE, "between": "panels", "toe": 100.0, "foot": "plate with two bolts"}),
    ("rail", ((0, 0, 0), (3000, 0, 0), (50, 360, 0)), {}),  # 7 degrees
    ("rail", ((0, 0, 0), (3000, 0, 0), (6000, 105, 0)), {}),  # 178 degrees
    ("rail", ((0, 0, 0), (4000, 0, 0), (4000, 3000, 0), (0, 3000, 0)), {"closed": True, "aside": -150.0}),
    ("rail", UP[:2], {"foot": "plate on the side", "aside": -200.0}),
    ("rail", UP, {"corners": "parted"}),
    ("rail", UP, {"corners": "bent", "from_end": 300.0}),
    ("rail", (*UP[:2], (3000, -2500, 0)), {**SQUARE, "corners": "bent", "bent_to": 200.0, "from_end": 300.0}),
    ("rail", UP[:2], {"gates": "1", "spacing": 1200.0, "last_end": "to a wall, with a plate"}),
    ("rail", UP[:2], {**SQUARE, "between": "bars", "gates": "2", "spacing": 900.0}),
    ("rail", (*UP[:2], (3000, -4000, 0)), {"removable": "2, 4", "spacing": 1200.0, "rails": 2}),
    ("rail", UP[:2], {**SQUARE, "posts": "HSS2X2X1/8", "foot": "into a socket"}),
    ("ladder", ((0, 0, 0), (0, 0, 4500), (0, -900, 0)), {}),
    ("ladder", ((0, 0, 0), (0, 0, 6500), (700, 500, 0)), {"cage": "a cage"}),
    ("grating", ((0, 0, 3000), (5000, 2600, 3000), (2500, 1300, 3000)), {}),
    ("grating", ((0, 0, 3000), (-3000, 7000, 3000), (0, 0, 3000)), {"bearing": "across it", "cut": "round"}),
    ("floor plate", ((0, 0, 3000), (-3000, 7000, 3000)), {}),
    ("floor plate", ((0, 0, 3000), (2500, 900, 3000)), {"surface": "plain", "runs": "along the first side"}),
    ("bent plate", ((0, 0, 0), (0, 0, 200), (150, 0, 200), (220, 0, 120)), {}),
    ("bent plate", ((0, 0, 0), (400, 300, 0), (400, 900, 0)), {"side": "near side", "long": 500.0,
        "runs": "to the right of the path", "radius": 25.0}),
    ("transition", DUCT, {}),
    ("transition", DUCT, {"flange": "at both ends", "pieces": 4}),
    ("transition", DUCT, {"made": "rolled", "first": "circle", "second": "circle", "second_tilt": 8.0}),
    ("transition", DUCT, {"first": "polygon", "second": "ellipse", "second_wide": 500.0, "second_deep": 300.0,
        "pieces": 3}),
    ("elbow", ((0, 0, 0), (0, 0, -900), (600, 700, 200)), {"flange": "at both ends"}),
    ("saddle branch", ((0, 0, 0), (1000, 0, 0), (300, 0, 900)), {"flange": "at the second end"}),
    ("rail", UP[:2], {"foot": "into a socket", "socket": "PIPE2STD", "posts": "PIPE1-1/4STD", "top": "PIPE1-1/4STD",
        "middle": "PIPE1-1/4STD"}),
    ("ladder", ((0, 0, 0), (0, 0, 9000), (0, -900, 0)), {"landing": 4600.0, "gate": "gates"}),
    ("ladder", ((0, 0, 0), (0, 0, 5400), (700, 500, 0)), {"landing": 2800.0, "cage": "a cage", "side": "to the left"}),
    ("lintel", ((0, 0, 2100), (1800, 0, 2100)), {"held": "welded to each other"}),
    ("lintel", ((0, 0, 2100), (-900, 1200, 2100)), {"made": "one angle", "leg": "to the right", "wall": 100.0}),
    ("lintel", ((0, 0, 2100), (0, 2400, 2100)), {"made": "a beam with a plate under it"}),
]  # fmt: skip
IDS = [f"{kind}, {', '.join(map(str, params.values()))}" for kind, _, params in CASES]
