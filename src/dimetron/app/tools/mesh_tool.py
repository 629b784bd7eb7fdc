"""What the tools on a chosen mesh share: its selected part, axes to keep to, sizes to type."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from dimetron.app.kit.instrument import Field, Option
from dimetron.app.tools.base import AXIS_KEYS, BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.document.model import MeshObject, with_item
from dimetron.geometry.camera import Camera
from dimetron.geometry.views import EXTENT_NAMES
from dimetron.mesh import edit, select
from dimetron.mesh.arrays import Floats, Ints, MeshError, extent
from dimetron.mesh.select import Kind
from dimetron.render.overlays import Overlay, Strokes

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

    def axis_line(self, through: Floats) -> list[Overlay]:
        """A long line along the axis that is kept to."""
        if self.axis is None:
            return []
        way = np.zeros(3)
        way[self.axis] = 1e4
        line = np.stack([through - way, through + way])
        return [Strokes(line, "accent", 1.2, dash=6.0)]


def dragged_to(camera: Camera, px: tuple[float, float], start: Floats, axis: int | None) -> Floats:
    """Where the world point ``start`` (3,) goes when its pixel is dragged to ``px``.

    Without an axis it moves in the plane that faces the pane; with one, to the point of the axis
    line that is nearest to the pointer's ray.
    """
    ray = camera.ray(px)
    forward = camera.forward
    if axis is None:
        along = float((start - ray.origin) @ forward) / float(ray.direction @ forward)
        return np.asarray(ray.origin + along * ray.direction)
    way = np.zeros(3)
    way[axis] = 1.0
    across = float(way @ ray.direction)
    bottom = 1 - across * across
    if bottom < 1e-6:
        return start.copy()
    between = start - ray.origin
    t = (across * float(between @ ray.direction) - float(between @ way)) / bottom
    return np.asarray(start + t * way)


def nothing_selected(value: float) -> None:
    raise ValueError(NOTHING_SELECTED)


def size_fields(bench: Bench, about: str) -> list[Field]:
    """Width, depth and height of what is selected, to be typed."""
    item = bench.chosen_mesh
    names = [name.capitalize() for name in EXTENT_NAMES]
    if item is None:
        return [Field(name, None, nothing_selected) for name in names]
    vertices = select.vertices_of(item.mesh, bench.kind, bench.selected)
    if not len(vertices):
        return [Field(name, None, nothing_selected) for name in names]
    points = item.mesh.positions[vertices]
    size = np.ptp(extent(points), axis=0)

    def enter_along(axis: int) -> Callable[[float], None]:
        def enter(value: float) -> None:
            if size[axis] < 1e-9:
                raise MeshError(f"What is selected has no {EXTENT_NAMES[axis]} to change.")
            if value <= 0:
                raise MeshError("The size must be more than zero.")
            factors = np.ones(3)
            factors[axis] = value / size[axis]
            mesh = edit.scaled(item.mesh, vertices, factors, fixed_point(points, about))
            doc = with_item(bench.committed, item.id, mesh=mesh)
            bench.commit(doc, f"Set the {EXTENT_NAMES[axis]}")

        return enter

    return [Field(name, float(size[axis]), enter_along(axis)) for axis, name in enumerate(names)]


def fixed_point(points: Floats, about: str) -> Floats:
    """The point that stays when things are resized: their middle, the middle of their base,
    or the world's origin."""
    if about == "origin":
        return np.zeros(3)
    low, high = points.min(axis=0), points.max(axis=0)
    middle = (low + high) / 2
    if about == "base":
        middle[2] = low[2]
    return np.asarray(middle)
