"""Draws batches with OpenGL: equal parts once per instance."""

from __future__ import annotations

from collections.abc import Mapping

import moderngl
import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QOpenGLContext

from uncus.app.canvas.camera import Camera
from uncus.app.canvas.scene import Batch, Key

Tints = NDArray[np.float32]
_UNPACK_ALIGNMENT = 0x0CF5

_VERTEX = """
#version 330
uniform mat4 view; uniform mat3 turn; uniform vec4 eye; uniform vec2 clip;
in vec3 at; in vec3 normal; in vec4 row0; in vec4 row1; in vec4 row2; in vec3 tint;
out vec3 colour;
void main() {
    vec4 p = vec4(at, 1.0);
    vec3 world = vec3(dot(row0, p), dot(row1, p), dot(row2, p));
    vec3 n = turn * normalize(vec3(dot(row0.xyz, normal), dot(row1.xyz, normal), dot(row2.xyz, normal)));
    float light = 0.78 + 0.26 * max(dot(n, vec3(-0.35, 0.75, 0.56)), 0.0) + 0.08 * n.z;
    colour = tint * light;
    gl_Position = view * vec4(world, 1.0);
    float depth = dot(eye.xyz, world) - eye.w;
    gl_ClipDistance[0] = clip.x - depth;
    gl_ClipDistance[1] = depth + clip.y;
}
"""
_LINE_VERTEX = """
#version 330
uniform mat4 view; uniform float lift; uniform vec4 eye; uniform vec2 clip;
in vec3 at; in vec4 row0; in vec4 row1; in vec4 row2;
void main() {
    vec4 p = vec4(at, 1.0);
    vec3 world = vec3(dot(row0, p), dot(row1, p), dot(row2, p));
    gl_Position = view * vec4(world, 1.0);
    gl_Position.z -= lift;
    float depth = dot(eye.xyz, world) - eye.w;
    gl_ClipDistance[0] = clip.x - depth;
    gl_ClipDistance[1] = depth + clip.y;
}
"""
_FRAGMENT = """
#version 330
uniform float alpha; in vec3 colour; out vec4 pixel;
void main() { pixel = vec4(colour * alpha, alpha); }
"""
_LINE_FRAGMENT = """
#version 330
uniform vec3 ink; uniform float alpha; out vec4 pixel;
void main() { pixel = vec4(ink * alpha, alpha); }
"""

_QUAD_VERTEX = """
#version 330
out vec2 place;
void main() {
    place = vec2(gl_VertexID & 1, gl_VertexID >> 1);
    gl_Position = vec4(place * 2.0 - 1.0, 0.0, 1.0);
}
"""
_QUAD_FRAGMENT = """
#version 330
uniform sampler2D picture; in vec2 place; out vec4 pixel;
void main() { pixel = texture(picture, place); }
"""


def rgb(colour: str) -> tuple[float, float, float]:
    """#RRGGBB as three numbers from 0 to 1."""
    r, g, b = (int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5))
    return r, g, b


SETS = ("rest", "moving", "lines", "ghost")  # solid, solid while moving, edges or work lines alone, see-through
OTHERS = ("rest", "moving", "lines")  # of others' models
_THROUGH = 0.3
_AT_ONCE = 300_000  # corners that are handed over in one picture
_CLIP_DISTANCES = (0x3000, 0x3001)  # GL_CLIP_DISTANCE0, 1
_GHOST = 0.16
_NEAR = 14.0  # mm a pixel up to which edges are drawn in full
_FAINT = 0.12  # of that, under which they are left out


class _Uploaded:
    def __init__(self, renderer: Renderer, batch: Batch) -> None:
        ctx = renderer.ctx
        self.batch = batch
        n = len(batch.places)
        self.places = ctx.buffer(batch.places.tobytes())
        self.tints = ctx.buffer(reserve=12 * n)
        self.triangles = self.faces = None
        if len(batch.shape.triangles):
            self.triangles = ctx.buffer(batch.shape.triangles.tobytes())
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

    def tint(self, tints: Tints) -> None:
        self.tints.write(tints[self.batch.owners].tobytes())

    def release(self) -> None:
        for thing in (self.faces, self.edges, self.triangles, self.places, self.tints, self.lines):
            if thing is not None:
                thing.release()


class _Target:
    """A picture of the steel alone: drawn with some samples a pixel, read as a texture, kept until something
    changes."""

    def __init__(self, ctx: moderngl.Context, size: tuple[int, int], samples: int) -> None:
        self.size = size
        self.texture = ctx.texture(size, 4)
        self.plain = ctx.framebuffer([self.texture], ctx.depth_renderbuffer(size))
        self.fine = self.plain
        if samples:
            self.fine = ctx.framebuffer(
                [ctx.renderbuffer(size, 4, samples=samples)], ctx.depth_renderbuffer(size, samples=samples)
            )

    def release(self) -> None:
        for thing in {self.plain, self.fine}:
            thing.release()
        self.texture.release()


class Renderer:
    """One per OpenGL context. Steel is drawn into a picture of its own and laid over the background, so that a pointer
    that only hovers costs no drawing of steel; while the view moves a plainer set is drawn, with one sample a pixel."""

    def __init__(self, samples: int) -> None:
        self.ctx = moderngl.create_context()
        self.samples = min(samples, self.ctx.max_samples)
        self.face_program = self.ctx.program(vertex_shader=_VERTEX, fragment_shader=_FRAGMENT)
        self.line_program = self.ctx.program(vertex_shader=_LINE_VERTEX, fragment_shader=_LINE_FRAGMENT)
        program = self.ctx.program(vertex_shader=_QUAD_VERTEX, fragment_shader=_QUAD_FRAGMENT)
        self._quad = self.ctx.vertex_array(program, [])
        self._sets: dict[str, dict[Key, _Uploaded]] = {name: {} for name in SETS}
        self._tints: Tints = np.zeros((0, 3), dtype=np.float32)
        self._others: dict[str, dict[Key, _Uploaded]] = {name: {} for name in OTHERS}
        self._others_tints: Tints = np.zeros((1, 3), dtype=np.float32)
        self.see_through = False  # whether what is behind others' models shows through them
        self._preview: list[_Uploaded] = []
        self._target: _Target | None = None
        self._drawn: object = None
        self._version = 0
        self._clip = (1e9, 1e9)

    def upload(self, name: str, batches: Mapping[Key, Batch]) -> None:
        """Take the batches of one of the SETS, by their keys; those that it has already are left as they are."""
        there = self._sets[name]
        for key in [key for key, old in there.items() if batches.get(key) is not old.batch]:
            there.pop(key).release()
        for key, batch in batches.items():
            if key not in there:
                there[key] = one = _Uploaded(self, batch)
                if len(self._tints) > int(batch.owners.max(initial=-1)):
                    one.tint(self._tints)
        self._version += 1

    def upload_preview(self, batches: list[Batch], colour: str) -> None:
        """What a tool is about to make; drawn over everything."""
        for old in self._preview:
            old.release()
        self._preview = [_Uploaded(self, batch) for batch in batches]
        tints = np.array([rgb(colour)], dtype=np.float32)
        for one in self._preview:
            one.tint(tints)

    def upload_others(self, name: str, batches: Mapping[Key, Batch], tints: Tints) -> bool:
        """Take what one of OTHERS draws of others' models, and the colours that its owners number; no more at once than
        a picture may wait for. Whether all of it is there."""
        there = self._others[name]
        if there.keys() == batches.keys() and all(there[k].batch is b for k, b in batches.items()) and (
            np.array_equal(tints, self._others_tints)):  # fmt: skip
            return True
        for key in [key for key, old in there.items() if batches.get(key) is not old.batch]:
            there.pop(key).release()
        same = np.array_equal(tints, self._others_tints)
        room = _AT_ONCE
        for key, batch in batches.items():
            if key not in there:
                if room < 0:
                    break
                room -= len(batch.shape.triangles)
                there[key] = _Uploaded(self, batch)
                there[key].tint(tints)
            elif not same:
                there[key].tint(tints)
        self._version += 1
        done = there.keys() == batches.keys()
        if done:
            self._others_tints = tints
        return done

    def tint(self, tints: Tints) -> None:
        """Colour each instance by its owner: (owners, 3). Only what has another colour than before is coloured anew."""
        before, self._tints = self._tints, tints
        known = len(before)
        other = np.ones(len(tints), dtype=bool)
        other[:known] = (before[: len(tints)] != tints[:known]).any(axis=1)
        if other.any():
            for one in (one for name in SETS for one in self._sets[name].values()):
                if other[one.batch.owners].any():
                    one.tint(tints)
        self._version += 1

    def draw(
        self,
        framebuffer: int,
        camera: Camera,
        pixels: tuple[int, int],
        inks: tuple[str, str],
        moving: bool,
        clip: tuple[float, float] = (1e9, 1e9),
    ) -> None:
        """Lay the steel over what the framebuffer shows, drawing it anew only where something changed.

        `inks` are the colours of solid steel's edges and of lines that stand alone, `clip` is how far before and
        behind the camera's target anything is drawn.
        """
        self._clip = clip
        ctx = self.ctx
        ctx.scissor = None
        screen = ctx.detect_framebuffer(framebuffer)
        if self._target is None or self._target.size != pixels:
            if self._target is not None:
                self._target.release()
            self._target, self._drawn = _Target(ctx, pixels, self.samples), None
        state = (
            camera.yaw,
            camera.pitch,
            camera.scale,
            *camera.target.tolist(),
            inks,
            moving,
            self._version,
            clip,
            self.see_through,
        )
        if state != self._drawn:
            self._draw_steel(self._target, camera, inks, moving)
            self._drawn = state
        screen.use()
        ctx.viewport = (0, 0, *pixels)
        ctx.enable_only(moderngl.BLEND)
        ctx.blend_func = moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA
        self._target.texture.use(0)
        self._quad.render(moderngl.TRIANGLE_STRIP, vertices=4)
        if self._preview:
            self._aim(camera, inks[0])
            ctx.enable_only(moderngl.CULL_FACE)  # no depth here: of a preview the faces turned to the eye are enough
            ctx.front_face = "ccw"
            _render(self._preview, edges=True)
        ctx.enable_only(moderngl.NOTHING)
        for name in _CLIP_DISTANCES:
            ctx.disable_direct(name)
        # the painter that follows uploads its letters in rows of four bytes
        QOpenGLContext.currentContext().functions().glPixelStorei(_UNPACK_ALIGNMENT, 4)

    def _aim(self, camera: Camera, edge: str) -> None:
        view = camera.matrix().T.astype(np.float32).tobytes()
        _uniform(self.face_program, "view").write(view)
        _uniform(self.face_program, "turn").write(camera.axes.T.astype(np.float32).tobytes())
        _uniform(self.line_program, "view").write(view)
        _set(self.line_program, "lift", 4.0 / camera.reach)
        _set(self.line_program, "ink", rgb(edge))
        back = camera.axes[2]
        for program in (self.face_program, self.line_program):
            _set(program, "eye", (*back.tolist(), float(back @ camera.target)))
            _set(program, "clip", self._clip)
            _set(program, "alpha", 1.0)
        for name in _CLIP_DISTANCES:
            self.ctx.enable_direct(name)

    def _draw_steel(self, target: _Target, camera: Camera, inks: tuple[str, str], moving: bool) -> None:
        empty = not any(self._sets.values()) and not any(self._others.values())
        buffer = target.plain if moving or empty else target.fine
        buffer.use()
        self.ctx.viewport = (0, 0, *target.size)
        buffer.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
        self.ctx.enable_only(moderngl.DEPTH_TEST | moderngl.CULL_FACE)
        self.ctx.depth_func = "<="
        self._aim(camera, inks[0])
        chosen = list(self._sets["moving" if moving else "rest"].values())
        heavy = sum(one.count for one in chosen) > 1500
        _render(chosen, edges=False)
        if not (moving and heavy):
            self._draw_edges(chosen, camera.scale)
        _set(self.line_program, "ink", rgb(inks[1]))
        for one in self._sets["lines"].values():
            if one.edges is not None:
                one.edges.render(moderngl.LINES, instances=one.count)
        self._draw_others(buffer, camera.scale, moving)
        self._draw_ghosts(buffer, moving and heavy)
        if buffer is not target.plain:
            self.ctx.copy_framebuffer(target.plain, buffer)

    def _draw_edges(self, chosen: list[_Uploaded], scale: float) -> None:
        """The edges of solid steel, fainter the farther off it is: from afar they would lie on one another as one dark
        mass, and the faces alone show the shape."""
        strength = min(1.0, _NEAR / scale)
        if strength < _FAINT:
            return
        self.ctx.enable(moderngl.BLEND)
        self.ctx.blend_func = moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA
        _set(self.line_program, "alpha", strength)
        for one in chosen:
            if one.edges is not None:
                one.edges.render(moderngl.LINES, instances=one.count)
        _set(self.line_program, "alpha", 1.0)
        self.ctx.disable(moderngl.BLEND)

    def _draw_others(self, buffer: moderngl.Framebuffer, scale: float, moving: bool) -> None:
        """Others' models, whose faces may be turned any way, and their drawings."""
        chosen = list(self._others["moving" if moving else "rest"].values())
        if chosen:
            self.ctx.disable(moderngl.CULL_FACE)
            if self.see_through:
                self.ctx.enable(moderngl.BLEND)
                self.ctx.blend_func = moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA
                buffer.depth_mask = False
                _set(self.face_program, "alpha", _THROUGH)
            _render(chosen, edges=False)
            if self.see_through:
                buffer.depth_mask = True
                _set(self.face_program, "alpha", 1.0)
                self.ctx.disable(moderngl.BLEND)
            self.ctx.enable(moderngl.CULL_FACE)
            if not moving:
                self._draw_edges(chosen, scale)
        for one in self._others["lines"].values():
            if one.edges is not None:
                one.edges.render(moderngl.LINES, instances=one.count)

    def _draw_ghosts(self, buffer: moderngl.Framebuffer, hurried: bool) -> None:
        """What is ghosted, thin over what is solid; it hides nothing."""
        ghosts = list(self._sets["ghost"].values())
        if not ghosts:
            return
        self.ctx.enable(moderngl.BLEND)
        self.ctx.blend_func = moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA
        buffer.depth_mask = False
        for program in (self.face_program, self.line_program):
            _set(program, "alpha", _GHOST)
        _render(ghosts, edges=not hurried)
        buffer.depth_mask = True
        self.ctx.disable(moderngl.BLEND)


def _uniform(program: moderngl.Program, name: str) -> moderngl.Uniform:
    uniform = program[name]
    assert isinstance(uniform, moderngl.Uniform)
    return uniform


def _set(program: moderngl.Program, name: str, value: object) -> None:
    _uniform(program, name).value = value


def _render(uploaded: list[_Uploaded], edges: bool) -> None:
    for one in uploaded:
        if one.faces is not None:
            one.faces.render(moderngl.TRIANGLES, instances=one.count)
    if edges:
        for one in uploaded:
            if one.edges is not None:
                one.edges.render(moderngl.LINES, instances=one.count)
