"""Others' models of the open job: read in the background, kept while they are looked at, and what colours them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple, cast

import msgspec
import numpy as np
from PySide6.QtCore import QObject, Signal

from uncus.app.canvas.others import Drawn, Others
from uncus.app.stages.working import Aside, Tell
from uncus.frame.placement import Placement, point_of
from uncus.job.errors import JobError
from uncus.job.job import Delta
from uncus.job.records import Reference
from uncus.job.references import DXF
from uncus.reference.changes import Compared, compared
from uncus.reference.laying import as_copy, laid, model_before, model_for, newer, path_for, read_again
from uncus.reference.model import Model

if TYPE_CHECKING:
    from uncus.app.session import Session

Colour = tuple[float, float, float]


_AT_ONCE = 1500  # things that are made ready while the window waits
_PLAIN = (0.42, 0.48, 0.51)  # of what no colour is asked for while others have one


class Scene(NamedTuple):
    """What is drawn and picked of others' models, as of a version."""

    others: Others
    drawn: Drawn
    version: int


def _scene(standing: dict[str, tuple[Reference, Model]], colours: dict[str, dict[int, Colour]], version: int) -> Scene:
    others = Others(standing)
    return Scene(others, others.drawn(colours, _PLAIN if colours else None), version)


class OtherModels(QObject):
    """`changed`: what is there or shown is another; `told`: done, of and words of what is read."""

    changed = Signal()
    told = Signal(int, int, str)
    came = Signal(str)  # a reference was laid in or read again, by id
    failed = Signal(str)
    picked = Signal(str, int)  # a product was picked in the model: its reference and number

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.models: dict[str, tuple[str, Model]] = {}  # by reference: the sum that it is of
        self.colours: dict[str, dict[int, Colour]] = {}
        self.key: list[tuple[str, str, str]] = []
        self.see_through = True
        self.lost: dict[str, str] = {}  # references whose model is not at hand, and why
        self.version = 0
        self.scene = Scene(Others({}), Drawn({}, {}, np.zeros((1, 3), dtype=np.float32)), 0)
        self._asides: list[Aside] = []
        self._stop = session.job.follow(self._followed)
        self.look()

    # -- what is there --------------------------------------------------------------------------------------------
    @property
    def references(self) -> list[Reference]:
        return self.session.job.all(Reference)

    @property
    def busy(self) -> bool:
        return bool(self._asides)

    def standing(self) -> dict[str, tuple[Reference, Model]]:
        """References whose models are read."""
        return {r.id: (r, self.models[r.id][1]) for r in self.references if r.id in self.models}

    def model(self, id: str) -> Model | None:
        found = self.models.get(id)
        return found[1] if found else None

    def look(self) -> None:
        """Take up what is kept of references that are not at hand, each in the background."""
        path = self.session.job.path
        for reference in self.references:
            known = self.models.get(reference.id)
            if known is not None and known[0] == reference.sum:
                continue
            self.models.pop(reference.id, None)
            self._run(lambda tell, stop, r=reference: _taken_up(r, path, tell, stop), self._taken)  # type: ignore[misc]

    def _taken(self, found: object) -> None:
        reference, sum, model = cast("tuple[Reference, str, Model]", found)
        now = self.session.job.get(reference.id, Reference)
        if now is None:
            return
        self.models[now.id] = (sum, model)
        self.lost.pop(now.id, None)
        if sum != now.sum:  # the file is another by now
            self.session.change(f"Newer copy of {now.name}", (as_copy(now, sum),))
        self._renew()
        self.came.emit(now.id)

    def _followed(self, delta: Delta) -> None:
        edits = [e for e in delta.edits if isinstance(e.before or e.after, Reference)]
        if not edits:
            return
        for edit in edits:
            if edit.after is None:
                self.models.pop(edit.id, None)
                self.colours.pop(edit.id, None)
        self.look()
        self._renew()

    def _renew(self) -> None:
        """Get what is drawn of them ready: of few things here and now, of many in the background."""
        self.version += 1
        standing, colours, version = self.standing(), dict(self.colours), self.version
        if sum(len(model.product) for _, model in standing.values()) <= _AT_ONCE:
            self._ready(_scene(standing, colours, version))
        else:
            self._run(lambda tell, stop: _scene(standing, colours, version), self._ready)

    def _ready(self, scene: object) -> None:
        assert isinstance(scene, Scene)
        if scene.version > self.scene.version:
            self.scene = scene
            self.changed.emit()

    # -- laying in -------------------------------------------------------------------------------------------------
    def lay(self, file: Path) -> None:
        """Read a file and lay it in, or take in the newer copy of one that is there."""
        job = self.session.job
        known = next((r for r in self.references if r.path == path_for(file, job.path)), None)
        place = self.session.plane.place  # a drawing lies on the work plane at hand
        self._run(lambda tell, stop: laid(file, job, tell, stop),
            lambda found: self._laid(found, place if known is None else None))  # fmt: skip

    def _laid(self, found: object, place: Placement | None) -> None:
        reference, model, notes = cast("tuple[Reference, Model, tuple[str, ...]]", found)
        self.models[reference.id] = (reference.sum, model)
        if place is not None and reference.format == DXF:
            x, y = point_of(place.x), point_of(place.y)
            reference = msgspec.structs.replace(reference, origin=point_of(place.origin), x=x, y=y)
        words = f"Lay in {reference.name}" if place is not None else f"Newer copy of {reference.name}"
        if reference != self.session.job.get(reference.id, Reference):
            self.session.change(words, (reference,))
        self._renew()
        said = " ".join(notes) or f"{reference.name} lies beside the steel: {len(model.products):,} things."
        self.session.said.emit(said, bool(notes))
        self.came.emit(reference.id)

    def again(self, reference: Reference) -> None:
        """Read a reference's file as it is now."""
        path = self.session.job.path
        self._run(lambda tell, stop: (reference, *_read(reference, path, tell, stop)), self._taken)

    def differences(self, reference: Reference, then: Callable[[Compared | None], None]) -> None:
        """What changed since the copy before, worked out in the background."""
        model, path = self.model(reference.id), self.session.job.path
        if model is None:
            return

        def work(tell: Tell, stop: Callable[[], bool]) -> Compared | None:
            old = model_before(reference, path)
            return compared(old, model) if old is not None else None

        self._run(work, then)  # type: ignore[arg-type]

    def work(self, do: Callable[[Tell, Callable[[], bool]], object], then: Callable[[object], None]) -> None:
        """Work of a panel's, with the same progress and stop."""
        self._run(do, then)

    def colour(self, colours: dict[str, dict[int, Colour]], key: Iterable[tuple[str, str, str]] = ()) -> None:
        self.colours, self.key = colours, list(key)
        self._renew()

    # -- background ------------------------------------------------------------------------------------------------
    def _run(self, do: Callable[[Tell, Callable[[], bool]], object], then: Callable[[object], None]) -> None:
        aside = Aside(do)
        self._asides.append(aside)
        aside.told.connect(self.told)
        aside.came.connect(then)
        aside.failed.connect(self._failed)
        aside.finished.connect(lambda: self._finished(aside))
        aside.start()
        self.changed.emit()

    def _failed(self, words: str) -> None:
        self.session.said.emit(words, True)
        self.failed.emit(words)

    def _finished(self, aside: Aside) -> None:
        if aside in self._asides:
            self._asides.remove(aside)
        self.changed.emit()

    def stop(self) -> None:
        for aside in self._asides:
            aside.requestInterruption()

    def wind_up(self) -> None:
        """Stop and wait, as the window closes."""
        self.stop()
        for aside in list(self._asides):
            aside.wait(20_000)
        self._stop()


def _taken_up(
    reference: Reference, job: Path | None, tell: Tell, stopped: Callable[[], bool]
) -> tuple[Reference, str, Model]:
    """What is kept of a reference; else its file, read."""
    kept = model_for(reference, job)
    if kept is not None:
        return reference, reference.sum, kept
    if newer(reference, job):
        raise JobError(f"{reference.name}: what was read of it is not kept any more, and its file is another by now; "
            "read it again to take in the newer copy.")  # fmt: skip
    return (reference, *_read(reference, job, tell, stopped))


def _read(reference: Reference, job: Path | None, tell: Tell, stopped: Callable[[], bool]) -> tuple[str, Model]:
    try:
        found = read_again(reference, job, tell, stopped)
    except JobError as error:
        raise JobError(f"{reference.name}: {error}") from None
    return found.sum, found.model
