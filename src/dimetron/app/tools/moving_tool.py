"""What moves, turns and resizes vertices has in common: they are dragged or typed, and what lies
near goes along."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from dimetron.app.kit.instrument import Field, Option
from dimetron.app.tools import aim
from dimetron.app.tools.base import BoardEvent, far_apart
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.mesh_tool import NOTHING_SELECTED, MeshTool, fixed_point
from dimetron.document.model import MeshObject, with_item
from dimetron.mesh import select
from dimetron.mesh.arrays import Floats, Ints, MeshError, box_corners, extent
from dimetron.mesh.falloff import SHAPES, going
from dimetron.mesh.patch import Patch
from dimetron.mesh.select import Kind


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
        """(8, 3) corners around the vertices where they were."""
        return box_corners(extent(self.points))

    def moved(self, by: Callable[[Floats], Floats]) -> Patch:
        """The vertices (k, 3) elsewhere, those that only go along less far."""
        if self.weights is not None:
            placed = self.points + (by(self.points) - self.points) * self.weights[:, None]
            return Patch(self.vertices, placed)
        whole = len(self.vertices) == len(self.item.mesh.positions)
        # Turned it is larger than it has to be, which nobody sees.
        box = extent(by(self.box)) if len(self.vertices) else None
        return Patch(self.vertices, by(self.points), similar=whole, box=box)

    @cached_property
    def leader(self) -> Floats:
        """What snaps: the vertex (3,) that is nearest to where the mesh was taken hold of."""
        away = ((self.points - self.grabbed) ** 2) @ np.ones(3)
        return np.asarray(self.points[int(np.argmin(away))])


class MovingTool(MeshTool):
    """Moves what is selected of the chosen mesh, and what lies near as far as it goes along."""

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._drag: Drag | None = None

    def begun(self, item: MeshObject, vertices: Ints, at: Floats, px: tuple[float, float]) -> Drag:
        """A drag of vertices, with those around that go along."""
        soft = self.bench.soft
        if not self._is_soft:
            return Drag(item, vertices, at, px)
        found = going(item.mesh.positions, vertices, soft.mm, soft.shape)
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
        """Show the dragged vertices (k, 3) elsewhere: all moved, turned or scaled alike; those that
        only go along less far."""
        self.bench.move(drag.item.id, drag.moved(by))

    def typed(self, about: str) -> Drag:
        """What typed numbers move of the chosen mesh, about a fixed point (``fixed_point``).
        Raises ValueError if nothing is selected."""
        item = self.bench.chosen_mesh
        vertices = select.none() if item is None else self.vertices(item)
        if item is None or not len(vertices):
            raise ValueError(NOTHING_SELECTED)
        return self.begun(item, vertices, fixed_point(item.mesh.positions[vertices], about), (0, 0))

    def commit_moved(self, drag: Drag, by: Callable[[Floats], Floats], label: str) -> None:
        """Make a step of the vertices elsewhere."""
        mesh = drag.moved(by).applied(drag.item.mesh)
        self.bench.commit(with_item(self.bench.committed, drag.item.id, mesh=mesh), label)

    def abandon(self) -> bool:
        active, self._drag = self.active, None
        if active:
            self.bench.cancel()
        return active

    @property
    def _is_soft(self) -> bool:
        return self.bench.soft.mm > 0 and self.bench.kind is not Kind.WHOLE

    @property
    def alone(self) -> bool:
        """With what goes along there is no room for what was done last."""
        return self._is_soft

    def soft_fields(self) -> list[Field]:
        """How far around what is selected goes along."""
        if self.bench.kind is Kind.WHOLE:
            return []

        def enter(value: float) -> None:
            if value < 0:
                raise MeshError("The radius must be nothing or more.")
            self.bench.soft.mm = value
            self.bench.refresh()

        hint = "What lies this near goes along; 0: nothing does"
        return [Field("Soft within", self.bench.soft.mm, enter, hint=hint)]

    def soft_options(self) -> list[Option]:
        """How what goes along lessens, once something does."""
        if not self._is_soft:
            return []

        def choose(value: str) -> None:
            self.bench.soft.shape = value
            self.bench.refresh()

        return [Option("Fades", SHAPES, self.bench.soft.shape, choose, listed=True)]
