"""Pinned in: a square tube that stands in another, as a post does in its socket, and the bolt through both."""

from collections.abc import Iterator
from typing import Annotated

import msgspec
import numpy as np

from uncus.catalog.bolts import HoleKind, bolt_length
from uncus.catalog.sections import Form
from uncus.connect import params as p_
from uncus.connect.attachments.kind import AttachmentKind, Fitting
from uncus.connect.fitup import Fitup, Wall
from uncus.connect.kind import Body
from uncus.frame.placement import Vec
from uncus.job.forms import About, checked
from uncus.steel import profile
from uncus.steel.joint import Contribution, FastenerKind, Fasteners, direction, point

_ALONG = 1e-4
_PLAY = 6.0  # mm of air between the two on either side
_EDGE = 2.0  # bolts' diameters from the mouth of the socket


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    bolt: p_.Bolt = None
    down: Annotated[float | None, About("Below the socket's mouth", low=10, high=1000,
        help="Left open: halfway down what stands in it.")] = None  # fmt: skip


def is_square_tube(body: Body) -> bool:
    return body.section.form is Form.BOX and body.arc is None and body.record.double is None


def build(fitting: Fitting) -> Contribution:
    """A bolt through both walls of each; a finding alone where the one does not stand in the other."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    post, socket = fitting.member, fitting.mate
    if socket is None:
        fit.find(f"The socket that the {post.words} stood in is gone; give it another or delete its bolt.")
        return fit.done()
    if trouble := _beside(post, socket):
        fit.find(f"The {post.words} {trouble} the {socket.words}; put it into it, or delete its bolt.")
        return fit.done()
    ends = np.sort(socket.frame.to_local([post.frame.to_model((x, 0.0, 0.0)) for x in (0.0, post.length)])[:, 0])
    low, high = max(0.0, ends[0]), min(socket.length, ends[1])
    size = fit.size(p.bolt)
    if high - low < 2 * _EDGE * size.d:
        fit.find(f"The {post.words} does not stand deep enough in the {socket.words} for a bolt; push it down.")
        return fit.done()
    mouth_right = ends[1] > socket.length
    at = (low + high) / 2 if p.down is None else (high - p.down if mouth_right else low + p.down)
    spot = socket.frame.to_model((at, 0.0, 0.0))
    axis = socket.frame.y
    for body in (post, socket):
        for wall in _pierced(body, axis):
            fit.hole(wall, spot, size.hole_size(HoleKind.STANDARD))
    grip = socket.section.b
    head = point(spot - axis * grip / 2)
    fit.fasteners(Fasteners("bolt", FastenerKind.BOLT, size.name, fit.rules.bolt_grade, bolt_length(size, grip), grip,
        (head,), direction(axis), (post.id, socket.id), field=True))  # fmt: skip
    return fit.done()


def _pierced(body: Body, axis: Vec) -> Iterator[Wall]:
    """Both walls of a tube that are square to a direction."""
    for face, one in profile.faces(body.section).items():
        wall = Wall(body.id, face, body.frame, one.mid, one.thickness, one.upright)
        if abs(float(wall.normal @ axis)) > 1 - _ALONG:
            yield wall


def _beside(post: Body, socket: Body) -> str | None:
    """Why one tube is not in the other, in words between their names."""
    inner, outer = post.section, socket.section
    if outer.form is not Form.BOX or outer.d - 2 * outer.tw < inner.d or outer.b - 2 * outer.tw < inner.b:
        return "is no square tube with room in"
    if abs(float(post.frame.x @ socket.frame.x)) < 1 - _ALONG:
        return "does not run along"
    off = socket.frame.to_local(post.frame.origin)[1:]
    turned = max(abs(float(post.frame.y @ socket.frame.y)), abs(float(post.frame.y @ socket.frame.z)))
    return "does not stand in" if float(np.hypot(*off)) > _PLAY or turned < 1 - _ALONG else None


KIND = AttachmentKind(
    "pinned in",
    "Pinned in",
    Params,
    build,
    is_square_tube,
    "A square tube that stands in another, with a bolt through both, so that it can be taken out. Pick both.",
    crosses=lambda post, socket: is_square_tube(post) and is_square_tube(socket),
    places=False,
)
