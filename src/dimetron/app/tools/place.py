"""Tools of the Place station that move drawings: arrange them, put a point somewhere."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.app.instrument import Option
from dimetron.app.tools import aim, snap
from dimetron.app.tools.base import Bench, BoardEvent, Tool, far_apart
from dimetron.document import edits
from dimetron.document.model import Drawing
from dimetron.geometry.views import AnyView
from dimetron.mesh.mesh import Floats

_ARROWS = {"left": (-1, 0), "right": (1, 0), "up": (0, 1), "down": (0, -1)}
#: Nudges, in pixels of the picture.
NUDGE_PX, SMALL_NUDGE_PX, LARGE_NUDGE_PX = 1.0, 0.1, 10.0


@dataclass(slots=True)
class _Grip:
    drawing: Drawing
    view: AnyView
    start: Floats
    px: tuple[float, float]
    dragging: bool = False


class Arrange(Tool):
    """Choose a drawing by a click, slide it by dragging, nudge it by the arrow keys."""

    name, title, icon = "arrange", "Arrange drawings", "arrows-move"
    hint = "Click a drawing to choose it, drag to slide it. Shift: one axis. Arrows: nudge."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._grip: _Grip | None = None
        self._along = "both"

    def press(self, event: BoardEvent) -> bool:
        drawing = aim.drawing_at(self.bench.document, event)
        if drawing is None:
            if event.view is not None:
                self.bench.choose(())
            return event.view is not None
        self.bench.choose((drawing.id,))
        if event.view is None:
            return False
        self._grip = _Grip(drawing, event.view, event.view.to_plane(event.point), event.px)
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        grip = self._grip
        if grip is None or not pressed or event.view is not grip.view:
            return
        if not grip.dragging and not far_apart(event.px, grip.px):
            return
        grip.dragging = True
        target = grip.view.to_plane(snap.snap(self.bench, event, event.point).point)
        by = self._limited(target - grip.start, event.shift)
        self.bench.preview(edits.slid(self.bench.committed, grip.drawing.id, by))

    def _limited(self, by: Floats, one_axis: bool) -> Floats:
        along = self._along
        if one_axis:
            along = "across" if abs(by[0]) >= abs(by[1]) else "up"
        return by * {"both": (1, 1), "across": (1, 0), "up": (0, 1)}[along]

    def release(self, event: BoardEvent) -> None:
        grip, self._grip = self._grip, None
        if grip is not None and grip.dragging:
            self.bench.commit(self.bench.document, f"Slide {grip.drawing.name}")

    def key(self, key: str, event: BoardEvent | None) -> bool:
        step, _, arrow = key.rpartition("+")
        drawing = self._chosen()
        if arrow not in _ARROWS or drawing is None:
            return False
        px = {"": NUDGE_PX, "shift": LARGE_NUDGE_PX, "ctrl": SMALL_NUDGE_PX}[step]
        by = np.array(_ARROWS[arrow]) * px * drawing.placement.mm_per_px
        doc = edits.slid(self.bench.committed, drawing.id, by)
        self.bench.commit(doc, f"Nudge {drawing.name}")
        return True

    def _chosen(self) -> Drawing | None:
        chosen = self.bench.chosen
        item = self.bench.document.item(chosen[0]) if len(chosen) == 1 else None
        return item if isinstance(item, Drawing) and not item.held else None

    def abandon(self) -> bool:
        active = self._grip is not None
        self._grip = None
        if active:
            self.bench.cancel()
        return active

    def options(self) -> Sequence[Option]:
        def choose(value: str) -> None:
            self._along = value
            self.bench.refresh()

        choices = (("both", "both ways"), ("across", "across"), ("up", "up"))
        return (Option("Slide", choices, self._along, choose),)


class PutPoint(Tool):
    """Click a point of a drawing; the drawing slides so that it lies on the chosen axis."""

    name, title, icon = "put-point", "Put a point", "arrow-bar-to-down"

    hint = "Click the point of a drawing that belongs there."
    _PLACES = (("ground", "ground"), ("centreline", "centreline"), ("origin", "origin"))

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._onto = "ground"

    def words(self) -> str:
        return f"Click the point of a drawing that belongs on the {self._onto}."

    def press(self, event: BoardEvent) -> bool:
        if event.view is None:
            return False
        drawing = aim.drawing_at(self.bench.document, event)
        if drawing is None:
            self.bench.warn("Click on a drawing that is shown and not held.")
            return True
        px = aim.picture_px(drawing, event)
        self.bench.choose((drawing.id,))
        doc = edits.put_point(self.bench.committed, drawing.id, px, self._onto)
        self.bench.commit(doc, f"Put a point of {drawing.name} on the {self._onto}")
        return True

    def options(self) -> Sequence[Option]:
        def choose(value: str) -> None:
            self._onto = value
            self.bench.refresh()

        return (Option("Onto", self._PLACES, self._onto, choose),)
