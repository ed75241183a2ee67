"""A connection's values as a mirror shows them: what is near is far."""

from __future__ import annotations

from typing import Any

from uncus.connect.kinds import KINDS
from uncus.job.forms import fields
from uncus.job.records import Connection, ShopRules

_OTHER = {"near": "far", "far": "near"}


def mirrored(connection: Connection, rules: ShopRules) -> dict[str, Any]:
    """The values of a mirrored connection; a side that was left to the kind is said, for in a mirror it is the other."""
    kind = KINDS.get(connection.kind)
    if kind is None:
        return connection.params
    usual, out = kind.params(), dict(connection.params)
    for name, about in fields(kind.params).items():
        value = out.get(name) or getattr(usual, name) or rules.side
        turned = " ".join(_OTHER.get(word, word) for word in str(value).split())
        if turned != value and turned in about.choices:
            out[name] = turned
    return out
