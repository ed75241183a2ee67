"""The eye on the model: an orthographic camera, without Qt. Pixels have y down; scale is mm a pixel."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike, NDArray

Array = NDArray[np.float64]


class Camera:
    """`target` (model) lies at the middle of the view; yaw and pitch in degrees."""

    def __init__(self) -> None:
        self.target: Array = np.zeros(3)
        self.yaw, self.pitch = -35.0, 28.0
        self.scale = 20.0
        self.width, self.height = 800, 600
        self.reach = 200_000.0  # mm before and behind the target that are drawn

    @property
    def axes(self) -> Array:
        """Rows: right, up, towards the eye."""
        y, p = math.radians(self.yaw), math.radians(self.pitch)
        cy, sy, cp, sp = math.cos(y), math.sin(y), math.cos(p), math.sin(p)
        return np.array([(cy, sy, 0.0), (-sy * sp, cy * sp, cp), (sy * cp, -cy * cp, sp)])

    def to_screen(self, points: ArrayLike) -> Array:
        """(n, 3): pixel x, pixel y, depth (less is nearer)."""
        local = (np.asarray(points, dtype=np.float64).reshape(-1, 3) - self.target) @ self.axes.T
        return np.column_stack(
            [self.width / 2 + local[:, 0] / self.scale, self.height / 2 - local[:, 1] / self.scale, -local[:, 2]]
        )

    def ray(self, x: float, y: float) -> tuple[Array, Array]:
        """Origin (far before the model) and direction of the sight line through a pixel."""
        right, up, back = self.axes
        at = self.target + right * (x - self.width / 2) * self.scale - up * (y - self.height / 2) * self.scale
        return at + back * 1e6, -back

    def orbit(self, dx: float, dy: float, about: Array) -> None:
        """Turn by a drag in pixels; the model point `about` stays where it is on screen."""
        before = (about - self.target) @ self.axes.T
        self.yaw -= dx * 0.4
        self.pitch = max(-90.0, min(90.0, self.pitch + dy * 0.4))
        self.target = about - before @ self.axes

    def look_from(self, back: ArrayLike) -> None:
        """Look from a direction: `back` points to the eye."""
        b = np.asarray(back, dtype=np.float64) / float(np.linalg.norm(back))
        self.pitch = math.degrees(math.asin(max(-1.0, min(1.0, float(b[2])))))
        if abs(b[2]) > 1 - 1e-9:
            self.yaw = 0.0
        else:
            self.yaw = math.degrees(math.atan2(float(b[0]), -float(b[1])))

    def pan(self, dx: float, dy: float) -> None:
        right, up, _ = self.axes
        self.target = self.target - right * dx * self.scale + up * dy * self.scale

    def zoom(self, factor: float, x: float, y: float) -> None:
        """Scale by a factor (<1: nearer) with the pixel held in place."""
        new = min(500.0, max(0.02, self.scale * factor))
        right, up, _ = self.axes
        moved = self.scale - new
        self.target = self.target + right * (x - self.width / 2) * moved - up * (y - self.height / 2) * moved
        self.scale = new

    def frame(self, points: ArrayLike, margin: float = 1.15) -> None:
        """Show all of some points."""
        p = np.asarray(points, dtype=np.float64).reshape(-1, 3)
        if not len(p):
            return
        local = p @ self.axes.T
        low, high = local.min(axis=0), local.max(axis=0)
        self.target = ((low + high) / 2) @ self.axes
        size = np.maximum(high - low, 500.0)
        self.scale = margin * max(size[0] / max(50, self.width - 40), size[1] / max(50, self.height - 90))

    def matrix(self) -> Array:
        """Model to clip space (4, 4), row vectors on the right: clip = M @ (x, y, z, 1)."""
        axes, depth = self.axes, self.reach
        m = np.eye(4)
        m[:3, :3] = axes / np.array([[self.width * self.scale / 2], [self.height * self.scale / 2], [-depth]])
        m[:3, 3] = -(m[:3, :3] @ self.target)
        return m
