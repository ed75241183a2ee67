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
    """Versions 3 to 8 have new kinds of record and values with usual ones; what is there is read as it is."""
    return record


def _sent_as_issue(record: Body) -> Body:
    """Version 9: a sheet that went out before copies were kept is an issue of it, of which there is no copy."""
    if record.get("type") != "Sent":
        return record
    own = {"id": record["id"], "sheet": record["sheet"], "content": record["content"], "on": record["on"]}
    return {"type": "Issue", "piece": "", "kind": "", "revision": "", "packed": "", **own}


STEPS: dict[int, Callable[[Body], Body]] = {
    1: _lens_rules,
    2: _as_it_is,
    3: _as_it_is,
    4: _as_it_is,
    5: _as_it_is,
    6: _as_it_is,
    7: _as_it_is,
    8: _sent_as_issue,
}  # from this version to the next


def record_from(version: int, body: bytes) -> bytes:
    """A record's JSON as the newest version has it. Raises ValueError where it is no JSON object."""
    record = json.loads(body)
    for at in sorted(v for v in STEPS if v >= version):
        record = STEPS[at](record)
    return json.dumps(record).encode()


def step_from(version: int, body: bytes) -> bytes:
    """An undo step's JSON, its records brought up to date."""
    step = json.loads(body)
    for side in ("before", "after"):
        step[side] = [
            None if record is None else json.loads(record_from(version, json.dumps(record).encode()))
            for record in step[side]
        ]
    return json.dumps(step).encode()


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
            ((str(id), _or_as_it_is(record_from, version, body)) for id, body in rows),
            ((number, _or_as_it_is(step_from, version, body)) for number, body in steps),
            head[0],
        )


def _or_as_it_is(convert: Callable[[int, bytes], bytes], version: int, body: object) -> bytes:
    data = body if isinstance(body, bytes) else str(body).encode("utf-8", "replace")
    try:
        return convert(version, data)
    except (ValueError, LookupError, TypeError, AttributeError, RecursionError):
        return data
