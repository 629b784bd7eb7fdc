"""Add a box, resize what is selected."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.app.kit.instrument import Field, Option
from dimetron.app.tools import aim, snap
from dimetron.app.tools.base import BoardEvent, Tool, far_apart
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.mesh_tool import (
    Drag,
    MeshTool,
    fixed_point,
    nothing_selected,
    size_fields,
)
from dimetron.document import edits
from dimetron.geometry.views import View
from dimetron.mesh import edit, select
from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.primitives import box
from dimetron.render.overlays import Label, Marks, Overlay


class AddBox(Tool):
    """Drag a box in a pane; its third size follows the drawings, and all can be typed."""

    shortcut = "B"
    family = "start"
    name, title, icon = "box", "Box", "cube-plus"
    hint = "Drag from corner to corner in a pane; then type exact sizes."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._start: tuple[BoardEvent, Floats] | None = None
        self._made: str | None = None

    def press(self, event: BoardEvent) -> bool:
        if event.view is None:
            return False
        if not isinstance(event.view, View):
            self.bench.warn("A box stands square to the axes; drag it in a principal view.")
            return True
        self._start = event, snap.snap(self.bench, event, event.point).point
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        if self._start is None or not pressed or event.view is not self._start[0].view:
            return
        if not far_apart(event.px, self._start[0].px):
            return
        end = snap.snap(self.bench, event, event.point).point
        try:
            low, high = self._ends(self._start[0], self._start[1], end)
            doc, self._made = edits.with_mesh(self.bench.committed, box(low, high), "box")
        except MeshError:
            return
        self.bench.preview(doc)

    def _ends(self, event: BoardEvent, start: Floats, end: Floats) -> tuple[Floats, Floats]:
        """Opposite corners; along the line of sight as deep as what is there, else as wide."""
        assert isinstance(event.view, View)
        depth = event.view.depth_axis
        low, high = np.minimum(start, end), np.maximum(start, end)
        known = edits.bounds(self.bench.committed)
        width = float(high[event.view.axes[0]] - low[event.view.axes[0]])
        if depth == 2:
            low[2], high[2] = 0.0, width
        else:
            low[depth], high[depth] = -width / 2, width / 2
        if known is not None and known[1, depth] - known[0, depth] > 1e-6:
            low[depth], high[depth] = known[:, depth]
            if depth == 2:
                low[2] = max(low[2], 0.0)
        return low, high

    def release(self, event: BoardEvent) -> None:
        if self._start is not None and self._made is not None:
            self.bench.commit(self.bench.document, "Add a box")
            self.bench.choose((self._made,))
        self._start = self._made = None

    def abandon(self) -> bool:
        active = self._start is not None
        self._start = self._made = None
        if active:
            self.bench.cancel()
        return active

    def fields(self) -> Sequence[Field]:
        return size_fields(self.bench, "base")


class Resize(MeshTool):
    """Drag away from the fixed point to enlarge what is selected, or type its size."""

    shortcut = "R"
    family = "whole"
    name, title, icon = "resize", "Resize", "resize"
    hint = "Drag away from or towards the fixed point; X, Y or Z keeps to an axis."
    _ABOUT = (("base", "base"), ("middle", "middle"), ("origin", "origin"))

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._about = "base"
        self._factor = 1.0

    def press(self, event: BoardEvent) -> bool:
        item = self.bench.chosen_mesh
        if item is None:
            hit = aim.mesh_at(self.bench.document, event)
            if hit is None:
                return False
            self.bench.choose((hit.item.id,))
            item = hit.item
        vertices = self.vertices(item)
        if not len(vertices) or not self.bench.document.free(item):
            return False
        fixed = fixed_point(item.mesh.positions[vertices], self._about)
        self._drag = Drag(item, vertices, fixed, event.px)
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        drag = self.pulled(event, pressed)
        if drag is None:
            return
        centre = event.camera.project(drag.grabbed)
        before = np.array(drag.px) - centre
        away = max(float(before @ before), 25.0)
        self._factor = max(0.001, float((np.array(event.px) - centre) @ before) / away)
        factors = np.ones(3) if self.axis is not None else np.full(3, self._factor)
        if self.axis is not None:
            factors[self.axis] = self._factor
        self.show_moved(drag, lambda points: drag.grabbed + (points - drag.grabbed) * factors)

    def release(self, event: BoardEvent) -> None:
        drag, self._drag = self._drag, None
        if drag is not None and drag.dragging:
            self.bench.commit(self.bench.document, f"Resize to {self._factor:.4g} times")

    def fields(self) -> Sequence[Field]:
        return [
            *size_fields(self.bench, self._about),
            Field("Times", 1.0, self._enter_factor, kind="number"),
        ]

    def _enter_factor(self, factor: float) -> None:
        item = self.bench.chosen_mesh
        vertices = self.vertices(item) if item is not None else select.none()
        if item is None or not len(vertices):
            nothing_selected(factor)
            return
        factors = np.ones(3) if self.axis is not None else np.full(3, factor)
        if self.axis is not None:
            factors[self.axis] = factor
        fixed = fixed_point(item.mesh.positions[vertices], self._about)
        mesh = edit.scaled(item.mesh, vertices, factors, fixed)
        self.bench.commit(self.with_mesh(item, mesh), f"Resize to {factor:.4g} times")

    def options(self) -> Sequence[Option]:
        def choose(value: str) -> None:
            self._about = value
            self.bench.refresh()

        return (Option("Fixed", self._ABOUT, self._about, choose), self.axis_option())

    def overlays(self) -> Sequence[Overlay]:
        drag = self._drag
        if drag is None or not drag.dragging:
            return ()
        text = f"{self._factor:.3f} times"
        marks: list[Overlay] = [Marks(drag.grabbed[None], "ring"), Label(drag.grabbed, text)]
        return [*marks, *self.axis_line(drag.grabbed)]
