"""A joint inspected: what each check says of it becomes a finding on it."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import msgspec

from uncus.connect.buildable import holes, plies, reach, stock
from uncus.connect.buildable.site import Site
from uncus.connect.kind import Placed
from uncus.steel.joint import Contribution, Finding, Severity

Check = Callable[[Site], Iterator[str]]
CHECKS: tuple[tuple[Check, Severity], ...] = (
    (holes.inspect, Severity.WRONG),
    (plies.inspect, Severity.WRONG),
    (reach.inspect, Severity.WRONG),
    (reach.in_tubes, Severity.LOOK),
    (stock.inspect, Severity.LOOK),
)


def inspected(placed: Placed, made: Contribution) -> Contribution:
    """The same contribution with what the checks find, each said once, after what its kind found itself."""
    if not made.parts and not made.fasteners:
        return made
    site = Site(placed, made)
    found = list(made.findings)
    for check, severity in CHECKS:
        for text in check(site):
            finding = Finding(site.about, text, severity)
            if finding not in found:
                found.append(finding)
    return msgspec.structs.replace(made, findings=tuple(found)) if len(found) > len(made.findings) else made
