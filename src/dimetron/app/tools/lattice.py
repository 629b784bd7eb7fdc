"""A lattice around the chosen mesh or part: its knots are dragged, and the shape goes along."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.app.kit.instrument import Action, Field, Option
from dimetron.app.tools import aim
from dimetron.app.tools.base import REACH_PX, BoardEvent, far_apart
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.mesh_tool import MeshTool, dragged_to
from dimetron.document.model import Document, MeshObject, with_item
from dimetron.mesh import select
from dimetron.mesh.arrays import Floats, Ints, MeshError
from dimetron.mesh.lattice import Lattice, lattice_around, lines_of
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.patch import Patch
from dimetron.render.overlays import Marks, Overlay, Strokes

#: More knots along an axis are more than a hand can hold.
_MOST = 8


@dataclass(slots=True)
class _Around:
    """What the lattice is around: vertices of a mesh as it was before; made: the step that it has
    become, if it has."""

    id: str
    mesh: Mesh
    vertices: Ints
    lattice: Lattice
    made: Document | None = None


@dataclass(slots=True)
class _Pull:
    px: tuple[float, float]
    at: Floats
    dragging: bool = False
    by: Floats | None = None


class LatticeTool(MeshTool):
    """Drag knots of a lattice around the mesh; it stays to be changed until it is done with."""

    shortcut = ""
    family = "whole"
    selects = False
    name, title, icon = "lattice", "Lattice", "lattice"
    hint = "Drag knots of the lattice, Shift adds; X, Y or Z keeps to an axis. Enter: a new one."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._counts = (3, 3, 3)
        self._around: _Around | None = None
        self._knots: Ints = select.none()
        self._pull: _Pull | None = None

    # What it is around.

    def _live(self) -> _Around | None:
        """The lattice, made anew around what is chosen now, unless nothing else was done."""
        item = self.bench.chosen_mesh
        if item is None:
            return None
        around = self._around
        if around is not None and around.id == item.id:
            fresh = around.made is None and item.mesh is around.mesh
            if fresh or around.made is self.bench.committed or self._pull is not None:
                return around
        return self._anew(item)

    def _anew(self, item: MeshObject) -> _Around | None:
        mesh = self.bench.committed.mesh(item.id).mesh
        vertices = self.vertices(item)
        if not len(vertices):
            return None
        lattice = lattice_around(mesh.positions[vertices], self._counts)
        self._around = _Around(item.id, mesh, vertices, lattice)
        self._knots = select.none()
        return self._around

    @property
    def active(self) -> bool:
        return self._pull is not None

    def taken_up(self) -> None:
        self._around = None

    # By dragging.

    def press(self, event: BoardEvent) -> bool:
        around = self._live()
        if around is None:
            hit = aim.mesh_at(self.bench.document, event)
            if hit is None:
                return False
            self.bench.choose((hit.item.id,))
            return True
        knots = around.lattice.knots.reshape(-1, 3)
        px = event.camera.project(knots)
        away = np.hypot(*(px - np.array(event.px)).T)
        if away.min() > REACH_PX:
            return False
        near = np.flatnonzero(away <= away.min() + 1.0)
        # Those that stand behind one another in a flat pane are one to the hand there.
        if event.view is None:
            near = near[[int(np.argmin(event.camera.depths(knots[near])))]]
        if event.shift:
            self._knots = np.union1d(self._knots, near)
        elif not np.isin(near, self._knots).all():
            self._knots = near
        self._pull = _Pull(event.px, knots[near[0]].copy())
        self.bench.refresh()
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        pull, around = self._pull, self._around
        if pull is None or around is None or not pressed:
            return
        pull.dragging = pull.dragging or far_apart(event.px, pull.px)
        if not pull.dragging:
            return
        begin, now = (dragged_to(event.camera, px, pull.at, self.way) for px in (pull.px, event.px))
        pull.by = now - begin
        lattice = around.lattice.moved(self._knots, pull.by)
        shaped = lattice.shaped(around.mesh.positions[around.vertices])
        if around.made is None:
            self.bench.move(around.id, Patch(around.vertices, shaped))
        else:
            mesh = around.mesh.with_moved(around.vertices, shaped)
            self.bench.preview(with_item(self.bench.committed, around.id, mesh=mesh))

    def release(self, event: BoardEvent) -> None:
        pull, self._pull = self._pull, None
        around = self._around
        if pull is None or around is None or pull.by is None:
            return
        around.lattice = around.lattice.moved(self._knots, pull.by)
        self._keep(around)

    def _keep(self, around: _Around) -> None:
        """As a step; the same step as long as it is the last one."""
        shaped = around.lattice.shaped(around.mesh.positions[around.vertices])
        mesh = around.mesh.with_moved(around.vertices, shaped)
        doc = with_item(self.bench.committed, around.id, mesh=mesh)
        if around.made is self.bench.committed:
            self.bench.recommit(doc, "Lattice")
        else:
            self.bench.commit(doc, "Lattice")
        around.made = self.bench.committed
        self.bench.refresh()

    def abandon(self) -> bool:
        active, self._pull = self.active, None
        if active:
            self.bench.cancel()
        elif len(self._knots):
            self._knots, active = select.none(), True
        return active

    def key(self, key: str, event: BoardEvent | None) -> bool:
        if key == "enter" and self._around is not None:
            self._done()
            return True
        return super().key(key, event)

    def _done(self) -> None:
        """What was shaped stays; the next knots are those of a new lattice."""
        self._around = None
        self._knots = select.none()
        self.bench.refresh()

    # By typing.

    def fields(self) -> Sequence[Field]:
        names = ("Knots along X", "Knots along Y", "Knots along Z")
        return [
            Field(name, float(self._counts[axis]), self._counted(axis), kind="number")
            for axis, name in enumerate(names)
        ]

    def _counted(self, axis: int) -> Callable[[float], None]:
        def enter(value: float) -> None:
            number = round(value)
            if not 2 <= number <= _MOST:
                raise MeshError(f"There are 2 to {_MOST} knots along an axis.")
            counts = list(self._counts)
            counts[axis] = number
            self._counts = (counts[0], counts[1], counts[2])
            self._done()

        return enter

    def options(self) -> Sequence[Option]:
        return (self.axis_option(),)

    def actions(self) -> Sequence[Action]:
        ready = self._around is not None and self._around.made is not None
        hint = "It stays as it is now; the next knots are those of a new lattice (Enter)"
        return (Action("done", "Done with it", self._done, hint, ready, main=True),)

    def overlays(self) -> Sequence[Overlay]:
        around = self._live()
        if around is None:
            return ()
        lattice = around.lattice
        if self._pull is not None and self._pull.by is not None:
            lattice = lattice.moved(self._knots, self._pull.by)
        knots = lattice.knots.reshape(-1, 3)
        marks: list[Overlay] = [Strokes(line, "accent", 1.0) for line in lines_of(lattice)]
        marks.append(Marks(knots, "square", "accent", 5.0))
        if len(self._knots):
            marks.append(Marks(knots[self._knots], "square", "selection", 8.0))
        return marks
