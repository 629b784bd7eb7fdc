"""What the tools on a chosen mesh share: its selected part, axes to keep to, sizes to type."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from dimetron.app.kit.instrument import Field, Option
from dimetron.app.tools import aim
from dimetron.app.tools.base import AXIS_KEYS, BoardEvent, Tool, far_apart
from dimetron.app.tools.bench import Bench
from dimetron.document.model import Document, MeshObject, with_item
from dimetron.geometry.camera import Camera
from dimetron.geometry.views import EXTENT_NAMES
from dimetron.mesh import edit, select
from dimetron.mesh.arrays import Floats, Ints, MeshError, extent
from dimetron.mesh.falloff import SHAPES, going
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.patch import Patch
from dimetron.mesh.select import Kind
from dimetron.render.overlays import Overlay, Strokes


@dataclass
class Drag:
    item: MeshObject
    vertices: Ints
    grabbed: Floats
    px: tuple[float, float]
    dragging: bool = False
    #: (k,) by how much each goes along; none: all fully.
    weights: Floats | None = None
    #: (k, 3) where the vertices were.
    points: Floats = field(init=False)

    def __post_init__(self) -> None:
        positions = self.item.mesh.positions
        whole = len(self.vertices) == len(positions)
        self.points = positions if whole else positions[self.vertices]

    @cached_property
    def box(self) -> Floats:
        """(2, 3) of the vertices where they were."""
        return extent(self.points)

    @cached_property
    def leader(self) -> Floats:
        """What snaps: the vertex (3,) that is nearest to where the mesh was taken hold of."""
        away = ((self.points - self.grabbed) ** 2) @ np.ones(3)
        return np.asarray(self.points[int(np.argmin(away))])


class MeshTool(Tool):
    """What the tools on a chosen mesh share: its selected part, and axes to keep to."""

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self.axis: int | None = None
        #: What lies so near goes along, and how that lessens.
        self.soft_mm = 0.0
        self.soft_shape = "smooth"
        self._drag: Drag | None = None

    def vertices(self, item: MeshObject) -> Ints:
        """Vertices that the selection moves; the whole mesh when no part is selected."""
        if self.bench.kind is not Kind.WHOLE and not len(self.bench.selected):
            return select.none()
        return select.vertices_of(item.mesh, self.bench.kind, self.bench.selected)

    def begun(self, item: MeshObject, vertices: Ints, at: Floats, px: tuple[float, float]) -> Drag:
        """A drag of vertices, with those around that go along."""
        if self.soft_mm <= 0 or self.bench.kind is Kind.WHOLE:
            return Drag(item, vertices, at, px)
        found = going(item.mesh.positions, vertices, self.soft_mm, self.soft_shape)
        return Drag(item, found.vertices, at, px, weights=found.weights)

    def begun_at(self, event: BoardEvent, about: str) -> bool:
        """A drag about a fixed point (``fixed_point``) of what is selected of the chosen mesh, or
        of the one under the pointer; False if there is nothing to drag."""
        item = aim.chosen_or_at(self.bench, event)
        vertices = select.none() if item is None else self.vertices(item)
        if item is None or not len(vertices) or not self.bench.document.free(item):
            return False
        fixed = fixed_point(item.mesh.positions[vertices], about)
        self._drag = self.begun(item, vertices, fixed, event.px)
        return True

    def soft_fields(self) -> list[Field]:
        """How far around what is selected goes along."""
        if self.bench.kind is Kind.WHOLE:
            return []

        def enter(value: float) -> None:
            if value < 0:
                raise MeshError("The radius must be nothing or more.")
            self.soft_mm = value
            # There is no room then for what was done last.
            self.alone = value > 0
            self.bench.refresh()

        return [
            Field("Soft within", self.soft_mm, enter, hint="What lies this near goes along; 0: no")
        ]

    def soft_options(self) -> list[Option]:
        """How what goes along lessens, once something does."""
        if self.soft_mm <= 0 or self.bench.kind is Kind.WHOLE:
            return []

        def choose(value: str) -> None:
            self.soft_shape = value
            self.bench.refresh()

        return [Option("Fades", SHAPES, self.soft_shape, choose, listed=True)]

    def with_mesh(self, item: MeshObject, mesh: Mesh) -> Document:
        return with_item(self.bench.committed, item.id, mesh=mesh)

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
        """Whether the mesh is held by the pointer."""
        return self._drag is not None

    def pulled(self, event: BoardEvent, pressed: bool) -> Drag | None:
        """The drag under way, once the pointer has gone far enough to mean one."""
        drag = self._drag
        if drag is None or not pressed:
            return None
        drag.dragging = drag.dragging or far_apart(event.px, drag.px)
        return drag if drag.dragging else None

    def show_moved(self, drag: Drag, by: Callable[[Floats], Floats]) -> None:
        """Show the dragged vertices (k, 3) elsewhere: all moved alike, or scaled along the axes;
        those that only go along less far."""
        if drag.weights is not None:
            placed = drag.points + (by(drag.points) - drag.points) * drag.weights[:, None]
            self.bench.move(drag.item.id, Patch(drag.vertices, placed))
            return
        whole = len(drag.vertices) == len(drag.item.mesh.positions)
        box = extent(by(drag.box)) if len(drag.vertices) else None
        patch = Patch(drag.vertices, by(drag.points), similar=whole, box=box)
        self.bench.move(drag.item.id, patch)

    def abandon(self) -> bool:
        active, self._drag = self.active, None
        if active:
            self.bench.cancel()
        return active

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
    raise ValueError("Select a mesh or a part of it first.")


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
