"""Protected zones of seismic frames: how far they reach along the piece (AISC 341-22 D1.3)."""

from collections.abc import Iterator

from uncus.draw.annotation import Annotation, Chain, Stop
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen


def make(seen: Seen) -> Iterator[Annotation]:
    _, high = seen.main.depth_range
    for n, (near, far) in enumerate(seen.subject.zones, 1):
        stops = Stop(f"zone {n} from", near, high), Stop(f"zone {n} to", far, high)
        yield Chain(f"{seen.name}|zone {n}", "above", stops, rank=3, words="PROTECTED ")


RULE = Rule("zones", "Protected zones", make, "How far the protected zones of seismic frames reach.", ("front",))
