"""Resize what is selected."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.app.kit.instrument import Field, Option
from dimetron.app.tools.base import BoardEvent
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.mesh_tool import (
    MeshTool,
    fixed_point,
    nothing_selected,
    size_fields,
)
from dimetron.mesh import edit, select
from dimetron.render.overlays import Label, Marks, Overlay


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
        return self.begun_at(event, self._about)

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
