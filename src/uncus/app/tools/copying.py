"""New members from a template."""

import msgspec

from uncus.job.records import Member, Point, new_id


def fresh(template: Member, start: Point, end: Point) -> Member:
    """A new member like the template between two points."""
    return msgspec.structs.replace(template, id=new_id(), start=start, end=end)
