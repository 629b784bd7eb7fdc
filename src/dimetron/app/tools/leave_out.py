"""Leave out a part of a drawing: what lies in it does not count against the meshes."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.app.kit.instrument import Action
from dimetron.app.tools import picking
from dimetron.app.tools.base import BoardEvent, Tool, far_apart
from dimetron.app.tools.bench import Bench
from dimetron.document.fitting import compared
from dimetron.document.model import Drawing, with_item
from dimetron.mesh.arrays import Floats
from dimetron.outlines.meets import inside
from dimetron.render.overlays import Overlay, PanePath, Strokes

#: A line around a part has at most so many points.
_MOST_POINTS = 200


class LeaveOut(Tool):
    """Go around a part of a drawing that is not to count; click in it to let it count again."""

    selects = False
    name, title, icon = "leave-out", "Leave out a part", "leave-out"
    hint = "Drag around what is not to count in a drawing; click in it to let it count again."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._began: BoardEvent | None = None
        self._around: list[Floats] = []
        self._path: list[tuple[float, float]] = []

    def taken_up(self) -> None:
        self.bench.fitting.show(True)

    def press(self, event: BoardEvent) -> bool:
        if event.view is None:
            return False
        self._began, self._around, self._path = event, [event.point], [event.px]
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        began = self._began
        if pressed and began is not None and event.slot == began.slot:
            self._around.append(event.point)
            self._path.append(event.px)

    def release(self, event: BoardEvent) -> None:
        began, self._began = self._began, None
        around, path, self._around, self._path = self._around, self._path, [], []
        if began is None:
            return
        if any(far_apart(began.px, px) for px in path):
            self._leave_out(began, np.array(around))
        else:
            self._let_count(began)

    def _drawing(self, event: BoardEvent) -> Drawing | None:
        """The one under the pointer, else the first in that pane."""
        mine = [d for d in compared(self.bench.committed) if d.view == event.view]
        shown = picking.drawing_shown_at(self.bench.document, event)
        return next((d for d in mine if shown is not None and d.id == shown.id), None) or next(
            iter(mine), None
        )

    def _leave_out(self, began: BoardEvent, around: Floats) -> None:
        drawing = self._drawing(began)
        if drawing is None or len(around) < 3:
            self.bench.warn("Go around a part of a drawing in a flat pane.")
            return
        ring = drawing.placement.to_px(drawing.view.to_plane(around))
        if len(ring) > _MOST_POINTS:
            ring = ring[np.linspace(0, len(ring) - 1, _MOST_POINTS).round().astype(np.intp)]
        part = tuple((float(x), float(y)) for x, y in ring)
        self._set(drawing, (*drawing.left_out, part), f"Leave out a part of {drawing.name}")

    def _let_count(self, event: BoardEvent) -> None:
        for drawing in compared(self.bench.committed):
            if drawing.view != event.view:
                continue
            at = drawing.placement.to_px(drawing.view.to_plane(event.point[None]))
            kept = tuple(p for p in drawing.left_out if not inside(np.array(p), at)[0])
            if len(kept) < len(drawing.left_out):
                self._set(drawing, kept, f"Let it count in {drawing.name}")
                return

    def _set(
        self, drawing: Drawing, parts: tuple[tuple[tuple[float, float], ...], ...], words: str
    ) -> None:
        self.bench.commit(with_item(self.bench.committed, drawing.id, left_out=parts), words)
        self.bench.refresh()

    def abandon(self) -> bool:
        active, self._began = self._began is not None, None
        self._around, self._path = [], []
        return active

    def actions(self) -> Sequence[Action]:
        some = any(d.left_out for d in compared(self.bench.document))

        def every() -> None:
            doc = self.bench.committed
            for drawing in compared(doc):
                doc = with_item(doc, drawing.id, left_out=())
            self.bench.commit(doc, "Let all count")
            self.bench.refresh()

        return (Action("all", "Let all count", every, "Nothing is left out any more", some),)

    def told(self) -> str:
        names = [d.name for d in compared(self.bench.document) if d.left_out]
        return f"Parts are left out of {', '.join(names)}." if names else "Nothing is left out."

    def overlays(self) -> Sequence[Overlay]:
        marks: list[Overlay] = []
        for drawing in compared(self.bench.document):
            for part in drawing.left_out:
                plane = drawing.placement.to_plane(np.array([*part, part[0]]))
                ring = drawing.view.to_world(plane)
                marks.append(Strokes(ring, "soft_ink", 1.4, dash=5.0, only=drawing.view))
        if self._began is not None and len(self._path) > 1:
            marks.append(PanePath(self._began.slot, tuple(self._path)))
        return marks
