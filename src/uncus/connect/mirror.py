"""A joint's or attachment's values where its member's own directions were turned: what is near is far, left is
right."""

from __future__ import annotations

from typing import Any

from uncus.connect.settings import Joined, params_of
from uncus.frame.moves import Turned
from uncus.job.errors import JobError
from uncus.job.forms import fields
from uncus.job.records import ShopRules

_PAIRS = (("left", "right"), ("near", "far"), ("top", "bottom"))  # as `Turned` has them


def mirrored(record: Joined, turned: Turned, rules: ShopRules) -> dict[str, Any]:
    """The values as they are said after the turn; a side that was left to the kind is said, for it is the other now."""
    try:
        params = params_of(record.kind)
    except JobError:
        return record.params
    swaps: dict[str, str] = {}
    for (a, b), is_turned in zip(_PAIRS, turned, strict=True):
        if is_turned:
            swaps |= {a: b, b: a}
    usual, out = params(), dict(record.params)
    for name, about in fields(params).items():
        value = out.get(name) or getattr(usual, name) or rules.side
        other = " ".join(swaps.get(word, word) for word in str(value).split())
        if other != value and other in about.choices:
            out[name] = other
    return out
