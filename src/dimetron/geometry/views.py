"""The six principal views of ISO 128 and their frames in the world."""

from __future__ import annotations

import enum
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Vector = NDArray[np.float64]

AXIS_NAMES = ("X", "Y", "Z")
#: What a size along each world axis is called.
EXTENT_NAMES = ("width", "depth", "height")


class Frame(NamedTuple):
    """Unit vectors of a view as seen: right and up on the paper, forward into it. Each (3,)."""

    right: Vector
    up: Vector
    forward: Vector


class View(enum.Enum):
    FRONT = "front"
    BACK = "back"
    LEFT = "left"
    RIGHT = "right"
    TOP = "top"
    BOTTOM = "bottom"

    @property
    def frame(self) -> Frame:
        return _FRAMES[self]

    @property
    def title(self) -> str:
        return self.value.capitalize()

    @property
    def axes(self) -> tuple[int, int]:
        """World axes (0 X, 1 Y, 2 Z) that run across and up the paper."""
        return _AXES[self]

    @property
    def signs(self) -> tuple[int, int]:
        """+1 where the paper's right or up direction is the axis's positive one."""
        frame = self.frame
        across, up = self.axes
        return int(frame.right[across]), int(frame.up[up])

    @property
    def depth_axis(self) -> int:
        return 3 - sum(self.axes)

    @property
    def opposite(self) -> View:
        return _OPPOSITE[self]

    def to_plane(self, points: Vector) -> Vector:
        """World points (..., 3) to view-plane coordinates (..., 2) in mm."""
        frame = self.frame
        return np.asarray(points @ np.stack([frame.right, frame.up], axis=1), dtype=np.float64)

    def to_world(self, plane: Vector, depth: float = 0.0) -> Vector:
        """View-plane points (..., 2) to world points (..., 3), ``depth`` mm along forward."""
        frame = self.frame
        basis = np.stack([frame.right, frame.up])
        return np.asarray(plane @ basis + depth * frame.forward, dtype=np.float64)


def _frame(right: tuple[int, int, int], up: tuple[int, int, int]) -> Frame:
    r, u = np.array(right, dtype=np.float64), np.array(up, dtype=np.float64)
    frame = Frame(r, u, np.cross(u, r))
    for axis in frame:
        axis.setflags(write=False)
    return frame


_X, _Y, _Z = (1, 0, 0), (0, 1, 0), (0, 0, 1)
_FRAMES = {
    View.FRONT: _frame(_X, _Z),
    View.BACK: _frame((-1, 0, 0), _Z),
    View.RIGHT: _frame(_Y, _Z),
    View.LEFT: _frame((0, -1, 0), _Z),
    View.TOP: _frame(_X, _Y),
    View.BOTTOM: _frame(_X, (0, -1, 0)),
}
_AXES = {
    view: (int(np.argmax(np.abs(f.right))), int(np.argmax(np.abs(f.up))))
    for view, f in _FRAMES.items()
}
_OPPOSITE = {
    View.FRONT: View.BACK,
    View.BACK: View.FRONT,
    View.LEFT: View.RIGHT,
    View.RIGHT: View.LEFT,
    View.TOP: View.BOTTOM,
    View.BOTTOM: View.TOP,
}


class Projection(enum.Enum):
    """How the views are arranged on the board (ISO 128-30)."""

    THIRD_ANGLE = "third-angle"
    FIRST_ANGLE = "first-angle"

    @property
    def other(self) -> Projection:
        third = Projection.THIRD_ANGLE
        return Projection.FIRST_ANGLE if self is third else third


def shared_axes(a: View, b: View) -> tuple[int, ...]:
    """World axes that both views show, across or up."""
    return tuple(axis for axis in a.axes if axis in b.axes)
