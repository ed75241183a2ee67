"""Steel looked at as it stands together: clashes and welds of joints beside all else, followed change by change."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping

from uncus.connect.buildable import weld_runs
from uncus.job.records import Connection
from uncus.shop.clashes import Clash, Clashes, Steel
from uncus.shop.pieces import Assembly
from uncus.steel.joint import Finding


class Inspection:
    """What is found at each connection, attachment or, where it is no joint's, member beyond what its kind found
    itself."""

    def __init__(self) -> None:
        self._clashes = Clashes()
        self._clashing: dict[str, tuple[Finding, ...]] | None = None
        self._unwelded: dict[str, tuple[Finding, ...]] = {}
        self._steel: Steel | None = None

    def follow(
        self, steel: Steel, assemblies: Mapping[str, Assembly], rebuilt: set[str], lost: set[str], anew: set[str]
    ) -> None:
        """Look at members that were made anew with all that is about them, and at the welds of joints and
        attachments that were; forget what is gone."""
        self._steel = steel
        self._clashes.follow(steel, assemblies, rebuilt, lost)
        self._clashing = None
        self._unwelded = {id: f for id, f in self._unwelded.items() if id not in anew and id in steel.made}
        welded = (found for id in anew if (found := _welded(steel, assemblies, id)) is not None)
        for id, text in weld_runs.inspect(welded, steel.units):
            self._unwelded[id] = (*self._unwelded.get(id, ()), Finding(id, text))

    def of(self, id: str) -> tuple[Finding, ...]:
        return (*self._unwelded.get(id, ()), *self.clash_findings().get(id, ()))

    def unwelded(self) -> Iterator[Finding]:
        """What is said of welds alone."""
        for found in self._unwelded.values():
            yield from found

    def clashes(self) -> Iterator[tuple[Clash, str]]:
        """Every clash of which something is to be said, in words that do not say where."""
        if (steel := self._steel) is not None:
            yield from ((clash, steel.said(clash)) for clash in self._clashes.all() if steel.counts(clash))

    def clash_findings(self) -> Mapping[str, tuple[Finding, ...]]:
        if self._clashing is None:
            steel = self._steel
            said = Counter(f for c in self._clashes.all() if steel is not None and (f := steel.finding(c)))
            found: dict[str, list[Finding]] = defaultdict(list)
            for one in sorted(said, key=lambda f: f.text):
                text = one.text if said[one] == 1 else f"{one.text[:-1]} (in {said[one]} places alike)."
                found[one.about].append(Finding(one.about, text, one.severity))
            self._clashing = {id: tuple(some) for id, some in found.items()}
        return self._clashing


def _welded(steel: Steel, assemblies: Mapping[str, Assembly], id: str) -> weld_runs.Welded | None:
    """A connection's or attachment's welds with the pieces they join."""
    made, record = steel.made.get(id), steel.record(id)
    if made is None or record is None or not made.welds:
        return None
    members = record.members if isinstance(record, Connection) else (record.member,)
    welded = {id for weld in made.welds for id in weld.joins}
    pieces = {
        p.id: weld_runs.Placed(p.part, p.placement, steel.bodies[m].words if p.main else p.words)
        for m in members
        if m in assemblies
        for p in assemblies[m].pieces
        if p.id in welded
    }
    return weld_runs.Welded(id, made.welds, pieces)
