"""What the values of the joints and attachments of a job measure, in its steel as it stands."""

from __future__ import annotations

from typing import Any

import msgspec

from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.connect.kinds import KINDS
from uncus.connect.meaning import Bed, Measure, measured
from uncus.job.forms import checked, fields
from uncus.job.records import Attachment, Connection
from uncus.shop.shop import Shop, attached, contribution
from uncus.steel.joint import Contribution
from uncus.units import Units


def measure(shop: Shop, record: Connection | Attachment, name: str) -> Measure | None:
    """What a length among a record's values measures; None where nothing goes by it. Raises JobError where its values
    cannot be used."""
    if isinstance(record, Connection):
        return _of_joint(shop, record, name)
    known, fitting = ATTACHMENTS.get(record.kind), shop.fitting(record)
    if known is None or fitting is None:
        return None

    def fix(values: Any) -> Contribution:
        return attached(msgspec.structs.replace(fitting, record=_given(record, values)))

    bed = Bed(fitting.bodies, fitting.units is Units.IMPERIAL, (fitting.left, fitting.right))
    return measured(checked(known.params, record.params), name, fields(known.params)[name], fix, bed)


def _of_joint(shop: Shop, record: Connection, name: str) -> Measure | None:
    kind, joint = KINDS.get(record.kind), shop.joint(record.id)
    if kind is None or joint is None:
        return None

    def make(values: Any) -> Contribution:
        return contribution(msgspec.structs.replace(joint, record=_given(record, values)))

    bed = Bed(joint.bodies, joint.units is Units.IMPERIAL)
    return measured(checked(kind.params, record.params), name, fields(kind.params)[name], make, bed)


def _given(record: Connection | Attachment, values: Any) -> Any:
    """A record with other values."""
    return msgspec.structs.replace(record, params=msgspec.to_builtins(values))
