"""Trace by itself: what is drawn proposed as outlines, to take or leave."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.app.kit.instrument import Action, Field, Option
from dimetron.app.tools import aim, picking
from dimetron.app.tools.base import REACH_PX, BoardEvent, Tool, far_apart
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.tracing.missing import USUAL_MISS, miss_field
from dimetron.app.tools.tracing.seen import line_of, path_marks
from dimetron.document.model import Drawing
from dimetron.document.outline import to_mm, with_outline
from dimetron.mesh.arrays import Floats
from dimetron.outlines.meets import inside
from dimetron.outlines.path import Path
from dimetron.outlines.trace import Traced
from dimetron.render.overlays import Overlay, PaneBox, Strokes

_WHAT = (("outermost", "outermost"), ("auto", "all"), ("centre", "lines"), ("edge", "areas"))


class TraceItself(Tool):
    """Let the drawing's lines be traced; click pieces to leave or to take them."""

    shortcut = "Shift+U"
    name, title, icon = "trace-itself", "By itself", "trace-itself"
    hint = (
        "Click a drawing to have it traced; drag a box, or with Ctrl a line, around a part of it."
    )

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._what = "outermost"
        self._miss = USUAL_MISS
        self._drawing: Drawing | None = None
        self._found: list[tuple[Path, Traced]] = []
        self._taken: set[int] = set()
        self._box: tuple[str, tuple[float, float], tuple[float, float]] | None = None
        #: A free line around pieces, as places in space.
        self._around: list[Floats] = []
        #: The part of the drawing that is traced, as a ring in its plane; None for all of it.
        self._part: Floats | None = None
        self._began: BoardEvent | None = None

    def words(self) -> str:
        if not self._found:
            return self.hint
        return (
            "Click pieces to take or leave, drag a box or with Ctrl a line around many; then Enter."
        )

    def press(self, event: BoardEvent) -> bool:
        if event.view is None:
            return False
        if self._found and (self._drawing is None or event.view != self._drawing.view):
            self.abandon()
        self._began = event
        self._box = event.slot, event.px, event.px
        self._around = [event.point] if event.ctrl else []
        return True

    def _begin(self, event: BoardEvent, around: list[Floats]) -> None:
        """Trace the drawing under the pointer, or the part of it that was gone around."""
        began = self._began
        assert began is not None and began.view is not None
        shown = (picking.drawing_shown_at(self.bench.document, e) for e in (began, event))
        drawing = next((d for d in shown if d is not None), None)
        if drawing is None:
            self.bench.warn("Click on a drawing that is shown.")
            return
        self._drawing, self._part = drawing, None
        if around:
            self._part = drawing.view.to_plane(np.array(around))
        elif far_apart(began.px, event.px):
            (x0, y0), (x1, y1) = (began.view.to_plane(e.point) for e in (began, event))
            self._part = np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])
        self._trace()

    def _trace(self) -> None:
        drawing = self._drawing
        if drawing is None:
            raise ValueError("Click a drawing first.")
        self._found, self._taken = [], set()

        def done(found: tuple[Traced, ...]) -> None:
            self._found = [(to_mm(drawing, t.path), t) for t in found]
            self._taken = set(range(len(found)))
            self.bench.refresh()

        miss = self._miss / drawing.placement.mm_per_px
        ring = None if self._part is None else drawing.placement.to_px(self._part)
        self.bench.trace(drawing, self._what, miss, done, ring)
        self.bench.refresh()

    def move(self, event: BoardEvent, pressed: bool) -> None:
        if pressed and self._box is not None and event.slot == self._box[0]:
            self._box = event.slot, self._box[1], event.px
            if self._around:
                self._around.append(event.point)

    def release(self, event: BoardEvent) -> None:
        box, self._box = self._box, None
        around, self._around = self._around, []
        if box is None:
            return
        if not self._found or self._drawing is None:
            self._begin(event, around if len(around) > 2 else [])
            return
        if len(around) < 3 and not far_apart(box[1], box[2]):
            self._flip_at(event)
            return
        view = self._drawing.view
        lines = [line_of(path, view, 0.0) for path, _ in self._found]
        if around:
            ring = view.to_plane(np.array(around))
            held = [inside(ring, view.to_plane(line)).all() for line in lines]
        else:
            low, high = np.minimum(box[1], box[2]), np.maximum(box[1], box[2])
            places = [event.camera.project(line) for line in lines]
            held = [((px >= low) & (px <= high)).all() for px in places]
        within = set(np.flatnonzero(held).tolist())
        # What the box holds alone is taken; with Shift it is left.
        self._taken = self._taken - within if event.shift else within
        self.bench.refresh()

    def _flip_at(self, event: BoardEvent) -> None:
        assert self._drawing is not None
        best, nearest = REACH_PX, None
        for number, (path, _) in enumerate(self._found):
            px = event.camera.project(line_of(path, self._drawing.view, 0.0))
            away = aim.away_from_path(px, np.array(event.px))
            if away < best:
                best, nearest = away, number
        if nearest is not None:
            self._taken ^= {nearest}
            self.bench.refresh()

    def key(self, key: str, event: BoardEvent | None) -> bool:
        if key == "enter" and self._taken:
            self._take()
            return True
        return False

    def abandon(self) -> bool:
        active = bool(self._found) or self._box is not None
        self._found, self._taken, self._box, self._around = [], set(), None, []
        if active:
            self.bench.refresh()
        return active

    def _drop(self) -> None:
        self.abandon()

    def _take(self) -> None:
        drawing = self._drawing
        assert drawing is not None
        doc, made = self.bench.committed, []
        for number in sorted(self._taken):
            doc, id_ = with_outline(
                doc, self._found[number][0], drawing.view, f"{drawing.name} outline",
                drawing=drawing.id,
            )  # fmt: skip
            made.append(id_)
        self._found, self._taken = [], set()
        what = "an outline" if len(made) == 1 else f"{len(made)} outlines"
        self.bench.commit(doc, f"Trace {what} of {drawing.name}")
        self.bench.choose(tuple(made))
        self.bench.refresh()

    # The panel.

    def options(self) -> Sequence[Option]:
        def choose(value: str) -> None:
            self._what = value
            if self._found:
                self._trace()
            self.bench.refresh()

        return (Option("What", _WHAT, self._what, choose),)

    def fields(self) -> Sequence[Field]:
        def take(mm: float) -> None:
            self._miss = mm
            if self._found:
                self._trace()
            self.bench.refresh()

        return (miss_field(self._miss, take),)

    def actions(self) -> Sequence[Action]:
        count = len(self._taken)
        title = "Take it" if count == 1 else f"Take {count}"
        return (
            Action("take", title, self._take, "Make outlines of them (Enter)", count > 0, True),
            Action("drop", "Leave all", self._drop, "Forget what was found", bool(self._found)),
        )

    def told(self) -> str:
        if not self._found or self._drawing is None:
            return ""
        scale = self._drawing.placement.mm_per_px
        points = sum(len(self._found[k][0]) for k in self._taken)
        off = [self._found[k][1].mean * scale for k in self._taken]
        if not off:
            return f"{len(self._found)} found, none taken."
        return f"{len(off)} of {len(self._found)}: {points} points, {self.length(max(off))} off."

    def overlays(self) -> Sequence[Overlay]:
        began = self._began
        if began is None or began.view is None:
            return ()
        view = began.view if self._box is not None or not self._drawing else self._drawing.view
        marks: list[Overlay] = []
        for number, (path, _) in enumerate(self._found):
            taken = number in self._taken
            role, dash = ("selection", 0.0) if taken else ("soft_ink", 4.0)
            marks.append(path_marks(path, view, 0.0, role, dash, 2.0 if taken else 1.2))
        if len(self._around) > 1:
            ring = np.array([*self._around, self._around[0]])
            marks.append(Strokes(ring, "selection", 1.2, dash=4.0, only=view))
        elif self._box is not None:
            low = np.minimum(self._box[1], self._box[2])
            high = np.maximum(self._box[1], self._box[2])
            marks.append(
                PaneBox(
                    self._box[0], (float(low[0]), float(low[1])), (float(high[0]), float(high[1]))
                )
            )
        return marks
