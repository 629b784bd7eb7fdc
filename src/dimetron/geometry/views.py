"""The six principal views of ISO 128, auxiliary views, and their frames in the world."""

from __future__ import annotations

import enum
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Vector = NDArray[np.float64]

AXIS_NAMES = ("X", "Y", "Z")
#: What a size along each world axis is called.
EXTENT_NAMES = ("width", "depth", "height")


class Directions(NamedTuple):
    """Unit vectors of a view as seen: right and up on the paper, forward into it. Each (3,)."""

    right: Vector
    up: Vector
    forward: Vector


Triple = tuple[float, float, float]
#: A direction counts as a world axis when it leaves it by less than this.
_ALONG_AXIS = 1e-9


class _Square:
    """What every view can do: it looks squarely at the planes across its line of sight."""

    @property
    def directions(self) -> Directions:
        """Which way is right, up and into the paper."""
        raise NotImplementedError

    @property
    def paper_axes(self) -> tuple[int | None, int | None]:
        """World axes that run exactly across and up the paper; None where it is inclined."""
        directions = self.directions
        return _axis_of(directions.right), _axis_of(directions.up)

    @property
    def paper_signs(self) -> tuple[int, int]:
        """+1 where across or up is the positive direction of its axis (or of none), else -1."""
        directions = self.directions
        a, b = (
            -1 if axis is not None and way[axis] < 0 else 1
            for axis, way in zip(self.paper_axes, (directions.right, directions.up), strict=True)
        )
        return a, b

    def to_plane(self, points: Vector) -> Vector:
        """World points (..., 3) to view-plane coordinates (..., 2) in mm."""
        directions = self.directions
        return np.asarray(
            points @ np.stack([directions.right, directions.up], axis=1), dtype=np.float64
        )

    def to_world(self, plane: Vector, depth: float = 0.0) -> Vector:
        """View-plane points (..., 2) to world points (..., 3), ``depth`` mm along forward."""
        directions = self.directions
        basis = np.stack([directions.right, directions.up])
        return np.asarray(plane @ basis + depth * directions.forward, dtype=np.float64)


def _axis_of(way: Vector) -> int | None:
    axis = int(np.argmax(np.abs(way)))
    return axis if abs(way[axis]) > 1 - _ALONG_AXIS else None


class View(_Square, enum.Enum):
    """The six principal views, as ISO 128-30 has them."""

    FRONT = "front"
    BACK = "back"
    LEFT = "left"
    RIGHT = "right"
    TOP = "top"
    BOTTOM = "bottom"

    @property
    def directions(self) -> Directions:
        """Which way is right, up and into the paper."""
        return _DIRECTIONS[self]

    @property
    def title(self) -> str:
        """What people call it."""
        return self.value.capitalize()

    @property
    def axes(self) -> tuple[int, int]:
        """World axes (0 X, 1 Y, 2 Z) that run across and up the paper."""
        return _AXES[self]

    @property
    def signs(self) -> tuple[int, int]:
        """+1 where the paper's right or up direction is the axis's positive one."""
        directions = self.directions
        across, up = self.axes
        return int(directions.right[across]), int(directions.up[up])

    @property
    def depth_axis(self) -> int:
        """The world axis that the view does not show."""
        return 3 - sum(self.axes)

    @property
    def opposite(self) -> View:
        """The view from the other side."""
        return _OPPOSITE[self]

    @property
    def key(self) -> str:
        """What files and scripts call it."""
        return str(self.value)

    @property
    def turned_up(self) -> bool:
        """Whether the height runs up the paper."""
        return self.axes[1] == 2


@dataclass(frozen=True, slots=True)
class Hinge:
    """How an auxiliary view was tilted: about a line through ``point`` along ``way`` (unit), by
    ``angle_deg`` counter-clockwise seen against that way, out of a principal view."""

    base: View
    point: Triple
    way: Triple
    angle_deg: float


@dataclass(frozen=True, slots=True)
class Auxiliary(_Square):
    """A view square to an inclined plane. right, up: unit vectors as seen, square to each other;
    through: a point of the plane; hinge: None if it was not made by tilting."""

    id: str
    name: str
    right: Triple
    up: Triple
    through: Triple = (0.0, 0.0, 0.0)
    hinge: Hinge | None = None

    @property
    def directions(self) -> Directions:
        """Which way is right, up and into the paper."""
        return _inclined(self.right, self.up)

    @property
    def title(self) -> str:
        """What people call it."""
        return self.name

    @property
    def key(self) -> str:
        """What files call it: its id."""
        return self.id

    @property
    def axes(self) -> tuple[int, ...]:
        """World axes shown at full length: none, one or two."""
        return tuple(axis for axis in self.paper_axes if axis is not None)

    @property
    def turned_up(self) -> bool:
        """Whether up on the paper is more upwards than not."""
        return self.up[2] > 0.5

    @property
    def depth_mm(self) -> float:
        """How far along its line of sight its plane lies from the origin."""
        return float(np.array(self.through) @ self.directions.forward)


@lru_cache(maxsize=256)
def _inclined(right: Triple, up: Triple) -> Directions:
    return _frame(right, up)


AnyView = View | Auxiliary


def _frame(right: Triple, up: Triple) -> Directions:
    r, u = np.array(right, dtype=np.float64), np.array(up, dtype=np.float64)
    directions = Directions(r, u, np.cross(u, r))
    for axis in directions:
        axis.setflags(write=False)
    return directions


_X, _Y, _Z = (1, 0, 0), (0, 1, 0), (0, 0, 1)
_DIRECTIONS = {
    View.FRONT: _frame(_X, _Z),
    View.BACK: _frame((-1, 0, 0), _Z),
    View.RIGHT: _frame(_Y, _Z),
    View.LEFT: _frame((0, -1, 0), _Z),
    View.TOP: _frame(_X, _Y),
    View.BOTTOM: _frame(_X, (0, -1, 0)),
}
_AXES = {
    view: (int(np.argmax(np.abs(f.right))), int(np.argmax(np.abs(f.up))))
    for view, f in _DIRECTIONS.items()
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
        """Third-angle for first-angle, and the other way round."""
        third = Projection.THIRD_ANGLE
        return Projection.FIRST_ANGLE if self is third else third


def shared_axes(a: AnyView, b: AnyView) -> tuple[int, ...]:
    """World axes that both views show, across or up."""
    return tuple(axis for axis in a.axes if axis in b.axes)
