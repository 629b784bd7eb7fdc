"""The tool for every shape to begin with: dragged out in a pane, its numbers open afterwards."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, ClassVar

import numpy as np

from dimetron.app.kit.instrument import Field, Option, Switch
from dimetron.app.tools import snap
from dimetron.app.tools.base import AXIS_KEYS, BoardEvent, Tool, far_apart
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.mesh_tool import size_fields
from dimetron.app.work.numbers import Numbers, Wheel
from dimetron.document import edits
from dimetron.document.model import Document, with_item
from dimetron.geometry.views import AXIS_NAMES, View
from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.edit import scaled, scaling, turned_over
from dimetron.mesh.frames import WORLD, fixed_point
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.select import Kind, none, vertices_of
from dimetron.mesh.starter import Starter

_Z = 2


@dataclass(frozen=True, slots=True, eq=False)
class _Place:
    """Where a shape is put: between two corners (3,), upright along an axis; over: it is turned
    over, to face the eye."""

    low: Floats
    high: Floats
    axis: int
    over: bool = False

    def filled(self, starter: Starter, how: Any) -> Mesh:
        mesh = starter.filling(self.low, self.high, self.axis, how)
        return turned_over(mesh) if self.over else mesh


@dataclass(frozen=True, slots=True, eq=False)
class _Made:
    """The shape that was put last, as long as nothing else was done: its numbers are open."""

    id: str
    place: _Place
    document: Document


class Start(Tool):
    """Drag a shape out in a pane; its third size follows the drawings, and all can be typed."""

    starter: ClassVar[Starter]
    family = "start"
    selects = False

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._how: Any = self.starter.settings()
        self._axis = _Z
        self._wheel = Wheel()
        self._start: tuple[BoardEvent, Floats] | None = None
        self._shown: tuple[str, _Place] | None = None
        self._made: _Made | None = None

    @property
    def alone(self) -> bool:
        return True

    # By dragging.

    def press(self, event: BoardEvent) -> bool:
        if event.view is None:
            return False
        if not isinstance(event.view, View):
            what = f"A {self.title.lower()} stands square to the axes"
            self.bench.warn(f"{what}; drag it in a principal view.")
            return True
        self._start = event, snap.snap(self.bench, event, event.point).point
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        if self._start is None or not pressed or event.view is not self._start[0].view:
            return
        if not far_apart(event.px, self._start[0].px):
            return
        end = snap.snap(self.bench, event, event.point).point
        place = self._place(self._start[0], self._start[1], end)
        try:
            mesh = place.filled(self.starter, self._how)
            doc, id_ = edits.with_mesh(self.bench.committed, mesh, self.title.lower())
        except MeshError:
            return
        self._shown = id_, place
        self.bench.preview(doc)

    def _place(self, event: BoardEvent, start: Floats, end: Floats) -> _Place:
        """Between opposite corners; along the line of sight as deep as what is there, else as wide;
        round shapes as wide, about the middle."""
        view = event.view
        assert isinstance(view, View)
        depth = view.depth_axis
        low, high = np.minimum(start, end), np.maximum(start, end)
        known = edits.bounds(self.bench.committed)
        width = float(high[view.axes[0]] - low[view.axes[0]])
        if depth == _Z:
            low[_Z], high[_Z] = 0.0, width
        else:
            low[depth], high[depth] = -width / 2, width / 2
        if self.starter.round and depth != self._axis:
            low[depth], high[depth] = -width / 2, width / 2
            return _Place(low, high, self._axis)
        if known is not None and known[1, depth] - known[0, depth] > 1e-6:
            low[depth], high[depth] = known[:, depth]
            if depth == _Z:
                low[_Z] = max(low[_Z], 0.0)
        if self.starter.flat:
            return _Place(low, high, depth, bool(view.directions.forward[depth] > 0))
        return _Place(low, high, self._axis)

    def release(self, event: BoardEvent) -> None:
        if self._start is not None and self._shown is not None:
            id_, place = self._shown
            self.bench.commit(self.bench.document, f"Add a {self.title.lower()}")
            self.bench.choose((id_,))
            # Sizes that are typed next are those of all of it.
            self.bench.select(Kind.WHOLE, none())
            self._made = _Made(id_, place, self.bench.committed)
        self._start = self._shown = None

    def abandon(self) -> bool:
        active = self._start is not None
        self._start = self._shown = None
        if active:
            self.bench.cancel()
        return active

    def key(self, key: str, event: BoardEvent | None) -> bool:
        """X, Y and Z say along which axis it stands."""
        if key not in AXIS_KEYS or self.starter.flat:
            return False
        self._turn(AXIS_KEYS[key])
        if self._start is not None and event is not None:
            self.move(event, pressed=True)
        return True

    def wheel(self, notches: float, event: BoardEvent) -> bool:
        """One face round, or across, more or less."""
        changed = self._wheel.turned(self.starter.parameters, self._how, notches)
        if self._start is None or changed is None:
            return False
        self._how = changed
        self.move(event, pressed=True)
        return True

    # By typing.

    def _open(self) -> _Made | None:
        """What its numbers change: the shape that was put last, unless something was done since."""
        made = self._made
        return made if made is not None and made.document is self.bench.committed else None

    def _turn(self, axis: int) -> None:
        self._axis = axis
        made = self._open()
        if made is not None:
            self._again(_Place(made.place.low, made.place.high, axis))
        self.bench.refresh()

    def _take(self, how: Any) -> None:
        self._how = how
        made = self._open()
        if made is not None:
            self._again(made.place)
        self.bench.refresh()

    def _again(self, place: _Place) -> None:
        """The shape that was put last, anew; still one step to undo."""
        made = self._open()
        assert made is not None
        mesh = place.filled(self.starter, self._how)
        doc = with_item(self.bench.committed, made.id, mesh=mesh)
        self.bench.recommit(doc, f"Add a {self.title.lower()}")
        self._made = _Made(made.id, place, self.bench.committed)

    def _numbers(self) -> Numbers:
        return Numbers(self.starter.parameters, self._how, self._take)

    def fields(self) -> Sequence[Field]:
        return (*size_fields(self.bench, WORLD, self._resize), *self._numbers().fields())

    def _resize(self, factors: Floats, label: str) -> None:
        """What is selected from its base up; the shape that was put last stays open."""
        item, made = self.bench.chosen_mesh, self._open()
        assert item is not None
        vertices = vertices_of(item.mesh, self.bench.kind, self.bench.selected)
        fixed = fixed_point(item.mesh.positions[vertices], "base")
        if made is not None and len(vertices) == len(item.mesh.positions):
            size = scaling(factors, fixed)
            low, high = size(np.stack([made.place.low, made.place.high]))
            self._again(replace(made.place, low=low, high=high))
            return
        mesh = scaled(item.mesh, vertices, factors, fixed)
        self.bench.commit(with_item(self.bench.committed, item.id, mesh=mesh), label)

    def options(self) -> Sequence[Option]:
        found = self._numbers().options()
        if self.starter.flat:
            return found

        def choose(value: str) -> None:
            self._turn(AXIS_NAMES.index(value))

        axes = tuple((name, name) for name in AXIS_NAMES)
        return [*found, Option("Upright along", axes, AXIS_NAMES[self._axis], choose)]

    def switches(self) -> Sequence[Switch]:
        return self._numbers().switches()


def starting_tool(starter: Starter) -> type[Start]:
    """The tool that puts a shape."""
    words = {
        "starter": starter,
        "name": starter.name,
        "title": starter.title,
        "icon": starter.icon,
        "shortcut": starter.key,
        "hint": f"{starter.sentence} Drag from corner to corner in a pane; then type exact sizes.",
        "__doc__": starter.sentence,
        "__module__": __name__,
    }
    return type(f"Start_{starter.name}", (Start,), words)
