"""The office's rules of joining run over pieces: rules pick members as a lens does."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from uncus.connect.by_rule import Report, Run
from uncus.job.job import Job
from uncus.job.records import Attachment, Rule
from uncus.lens.criteria import passes
from uncus.shop.joints import attached, contribution
from uncus.shop.shop import Shop, build
from uncus.steel.joint import Contribution


def connect(job: Job, ids: Iterable[str], shop: Shop | None = None, redo: bool = False) -> Report:
    """What the rules make of the ends of members; nothing is changed. `redo` looks at joined ends too, those locked
    apart. Raises JobError for a rule that asks for what is not known."""
    steel = shop or build(job)

    def meets(rule: Rule) -> Callable[[str], bool]:
        test = passes(rule, job, steel)

        def holds(id: str) -> bool:
            assembly = steel.assemblies.get(id)
            return assembly is not None and test(assembly)

        return holds

    def attach(record: Attachment) -> Contribution:
        fitting = steel.fitting(record)
        return attached(fitting) if fitting else Contribution()

    return Run(job, steel.joint_for, contribution, meets, steel.body, attach).over(ids, redo)
