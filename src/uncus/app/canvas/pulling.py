"""Pulling at the end of what a value measures: the dimension follows the pointer along its own line, and its length is
the value when the button is let go."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF

from uncus.app import joining
from uncus.app.canvas.camera import Camera
from uncus.app.pointing import TOOL, Pointed
from uncus.app.session import Session
from uncus.job.errors import JobError
from uncus.units import INCH, Units

_NEAR = 10.0  # px from its end within which it is taken hold of
_STILL = 3.0  # px that a press may wander and pull at nothing
_ROUND = 2.2  # times its own size that is seen round a dimension


class Pull:
    """One pull, from the press on."""

    def __init__(self, session: Session, camera: Camera, pointed: Pointed, at: QPointF) -> None:
        self._session, self._camera, self._pointed, self._from = session, camera, pointed, at

    @classmethod
    def at(cls, session: Session, camera: Camera, at: QPointF) -> Pull | None:
        """Where the pointer is on the end of a dimension that shows a value; None where it is not."""
        pointed = session.pointing.shown
        if pointed is None or pointed.at.path or pointed.at.moved or abs(pointed.at.value) < 0.01:
            return None
        x, y, _ = camera.to_screen(pointed.at.b)[0]
        return cls(session, camera, pointed, at) if abs(x - at.x()) + abs(y - at.y()) < _NEAR else None

    def to(self, at: QPointF) -> float:
        """The value with the pointer there, in steps that a shop likes; it is shown."""
        measure = self._pointed.at
        n = (measure.b - measure.a) / measure.value
        start, ray = self._camera.ray(at.x(), at.y())
        # where the two lines come nearest each other: square to both
        across = np.array([[n @ n, -(n @ ray)], [n @ ray, -(ray @ ray)]])
        off = start - measure.a
        if abs(float(np.linalg.det(across))) < 1e-6:
            return measure.value  # looked at along its own line
        along = float(np.linalg.solve(across, np.array([off @ n, off @ ray]))[0])
        step = INCH / 16 if self._session.units is Units.IMPERIAL else 1.0
        about = self._session.pointing.about(self._pointed)
        low, high = (about.low, about.high) if about is not None else (0.0, 1e4)
        value = min(max(round(along / step) * step, low), high)
        shown = measure._replace(b=measure.a + value * n, value=value)
        self._session.pointing.shown = self._pointed._replace(at=shown)
        return value

    def let_go(self, at: QPointF) -> bool:
        """Give it the value; False where it was not moved."""
        if (at - self._from).manhattanLength() < _STILL:
            self._session.pointing.shown = None
            return False
        value = self.to(at)
        self._session.pointing.shown = None
        if abs(value - self._pointed.at.value) > 0.01:
            self._give(value)
        return True

    def _give(self, value: float) -> None:
        """One change of the joint, or the tool's own value from now on."""
        session, name = self._session, self._pointed.name
        record = session.pointing.record(self._pointed.id)
        if self._pointed.id == TOOL:
            session.attempt(lambda: session.set_option(name, value))
        elif record is not None:
            joining.set_value(session, [record], name, value)


def turn_to(session: Session, camera: Camera) -> None:
    """Turn the view so that the dimension of the value at hand lies across it, near by, and ghost all but the members
    that it belongs to, if it stands already. Raises JobError where no value shows anything."""
    pointed = session.pointing.shown
    if pointed is None:
        raise JobError("Put the keys into the field of a joint's, attachment's or frame's length first.")
    a, b = pointed.at.a, pointed.at.b
    run = b - a
    long = float(np.linalg.norm(run))
    if long > 1.0:  # what of the way to the viewer is square to it
        n = run / long
        back = camera.axes[2] - float(camera.axes[2] @ n) * n
        if float(np.linalg.norm(back)) > 0.05:
            camera.look_from(back / np.linalg.norm(back))
    camera.frame([a, b], margin=_ROUND)
    record = session.pointing.record(pointed.id)
    if record is not None:
        session.seeing.ghost_rest(record.members, session.shop.assemblies)
    session.view_changed.emit()
