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
from dimetron.app.tools.framing import Framing
from dimetron.app.tools.mesh_tool import NOTHING_SELECTED, MeshTool
from dimetron.document.model import MeshObject, with_item
from dimetron.mesh import select
from dimetron.mesh.arrays import Floats, Ints, MeshError, box_corners, extent
from dimetron.mesh.falloff import SHAPES, going
from dimetron.mesh.frames import WORLD
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
    #: (3, 3) along which it is kept, turned and resized.
    axes: Floats = field(default_factory=lambda: WORLD)
    #: (3,) the point that stays, or (k, 3) the one of each vertex.
    fixed: Floats = field(default_factory=lambda: np.zeros(3))
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
        if self.apart:
            return Patch(self.vertices, by(self.points))
        # Turned it is larger than it has to be, which nobody sees.
        box = extent(by(self.box)) if len(self.vertices) else None
        return Patch(self.vertices, by(self.points), similar=whole, box=box)

    @property
    def apart(self) -> bool:
        """Whether each vertex has a point of its own that stays."""
        return self.fixed.ndim == 2

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
        #: What stays: one of ``framing.PIVOTS``.
        self.about_point = "middle"
        self.framing = Framing(bench)

    def axes(self) -> Floats:
        drag = self._drag
        return self.framing.axes(self.bench.chosen_mesh) if drag is None else drag.axes

    def look(self, event: BoardEvent) -> None:
        """The pointer is in a pane, whose axes may be those that count."""
        if self._drag is None and self.framing.look(event.camera):
            self.bench.refresh()

    def begun(
        self,
        item: MeshObject,
        vertices: Ints,
        at: Floats,
        px: tuple[float, float],
    ) -> Drag:
        """A drag of vertices taken hold of at a point (3,), with those around that go along."""
        soft, weights, axes = self.bench.soft, None, self.framing.axes(item)
        if self._is_soft:
            vertices, weights = going(item.mesh.positions, vertices, soft.mm, soft.shape)
        apart = self.about_point == "each"
        fixed = self.framing.middles(item, vertices) if apart else at
        return Drag(item, vertices, at, px, weights=weights, axes=axes, fixed=fixed)

    def begun_at(self, event: BoardEvent) -> bool:
        """A drag about the pivot of what is selected of the chosen mesh, or of the one under the
        pointer; False if there is nothing to drag."""
        item = aim.chosen_or_at(self.bench, event)
        vertices = select.none() if item is None else self.vertices(item)
        if item is None or not len(vertices) or not self.bench.document.free(item):
            return False
        self._drag = self._about(item, vertices, event.px)
        return True

    def _about(self, item: MeshObject, vertices: Ints, px: tuple[float, float]) -> Drag:
        return self.begun(item, vertices, self.framing.pivot(item, vertices, self.about_point), px)

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

    def typed(self) -> Drag:
        """What typed numbers move of the chosen mesh, about the pivot. Raises ValueError where
        nothing is selected."""
        item = self.bench.chosen_mesh
        vertices = select.none() if item is None else self.vertices(item)
        if item is None or not len(vertices):
            raise ValueError(NOTHING_SELECTED)
        return self._about(item, vertices, (0, 0))

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

    def picked_at(self, event: BoardEvent) -> bool:
        """Control and a click, or the first one where a point is to be picked, puts the pivot."""
        waits = self.about_point == "picked" and self.bench.frame.pivot is None
        if not event.ctrl and not waits:
            return False
        self.about_point = "picked"
        self.framing.pick(event)
        return True

    def frame_options(self, name: str) -> list[Option]:
        """What stays, along which axes, and which of them it is kept to."""

        def choose(value: str) -> None:
            self.about_point = value
            self.bench.refresh()

        pivot = self.framing.pivot_option(name, self.about_point, choose)
        return [pivot, self.framing.option(), self.axis_option()]

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
