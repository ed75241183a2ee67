"""Draws batches with OpenGL: equal parts once per instance."""

from __future__ import annotations

import moderngl
import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QOpenGLContext

from uncus.app.canvas.camera import Camera
from uncus.app.canvas.scene import Batch

_DEPTH_BUFFER_BIT = 0x100

_VERTEX = """
#version 330
uniform mat4 view; uniform mat3 turn;
in vec3 at; in vec3 normal; in vec4 row0; in vec4 row1; in vec4 row2; in vec3 tint;
out vec3 colour;
void main() {
    vec4 p = vec4(at, 1.0);
    vec3 world = vec3(dot(row0, p), dot(row1, p), dot(row2, p));
    vec3 n = turn * vec3(dot(row0.xyz, normal), dot(row1.xyz, normal), dot(row2.xyz, normal));
    float light = 0.78 + 0.26 * max(dot(n, vec3(-0.35, 0.75, 0.56)), 0.0) + 0.08 * n.z;
    colour = tint * light;
    gl_Position = view * vec4(world, 1.0);
}
"""
_LINE_VERTEX = """
#version 330
uniform mat4 view; uniform float lift;
in vec3 at; in vec4 row0; in vec4 row1; in vec4 row2;
void main() {
    vec4 p = vec4(at, 1.0);
    gl_Position = view * vec4(dot(row0, p), dot(row1, p), dot(row2, p), 1.0);
    gl_Position.z -= lift;
}
"""
_FRAGMENT = """
#version 330
in vec3 colour; out vec4 pixel;
void main() { pixel = vec4(colour, 1.0); }
"""
_LINE_FRAGMENT = """
#version 330
uniform vec3 ink; out vec4 pixel;
void main() { pixel = vec4(ink, 1.0); }
"""


def rgb(colour: str) -> tuple[float, float, float]:
    """#RRGGBB as three numbers from 0 to 1."""
    r, g, b = (int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5))
    return r, g, b


class _Uploaded:
    def __init__(self, renderer: Renderer, batch: Batch) -> None:
        ctx = renderer.ctx
        self.batch = batch
        n = len(batch.places)
        self.triangles = ctx.buffer(batch.shape.triangles.tobytes())
        self.places = ctx.buffer(batch.places.tobytes())
        self.tints = ctx.buffer(reserve=12 * n)
        self.faces = ctx.vertex_array(
            renderer.face_program,
            [
                (self.triangles, "3f 3f", "at", "normal"),
                (self.places, "4f 4f 4f /i", "row0", "row1", "row2"),
                (self.tints, "3f /i", "tint"),
            ],
        )
        self.count = n
        self.edges = None
        self.lines = None
        if len(batch.shape.lines):
            self.lines = ctx.buffer(batch.shape.lines.tobytes())
            self.edges = ctx.vertex_array(
                renderer.line_program, [(self.lines, "3f", "at"), (self.places, "4f 4f 4f /i", "row0", "row1", "row2")]
            )

    def release(self) -> None:
        for thing in (self.faces, self.edges, self.triangles, self.places, self.tints, self.lines):
            if thing is not None:
                thing.release()


class Renderer:
    """One per OpenGL context."""

    def __init__(self) -> None:
        self.ctx = moderngl.create_context()
        self.face_program = self.ctx.program(vertex_shader=_VERTEX, fragment_shader=_FRAGMENT)
        self.line_program = self.ctx.program(vertex_shader=_LINE_VERTEX, fragment_shader=_LINE_FRAGMENT)
        self._uploaded: list[_Uploaded] = []
        self._preview: list[_Uploaded] = []

    def upload(self, batches: list[Batch]) -> None:
        for old in self._uploaded:
            old.release()
        self._uploaded = [_Uploaded(self, batch) for batch in batches]

    def upload_preview(self, batches: list[Batch], colour: str) -> None:
        for old in self._preview:
            old.release()
        self._preview = [_Uploaded(self, batch) for batch in batches]
        for one in self._preview:
            one.tints.write(np.tile(np.array(rgb(colour), dtype=np.float32), (one.count, 1)).tobytes())

    def tint(self, colours: dict[str, str], default: str) -> None:
        """Colour each instance by its owner."""
        plain = np.array(rgb(default), dtype=np.float32)
        known: dict[str, NDArray[np.float32]] = {c: np.array(rgb(c), dtype=np.float32) for c in set(colours.values())}
        for one in self._uploaded:
            tints = np.tile(plain, (one.count, 1))
            if colours:
                for i, owner in enumerate(one.batch.owners):
                    colour = colours.get(owner)
                    if colour is not None:
                        tints[i] = known[colour]
            one.tints.write(tints.tobytes())

    def draw(self, framebuffer: int, camera: Camera, pixels: tuple[int, int], edge: str, moving: bool) -> None:
        """All faces, then edges (left out of a large model while it moves)."""
        ctx = self.ctx
        target = ctx.detect_framebuffer(framebuffer)
        target.use()
        ctx.viewport = (0, 0, *pixels)
        ctx.enable_only(moderngl.DEPTH_TEST)
        ctx.scissor = None
        ctx.depth_func = "<="
        target.depth_mask = True
        gl = QOpenGLContext.currentContext().functions()
        gl.glClearDepthf(1.0)
        gl.glClear(_DEPTH_BUFFER_BIT)  # the background stays
        view = camera.matrix().T.astype(np.float32).tobytes()
        self.face_program["view"].write(view)
        self.face_program["turn"].write(camera.axes.T.astype(np.float32).tobytes())
        self.line_program["view"].write(view)
        self.line_program["lift"].value = 4.0 / camera.reach
        self.line_program["ink"].value = rgb(edge)
        for one in (*self._uploaded, *self._preview):
            one.faces.render(moderngl.TRIANGLES, instances=one.count)
        heavy = sum(one.count for one in self._uploaded) > 3000
        if not (moving and heavy):
            for one in (*self._uploaded, *self._preview):
                if one.edges is not None:
                    one.edges.render(moderngl.LINES, instances=one.count)
        ctx.disable(moderngl.DEPTH_TEST)
