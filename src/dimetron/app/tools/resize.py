"""Resize what is selected."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.app.kit.instrument import Field, Option
from dimetron.app.tools.base import BoardEvent
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.mesh_tool import size_fields
from dimetron.app.tools.moving_tool import MovingTool
from dimetron.document.model import with_item
from dimetron.mesh import edit
from dimetron.mesh.arrays import Floats
from dimetron.render.overlays import Label, Marks, Overlay


class Resize(MovingTool):
    """Drag away from the fixed point to enlarge what is selected, or type its size."""

    shortcut = "R"
    family = "whole"
    name, title, icon = "resize", "Resize", "resize"
    hint = "Drag away from what is fixed, Ctrl and a click moves that; X, Y or Z: along an axis."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self.about_point = "base"
        self._factor = 1.0

    def press(self, event: BoardEvent) -> bool:
        return self.picked_at(event) or self.begun_at(event)

    def move(self, event: BoardEvent, pressed: bool) -> None:
        self.look(event)
        drag = self.pulled(event, pressed)
        if drag is None:
            return
        centre = event.camera.project(drag.grabbed)
        before = np.array(drag.px) - centre
        away = max(float(before @ before), 25.0)
        self._factor = max(0.001, float((np.array(event.px) - centre) @ before) / away)
        self.show_moved(drag, edit.scaling(self._factors(self._factor), drag.fixed, drag.axes))

    def _factors(self, factor: float) -> Floats:
        """(3,) along the axes: along all of them, or the one that is kept to."""
        if self.axis is None:
            return np.full(3, factor)
        return np.where(np.arange(3) == self.axis, factor, 1.0)

    def release(self, event: BoardEvent) -> None:
        drag, self._drag = self._drag, None
        if drag is not None and drag.dragging:
            self.bench.commit(self.bench.document, f"Resize to {self._factor:.4g} times")

    def fields(self) -> Sequence[Field]:
        return [
            *size_fields(self.bench, self.axes(), self._resize),
            Field("Times", 1.0, self._enter_factor, kind="number"),
            *self.soft_fields(),
        ]

    def _enter_factor(self, factor: float) -> None:
        self._resize(self._factors(factor), f"Resize to {factor:.4g} times")

    def _resize(self, factors: Floats, label: str) -> None:
        drag = self.typed()
        if drag.weights is not None:
            self.commit_moved(drag, edit.scaling(factors, drag.fixed, drag.axes), label)
            return
        mesh = edit.scaled(drag.item.mesh, drag.vertices, factors, drag.fixed, drag.axes)
        self.bench.commit(with_item(self.bench.committed, drag.item.id, mesh=mesh), label)

    def options(self) -> Sequence[Option]:
        return (*self.frame_options("Fixed"), *self.soft_options())

    def overlays(self) -> Sequence[Overlay]:
        drag = self._drag
        if drag is None or not drag.dragging:
            return self.framing.overlays(self.about_point)
        text = f"{self._factor:.3f} times"
        marks: list[Overlay] = [Marks(drag.grabbed[None], "ring"), Label(drag.grabbed, text)]
        return [*marks, *self.axis_line(drag.grabbed)]
