"""A right-handed local frame in the model."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike, NDArray

Vec = NDArray[np.float64]


class Placement:
    """Origin (3,) and axes (3, 3): the columns are the local x, y, z in model coordinates. Immutable."""

    __slots__ = ("axes", "origin")

    def __init__(self, origin: ArrayLike, axes: ArrayLike) -> None:
        self.origin: Vec = np.array(origin, dtype=np.float64)
        self.axes: Vec = np.array(axes, dtype=np.float64)
        self.origin.setflags(write=False)
        self.axes.setflags(write=False)

    @classmethod
    def identity(cls) -> Placement:
        return cls(np.zeros(3), np.eye(3))

    @property
    def x(self) -> Vec:
        return self.axes[:, 0]

    @property
    def y(self) -> Vec:
        return self.axes[:, 1]

    @property
    def z(self) -> Vec:
        return self.axes[:, 2]

    def to_model(self, points: ArrayLike) -> Vec:
        """Local points (..., 3) in model coordinates."""
        return np.asarray(points, dtype=np.float64) @ self.axes.T + self.origin

    def to_local(self, points: ArrayLike) -> Vec:
        return (np.asarray(points, dtype=np.float64) - self.origin) @ self.axes

    def __matmul__(self, inner: Placement) -> Placement:
        """The frame `inner`, given in this frame, in the model."""
        return Placement(self.to_model(inner.origin), self.axes @ inner.axes)

    @property
    def inverse(self) -> Placement:
        return Placement(-(self.origin @ self.axes), self.axes.T)

    def moved(self, local: ArrayLike) -> Placement:
        """The same axes at another local origin."""
        return Placement(self.to_model(local), self.axes)

    def near(self, other: Placement, mm: float, reach: float = 1000.0) -> bool:
        """Same place within `mm`, measured at the origin and at points `reach` along each axis."""
        if np.abs(self.origin - other.origin).max() > mm:
            return False
        return bool(np.abs(self.axes - other.axes).max() * reach <= mm * 4)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Placement) and bool(
            np.array_equal(self.origin, other.origin) and np.array_equal(self.axes, other.axes)
        )

    def __hash__(self) -> int:
        return hash((self.origin.tobytes(), self.axes.tobytes()))


OFF_TIES = 0.037  # of the last digit kept


def settled(values: ArrayLike, digits: int) -> Vec:
    """Numbers rounded so that the last bits of their reckoning do not show: the same steel reads the same wherever it
    stands. Sixteenths of an inch, their halves and tenths of a mm would lie on the very edge between two roundings;
    the edges are put where no such figure is."""
    return np.round(np.asarray(values, dtype=np.float64) + OFF_TIES * 10.0**-digits, digits) + 0.0


def settled_one(value: float, digits: int) -> float:
    """One number, as `settled`."""
    return round(value + OFF_TIES * 10.0**-digits, digits) + 0.0


def point_of(v: ArrayLike) -> tuple[float, float, float]:
    """A point of three plain numbers, as records hold it."""
    x, y, z = np.asarray(v, dtype=np.float64).tolist()
    return x, y, z


def tidied(v: ArrayLike) -> tuple[float, float, float]:
    """A point free of the last bits of noise, to a millionth of a mm: copies of copies do not drift."""
    x, y, z = point_of(v)
    return settled_one(x, 6), settled_one(y, 6), settled_one(z, 6)


def unit(vector: ArrayLike) -> Vec:
    v = np.asarray(vector, dtype=np.float64)
    length = math.sqrt(float(v @ v))
    if length < 1e-12:
        raise ValueError("a direction has no length")
    return v / length
