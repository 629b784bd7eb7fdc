"""Section: cut the meshes off at a plane, so that inner drawings can be followed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from dimetron.app.kit.instrument import Field, Option, Switch
from dimetron.app.tools.base import BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.document.edits import bounds
from dimetron.geometry.views import AXIS_NAMES
from dimetron.render.scene import Section

_WAYS = (("off", "off"), ("0", "X"), ("1", "Y"), ("2", "Z"))


class CutSection(Tool):
    """Slide a cutting plane through the model; the board shows what lies on one side of it."""

    shortcut = "Shift+X"
    family = "whole"
    name, title, icon = "section", "Section", "slice"
    hint = "Choose the axis to cut across, then slide the plane."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._at: dict[int, float] = {}
        self._far = False

    def press(self, event: BoardEvent) -> bool:
        """In a flat pane the cut goes through the place that is clicked."""
        axis = self._axis()
        if axis is None or event.view is None or axis not in event.view.paper_axes:
            return False
        self._cut(axis, float(event.point[axis]))
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        if pressed:
            self.press(event)

    def _axis(self) -> int | None:
        section = self.bench.section
        if section is None:
            return None
        return max(range(3), key=lambda a: abs(section.normal[a]))

    def _ends(self, axis: int) -> tuple[float, float]:
        doc = self.bench.document
        # What is cut are the meshes; drawings reach farther.
        box = bounds(replace(doc, drawings=()) if doc.meshes else doc)
        if box is None or box[1, axis] - box[0, axis] < 1e-6:
            return -100.0, 100.0
        return float(box[0, axis]), float(box[1, axis])

    def _cut(self, axis: int, at: float) -> None:
        self._at[axis] = at
        sign = -1.0 if self._far else 1.0
        normal = tuple(sign if a == axis else 0.0 for a in range(3))
        self.bench.cut(Section((normal[0], normal[1], normal[2]), at * sign))
        self.bench.refresh()

    def options(self) -> Sequence[Option]:
        def choose(value: str) -> None:
            if value == "off":
                self.bench.cut(None)
                self.bench.refresh()
                return
            axis = int(value)
            low, high = self._ends(axis)
            self._cut(axis, self._at.get(axis, (low + high) / 2))

        axis = self._axis()
        return (Option("Cut across", _WAYS, "off" if axis is None else str(axis), choose),)

    def fields(self) -> Sequence[Field]:
        axis = self._axis()
        if axis is None:
            return ()

        def enter(mm: float) -> None:
            self._cut(axis, mm)

        ends = self._ends(axis)
        at = self._at.get(axis, 0.0)
        ends = min(ends[0], at), max(ends[1], at)
        hint = "Where the plane cuts"
        return (Field(f"At {AXIS_NAMES[axis]}", at, enter, hint=hint, slide=ends, sliding=enter),)

    def switches(self) -> Sequence[Switch]:
        axis = self._axis()
        if axis is None:
            return ()

        def turn(on: bool) -> None:
            self._far = on
            self._cut(axis, self._at.get(axis, 0.0))

        return (Switch("Keep the other side", self._far, turn, "Show what was cut away instead"),)
