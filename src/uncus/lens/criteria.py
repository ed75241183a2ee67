"""What a lens lets through: each of its facts must hold, compared as words without regard to case."""

from collections.abc import Callable

from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Lens
from uncus.shop.pieces import Assembly

FACTS: dict[str, Callable[[Assembly], str]] = {
    "role": lambda a: str(a.member.role),
    "section": lambda a: a.member.section,
    "grade": lambda a: a.main.part.grade,
    "lot": lambda a: a.member.lot,
    "finish": lambda a: a.main.part.finish,
}


def lens_named(job: Job, name: str) -> Lens:
    """Raises JobError with the lenses there are."""
    lenses = job.all(Lens)
    for lens in lenses:
        if lens.name.casefold() == name.strip().casefold():
            return lens
    there = ", ".join(f"“{lens.name}”" for lens in lenses) or "none yet"
    raise JobError(f"There is no lens “{name}”; there are: {there}.")


def passes(lens: Lens) -> Callable[[Assembly], bool]:
    """Whether an assembly meets a lens. Raises JobError for a fact nobody knows."""
    for fact, _ in lens.facts:
        if fact not in FACTS:
            raise JobError(f"Lens “{lens.name}” asks for “{fact}”, which is not known; known are {', '.join(FACTS)}.")
    wanted = [(FACTS[fact], value.casefold()) for fact, value in lens.facts]
    return lambda assembly: all(read(assembly).casefold() == value for read, value in wanted)
