"""Choose meshes or their parts, and move them."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from dimetron.app.kit.instrument import Field, Option
from dimetron.app.tools import aim
from dimetron.app.tools.base import BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.landing import landed
from dimetron.app.tools.mesh_tool import ALONG_NAMES, dragged_to, nothing_selected
from dimetron.app.tools.moving_tool import Drag, MovingTool
from dimetron.app.tools.sweeping import WAYS, Sweep
from dimetron.document.model import MeshObject
from dimetron.geometry.views import AXIS_NAMES
from dimetron.mesh import select
from dimetron.mesh.arrays import Floats, Ints, extent
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.select import Kind
from dimetron.render.overlays import Label, Marks, Overlay

_KIND_CHOICES = (
    ("whole", "whole"),
    *((kind.value, kind.many) for kind in (Kind.VERTEX, Kind.EDGE, Kind.FACE)),
)
_ZERO = np.zeros(3)


class Shape(MovingTool):
    """Choose a mesh or its parts by click or box, and move what is selected."""

    shortcut = "S"
    family = "select"
    name, title, icon = "shape", "Select, move", "pointer"
    hint = (
        "Click or sweep to select, Shift adds, Ctrl removes. Drag to move; X, Y, Z: along an axis."
    )

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._sweep: Sweep | None = None
        self._way = "box"
        self._moved = _ZERO

    def press(self, event: BoardEvent) -> bool:
        item, index, point = self._aimed(event)
        if item is None:
            if event.view is None and not event.shift:
                return False
            self._sweep = Sweep(self._way, event)
            return True
        if self.bench.kind is Kind.WHOLE and event.shift:
            self._add_mesh(item)
            return True
        self.bench.choose((item.id,))
        if self.bench.kind is not Kind.WHOLE:
            assert index is not None
            picked = np.array([index], np.int32)
            known = index in self.bench.selected
            if event.shift or event.ctrl:
                self._select(picked, "toggle")
            elif not known:
                self._select(picked, "replace")
        vertices = self.vertices(item)
        if len(vertices):
            self._drag = self.begun(item, vertices, point, event.px)
        return True

    def _aimed(self, event: BoardEvent) -> tuple[MeshObject | None, int | None, Floats]:
        """What a press here takes hold of: a part of the chosen mesh, else a mesh."""
        kind, chosen = self.bench.kind, self.bench.chosen_mesh
        hit = aim.mesh_at(self.bench.document, event)
        if kind is Kind.WHOLE:
            return (hit.item, None, hit.point) if hit else (None, None, _ZERO)
        if chosen is None or not aim.in_reach(self.bench.document, chosen):
            chosen = hit.item if hit else None
        part = aim.part_at(self.bench, chosen, kind, event) if chosen else None
        if part is None or chosen is None:
            return None, None, _ZERO
        return chosen, part.part, part.point

    def _add_mesh(self, item: MeshObject) -> None:
        """One more mesh, or one less."""
        chosen = self.bench.chosen
        without = tuple(id_ for id_ in chosen if id_ != item.id)
        self.bench.choose(without if item.id in chosen else (*chosen, item.id))

    def _select(self, picked: Ints, how: str) -> None:
        found = select.combined(self.bench.selected, picked, how)
        last = int(picked[0]) if len(picked) == 1 and picked[0] in found else -1
        self.bench.select(self.bench.kind, found, last)

    def move(self, event: BoardEvent, pressed: bool) -> None:
        self.look(event)
        if not pressed:
            return
        if self._sweep is not None:
            self._sweep.go_on(event)
            return
        drag = self.pulled(event, pressed)
        if drag is None:
            return
        self._moved = moved = self._by(drag, event)
        self.show_moved(drag, lambda points: points + moved)

    def _by(self, drag: Drag, event: BoardEvent) -> Floats:
        begin, now = (
            dragged_to(event.camera, px, drag.grabbed, self.way) for px in (drag.px, event.px)
        )
        by = now - begin
        leader = drag.leader
        moving = (drag.item.id, drag.vertices)
        part = self.bench.kind is not Kind.WHOLE
        by = landed(self.bench, event, leader + by, moving, ink=part) - leader
        way = self.way
        return np.asarray(by if way is None else way * float(by @ way))

    def release(self, event: BoardEvent) -> None:
        if self._sweep is not None:
            self._finish_sweep(event)
        drag, self._drag = self._drag, None
        if drag is not None and drag.dragging:
            self.bench.commit(self.bench.document, f"Move {self._what(drag.item)}")

    def _what(self, item: MeshObject) -> str:
        kind, count = self.bench.kind, len(self.bench.selected)
        if kind is Kind.WHOLE:
            return item.name
        return f"{count} {kind.many}" if count != 1 else f"a {kind.value}"

    def _finish_sweep(self, event: BoardEvent) -> None:
        sweep, self._sweep = self._sweep, None
        assert sweep is not None
        item = self.bench.chosen_mesh
        if not sweep.went:
            if not event.shift:
                self._clear()
            return
        if self.bench.kind is Kind.WHOLE or item is None:
            return
        how = "add" if event.shift else "remove" if event.ctrl else "replace"
        self._select(sweep.parts(self.bench, item, self.bench.kind), how)

    def _clear(self) -> None:
        if self.bench.kind is Kind.WHOLE or not len(self.bench.selected):
            self.bench.choose(())
        else:
            self._select(select.none(), "replace")

    def abandon(self) -> bool:
        active = self._drag is not None or self._sweep is not None
        self._drag = self._sweep = None
        if active:
            self.bench.cancel()
        return active

    def fields(self) -> Sequence[Field]:
        item = self.bench.chosen_mesh
        vertices = self.vertices(item) if item is not None else select.none()
        world = self.framing.is_world
        names = [f"{name} of the middle" for name in AXIS_NAMES] if world else list(ALONG_NAMES)
        if item is None or not len(vertices):
            return [*(Field(name, None, nothing_selected) for name in names), *self.soft_fields()]
        # Along other axes than the world's it is typed by how much.
        at = _middle(item.mesh, vertices) if world else _ZERO
        return [
            Field(name, float(at[axis]), self._put(axis, float(at[axis])))
            for axis, name in enumerate(names)
        ] + self.soft_fields()

    def _put(self, axis: int, now: float) -> Callable[[float], None]:
        def enter(value: float) -> None:
            drag = self.typed()
            by = (value - now) * drag.axes[axis]
            label = f"Move {self._what(drag.item)}"
            self.commit_moved(drag, lambda points: points + by, label)

        return enter

    def options(self) -> Sequence[Option]:
        def choose(value: str) -> None:
            change_kind(self.bench, Kind(value))

        def sweep(value: str) -> None:
            self._way = value
            self.bench.refresh()

        parts = self.bench.kind is not Kind.WHOLE
        return (
            Option("Select", _KIND_CHOICES, self.bench.kind.value, choose, plain=True),
            *((Option("By a", WAYS, self._way, sweep),) if parts else ()),
            self.framing.option(),
            self.axis_option(),
            *self.soft_options(),
        )

    def overlays(self) -> Sequence[Overlay]:
        marks: list[Overlay] = []
        if self._drag is None:
            marks += self.framing.overlays("")
            marks += self._last_mark()
        if self._sweep is not None:
            marks += self._sweep.overlays()
        if self._drag is not None and self._drag.dragging:
            at = self._drag.grabbed + self._moved
            marks += self.axis_line(at)
            words = "  ".join(_moved_words(self, self._moved))
            marks.append(Label(at, words, shift=(14.0, -12.0)))
        return marks

    def _last_mark(self) -> list[Overlay]:
        """A ring about the vertex that was picked last of several: others may be merged to it."""
        item, part = self.bench.chosen_mesh, self.bench.part
        several = part.kind is Kind.VERTEX and len(part.indices) > 1
        if item is None or not several or not 0 <= part.last < len(item.mesh.positions):
            return []
        return [Marks(item.mesh.positions[part.last][None], "ring", "selection", 7.0)]


def _moved_words(tool: Tool, by: Floats) -> list[str]:
    words = [f"{AXIS_NAMES[i]} {tool.length(float(by[i]))}" for i in range(3) if abs(by[i]) > 5e-4]
    return words or [tool.length(0.0)]


def _middle(mesh: Mesh, vertices: Ints) -> Floats:
    points = mesh.positions[vertices]
    return np.asarray(extent(points).mean(axis=0))


def change_kind(bench: Bench, kind: Kind) -> None:
    """Go over to vertices, edges, faces or whole meshes; the selection is carried over."""
    item = bench.chosen_mesh
    carried = select.none()
    if item is not None:
        carried = select.converted(item.mesh, bench.kind, bench.selected, kind)
    bench.select(kind, carried)
