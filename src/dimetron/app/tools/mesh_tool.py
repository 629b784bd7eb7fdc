"""What the tools on a chosen mesh share: its selected part, axes to keep to, sizes to type."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from dimetron.app.kit.instrument import Field, Option
from dimetron.app.tools.base import AXIS_KEYS, BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.document.model import MeshObject
from dimetron.geometry.camera import Camera
from dimetron.geometry.views import AXIS_NAMES, EXTENT_NAMES
from dimetron.mesh import select
from dimetron.mesh.arrays import Floats, Ints, MeshError, extent
from dimetron.mesh.frames import WORLD
from dimetron.mesh.select import Kind
from dimetron.render.overlays import Overlay, Strokes

#: What is typed along axes that are not the world's.
ALONG_NAMES = tuple(f"Along {name}" for name in AXIS_NAMES)
#: Half the length of a line that shows an axis, mm.
_FAR = 1e4
NOTHING_SELECTED = "Select a mesh or a part of it first."


class MeshTool(Tool):
    """What the tools on a chosen mesh share: its selected part, and axes to keep to."""

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self.axis: int | None = None

    def vertices(self, item: MeshObject) -> Ints:
        """Vertices that the selection moves; the whole mesh when no part is selected."""
        if self.bench.kind is not Kind.WHOLE and not len(self.bench.selected):
            return select.none()
        return select.vertices_of(item.mesh, self.bench.kind, self.bench.selected)

    def key(self, key: str, event: BoardEvent | None) -> bool:
        if key not in AXIS_KEYS:
            return False
        self.axis = None if self.axis == AXIS_KEYS[key] else AXIS_KEYS[key]
        if event is not None:
            self.move(event, pressed=self.active)
        self.bench.refresh()
        return True

    @property
    def active(self) -> bool:
        """Whether something is held by the pointer."""
        return False

    def axis_option(self) -> Option:
        def choose(value: str) -> None:
            self.axis = AXIS_KEYS.get(value)
            self.bench.refresh()

        choices = (("free", "free"), ("x", "X"), ("y", "Y"), ("z", "Z"))
        value = "free" if self.axis is None else "xyz"[self.axis]
        return Option("Keep to", choices, value, choose)

    def axes(self) -> Floats:
        """(3, 3) the axes that can be kept to, as rows."""
        return WORLD

    @property
    def way(self) -> Floats | None:
        """The direction (3,) that is kept to."""
        return None if self.axis is None else self.axes()[self.axis]

    def axis_line(self, through: Floats) -> list[Overlay]:
        """A long line along the axis that is kept to."""
        way = self.way
        if way is None:
            return []
        line = np.stack([through - way * _FAR, through + way * _FAR])
        return [Strokes(line, "accent", 1.2, dash=6.0)]


def dragged_to(
    camera: Camera, px: tuple[float, float], start: Floats, way: Floats | None
) -> Floats:
    """Where the world point ``start`` (3,) goes when its pixel is dragged to ``px``.

    Without a way it moves in the plane that faces the pane; with one (3,), to the point of the line
    along it that is nearest to the pointer's ray.
    """
    ray = camera.ray(px)
    forward = camera.forward
    if way is None:
        along = float((start - ray.origin) @ forward) / float(ray.direction @ forward)
        return np.asarray(ray.origin + along * ray.direction)
    across = float(way @ ray.direction)
    bottom = 1 - across * across
    if bottom < 1e-6:
        return start.copy()
    between = start - ray.origin
    t = (across * float(between @ ray.direction) - float(between @ way)) / bottom
    return np.asarray(start + t * way)


def nothing_selected(value: float) -> None:
    raise ValueError(NOTHING_SELECTED)


def size_fields(bench: Bench, axes: Floats, resize: Callable[[Floats, str], None]) -> list[Field]:
    """How large what is selected is along axes (3, 3), to be typed: width, depth and height along
    the world's. resize: is told by how much (3,), and the step's words."""
    item, world = bench.chosen_mesh, axes is WORLD
    names = [name.capitalize() for name in EXTENT_NAMES] if world else list(ALONG_NAMES)
    vertices = select.none()
    if item is not None:
        vertices = select.vertices_of(item.mesh, bench.kind, bench.selected)
    if item is None or not len(vertices):
        return [Field(name, None, nothing_selected) for name in names]
    size = np.ptp(extent(item.mesh.positions[vertices] @ axes.T), axis=0)

    def enter_along(axis: int) -> Callable[[float], None]:
        called = EXTENT_NAMES[axis] if world else f"size along {AXIS_NAMES[axis]}"

        def enter(value: float) -> None:
            if size[axis] < 1e-9:
                raise MeshError(f"What is selected has no {called} to change.")
            if value <= 0:
                raise MeshError("The size must be more than zero.")
            factors = np.ones(3)
            factors[axis] = value / size[axis]
            resize(factors, f"Set the {called}")

        return enter

    return [Field(name, float(size[axis]), enter_along(axis)) for axis, name in enumerate(names)]
