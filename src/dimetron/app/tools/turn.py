"""Turn what is selected."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.app.kit.instrument import Field, Option
from dimetron.app.tools.base import BoardEvent
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.moving_tool import MovingTool
from dimetron.mesh.turning import turning
from dimetron.render.overlays import Label, Marks, Overlay

#: With the grid on, turns go in steps of so many degrees.
_STEP_DEG = 15.0


class Turn(MovingTool):
    """Drag round the pivot to turn what is selected, or type by how much."""

    shortcut = "Ctrl+Shift+Q"
    family = "select"
    name, title, icon = "turn", "Turn", "turn"
    hint = "Drag round the pivot, Ctrl and a click moves it; X, Y or Z: about which axis."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self.about_point = "middle"
        self._by = 0.0
        self._turned: int = 2

    def press(self, event: BoardEvent) -> bool:
        self._by = 0.0
        return self.picked_at(event) or self.begun_at(event)

    def move(self, event: BoardEvent, pressed: bool) -> None:
        self.look(event)
        drag = self.pulled(event, pressed)
        if drag is None:
            return
        self._turned, sense = self._axis_in(event)
        centre = event.camera.project(drag.grabbed)
        before, now = (np.array(px) - centre for px in (drag.px, event.px))
        # Pixels run down; counter-clockwise as seen is a turn the other way there.
        angle = np.degrees(np.arctan2(before[1], before[0]) - np.arctan2(now[1], now[0]))
        self._by = float((angle + 180) % 360 - 180) * sense
        if "grid" in self.bench.snaps:
            self._by = round(self._by / _STEP_DEG) * _STEP_DEG
        self.show_moved(drag, turning(self._turned, self._by, drag.fixed, drag.axes))

    def _axis_in(self, event: BoardEvent) -> tuple[int, float]:
        """The axis it turns about in a pane: the one kept to, or that of the view; and whether a
        turn as seen counts the same way."""
        along = self.axes() @ event.camera.forward
        axis = int(np.argmax(np.abs(along))) if self.axis is None else self.axis
        return axis, -1.0 if along[axis] > 0 else 1.0

    def release(self, event: BoardEvent) -> None:
        drag, self._drag = self._drag, None
        if drag is not None and drag.dragging:
            self.bench.commit(self.bench.document, self._words())

    def _words(self) -> str:
        return f"Turn by {self._by:.4g}°".replace("-", "−")

    def fields(self) -> Sequence[Field]:
        hint = "About the axis it is kept to, or Z; counter-clockwise as seen from its end"
        return [Field("Turn by", 0.0, self._enter, kind="angle", hint=hint), *self.soft_fields()]

    def _enter(self, degrees: float) -> None:
        drag = self.typed()
        axis = 2 if self.axis is None else self.axis
        self._by = degrees
        self.commit_moved(drag, turning(axis, degrees, drag.fixed, drag.axes), self._words())

    def options(self) -> Sequence[Option]:
        return (*self.frame_options("About"), *self.soft_options())

    def overlays(self) -> Sequence[Overlay]:
        drag = self._drag
        if drag is None or not drag.dragging:
            return self.framing.overlays(self.about_point)
        words = f"{self._by:.1f}°".replace("-", "−")
        marks: list[Overlay] = [Marks(drag.grabbed[None], "ring"), Label(drag.grabbed, words)]
        return [*marks, *self.axis_line(drag.grabbed)]
