"""Studs: where their columns stand along the piece, their rows about the middle, and what they are."""

from collections.abc import Iterator

from uncus.draw.annotation import Annotation, Chain, Note, Stop
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen, steps
from uncus.draw.studs import Stud, facing, place_in


def make(seen: Seen) -> Iterator[Annotation]:
    groups: dict[tuple[str, bool], list[Stud]] = {}
    for stud in seen.subject.studs:
        if abs(towards := facing(stud, seen.name)) > 0.99:
            groups.setdefault((f"{stud.size} x {seen.said(stud.long)}", towards > 0), []).append(stud)
    for n, ((words, near), studs) in enumerate(sorted(groups.items())):
        key = f"{seen.name}|studs {n}" if n else f"{seen.name}|studs"
        if not seen.first("studs", words, tuple(s.foot for s in studs)):
            continue
        places = [place_in(s, seen.name) for s in studs]
        us, vs = steps([u for u, _ in places]), steps([v for _, v in places])[::-1]
        columns = tuple(Stop(f"studs {n} column {i}", u) for i, u in enumerate(us))
        yield Chain(f"{key} along", "above", (Stop("left end", 0.0, seen.high), *columns), rank=1)
        rows = [Stop(f"studs {n} row {i}", v) for i, v in enumerate(vs)]
        if len(vs) == 1 or any(min(abs(v + other) for other in vs) > 0.5 for v in vs):
            rows = sorted([*rows, Stop("middle", 0.0)], key=lambda s: -s.at)
        if len(vs) > 1 or abs(vs[0]) > 0.5:
            yield Chain(f"{key} across", "left", tuple(rows), rank=1)
        side = "" if near else " FS" if seen.name == "front" else " UNDER IT"
        first = min(places, key=lambda p: (p[0], -p[1]))
        yield Note(
            f"{key} note", first, f"{len(studs)} STUDS {words}{side}" if len(studs) > 1 else f"STUD {words}{side}"
        )


RULE = Rule("studs", "Studs", make, "Columns of studs along the piece, their rows about the middle, what they are.")
