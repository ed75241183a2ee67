"""What a rule of checking is: a file of its own, with its own values, that finds things in a job as it stands."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import msgspec

from uncus.check.found import Found
from uncus.check.looked import Looked


class NoValues(msgspec.Struct, frozen=True):
    """A rule that has nothing to set."""


class Rule(msgspec.Struct, frozen=True):
    """`name` is what verdicts and the office's values know it by, `words` its heading, `help` what it is for. `find`
    yields what it finds with the `values` given; `values` is a struct whose fields make its form. `whole` tells whether
    all that it is for could be looked at yet."""

    name: str
    words: str
    help: str
    find: Callable[[Looked, Any], Iterator[Found]]
    values: type = NoValues
    whole: Callable[[Looked], bool] = lambda _: True
