"""Older job files brought up to date, one step a version, on the JSON of each record."""

from __future__ import annotations

import json
from collections.abc import Callable
from contextlib import closing
from pathlib import Path
from typing import Any

from uncus.job import schema

Body = dict[str, Any]


def _lens_rules(record: Body) -> Body:
    """Version 2: a lens holds a rule instead of pairs of fact and value, all of which had to hold."""
    if record.get("type") != "Lens" or "rule" in record:
        return record
    pairs = record.pop("facts", None) or []
    rows = [{"type": "Fact", "fact": fact, "relation": "is", "value": value} for fact, value in pairs]
    return {**record, "rule": rows[0] if len(rows) == 1 else {"type": "Both", "of": rows}}


def _as_it_is(record: Body) -> Body:
    """Versions 3 to 8, 10, 12 to 21: new kinds of record and values with usual ones; what is there is read as it is."""
    return record


def nc_options_of(record: Body) -> Body | None:
    """Version 9: options of NC, which were among the shop's rules, are a record of their own. None where all were as
    usual."""
    own: Body = {name: record[name] for name in ("layout", "stamps") if name in record}
    return (
        {"type": "NcOptions", "id": "nc options", **own}
        if record.get("type", "ShopRules") == "ShopRules" and own
        else None
    )


def _of_version_9(record: Body) -> Body:
    """Version 9: a sheet that went out before copies were kept is an issue of it, of which there is no copy; rules
    of the shop are without options of NC."""
    if record.get("type") == "ShopRules":
        return {name: value for name, value in record.items() if name not in ("layout", "stamps")}
    if record.get("type") != "Sent":
        return record
    own = {"id": record["id"], "sheet": record["sheet"], "content": record["content"], "on": record["on"]}
    return {"type": "Issue", "piece": "", "kind": "", "revision": "", "packed": "", **own}


_FINGERPRINTS: dict[object, Body] = {
    "Mark": {"content": ""},
    "AdvanceMark": {"content": ""},
    "IssuedMark": {"contents": []},
}


def _without_old_fingerprints(record: Body) -> Body:
    """Version 11: places are rounded otherwise, so that a building that is moved keeps its marks. A fingerprint of
    before says nothing of what changed since; the form of a piece, which marks have beside it, still does."""
    return {**record, **_FINGERPRINTS.get(record.get("type"), {})}


STEPS: dict[int, Callable[[Body], Body]] = {
    1: _lens_rules,
    2: _as_it_is,
    3: _as_it_is,
    4: _as_it_is,
    5: _as_it_is,
    6: _as_it_is,
    7: _as_it_is,
    8: _of_version_9,
    9: _as_it_is,
    10: _without_old_fingerprints,
    11: _as_it_is,
    12: _as_it_is,
    13: _as_it_is,
    14: _as_it_is,
    15: _as_it_is,
    16: _as_it_is,
    17: _as_it_is,
    18: _as_it_is,
    19: _as_it_is,
    20: _as_it_is,
}  # from this version to the next


PARTED: dict[int, Callable[[Body], Body | None]] = {8: nc_options_of}  # what of a record is another one from there on


def _records_from(version: int, record: Body) -> list[Body]:
    """A record as the newest version has it, and what has become records of their own."""
    found = [record]
    for at in sorted(v for v in STEPS if v >= version):
        parted = [new for one in found if at in PARTED and (new := PARTED[at](one)) is not None]
        found = [STEPS[at](one) for one in found] + parted
    return found


def records_from(version: int, body: bytes) -> list[bytes]:
    """A record's JSON as the newest version has it, followed by that of records it has been parted into. Raises
    ValueError where it is no JSON object."""
    return [json.dumps(record).encode() for record in _records_from(version, json.loads(body))]


def step_from(version: int, body: bytes) -> bytes:
    """An undo step's JSON, its records brought up to date."""
    step = json.loads(body)
    sides = [
        [[] if record is None else _records_from(version, record) for record in step[side]]
        for side in ("before", "after")
    ]
    before, after = [], []
    for old, new in zip(
        *sides, strict=True
    ):  # the record itself, then what either side of it has been parted into, by id
        rows = [{r["id"]: r for r in found[1:]} for found in (old, new)]
        before += [old[0] if old else None, *(rows[0].get(id) for id in rows[0] | rows[1])]
        after += [new[0] if new else None, *(rows[1].get(id) for id in rows[0] | rows[1])]
    return json.dumps({**step, "before": before, "after": after}).encode()


def bring_up(old: Path, version: int, new: Path, named: Path) -> None:
    """Write an older file anew in today's form. What cannot be read in it goes over as it is, to be set aside like any
    other. Raises Damaged, naming the file as `named`, where its tables are not ours."""
    with closing(schema.connect(old)) as db:
        if not schema.is_ours(db, version) or not schema.is_sound(db):
            raise schema.damaged(named)
        rows = db.execute("SELECT id, body FROM records ORDER BY place").fetchall()
        steps = db.execute("SELECT number, body FROM steps ORDER BY number").fetchall()
        head = db.execute("SELECT number FROM head").fetchone()
    if head is None or not isinstance(head[0], int):
        raise schema.damaged(named)
    with closing(schema.make(new)) as db:
        schema.fill(
            db,
            (row for id, body in rows for row in _rows_from(version, str(id), body)),
            ((number, _or_as_it_is(step_from, version, body)) for number, body in steps),
            head[0],
        )


def _rows_from(version: int, id: str, body: object) -> list[tuple[str, bytes]]:
    """A record's row, and those of what it has been parted into."""
    data = body if isinstance(body, bytes) else str(body).encode("utf-8", "replace")
    try:
        first, *more = records_from(version, data)
        return [(id, first), *((str(json.loads(one)["id"]), one) for one in more)]
    except (ValueError, LookupError, TypeError, AttributeError, RecursionError):
        return [(id, data)]


def _or_as_it_is(convert: Callable[[int, bytes], bytes], version: int, body: object) -> bytes:
    data = body if isinstance(body, bytes) else str(body).encode("utf-8", "replace")
    try:
        return convert(version, data)
    except (ValueError, LookupError, TypeError, AttributeError, RecursionError):
        return data
