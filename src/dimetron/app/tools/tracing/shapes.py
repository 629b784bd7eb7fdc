"""Begin with a shape: circles, ellipses, rectangles and arcs dragged out on a pane."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from dimetron.app.kit.instrument import Field, Option
from dimetron.app.tools import picking
from dimetron.app.tools.base import BoardEvent, Tool, far_apart
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.tracing.missing import shown_in
from dimetron.app.tools.tracing.seen import path_marks
from dimetron.document.outline import Outline, with_outline, with_path
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats
from dimetron.outlines.path import OutlineError, Path, bounds, mapped, path_of
from dimetron.outlines.shapes import arc, ellipse, rectangle
from dimetron.render.overlays import Label, Marks, Overlay

_SHAPES = (("circle", "circle"), ("ellipse", "ellipse"), ("rectangle", "rectangle"), ("arc", "arc"))


class BeginShape(Tool):
    """Drag a circle from its middle, an ellipse or rectangle from corner to corner; click an arc
    through three points."""

    shortcut = "Shift+Q"
    name, title, icon = "shape-outline", "Shapes", "circle-dotted"
    hint = "Drag it out on a pane, then type its exact size."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._shape = "circle"
        self._view: AnyView | None = None
        self._from: Floats | None = None
        self._px = (0.0, 0.0)
        self._places: list[Floats] = []
        self._path: Path | None = None

    def words(self) -> str:
        return {
            "circle": "Drag from the middle of the circle outward.",
            "arc": "Click where the arc begins, a place on it, and where it ends.",
        }.get(self._shape, "Drag from corner to corner; Shift keeps it as high as wide.")

    def press(self, event: BoardEvent) -> bool:
        if event.view is None:
            return False
        at = event.view.to_plane(picking.on_board(self.bench, event).point)
        if self._shape == "arc":
            if self._places and event.view != self._view:
                self._places = []
            self._view = event.view
            self._places.append(at)
            if len(self._places) == 3:
                places, self._places = self._places, []
                self._make(arc(*places))
            return True
        self._view, self._from, self._px = event.view, at, event.px
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        if event.view != self._view or event.view is None:
            return
        at = event.view.to_plane(picking.on_board(self.bench, event).point)
        if self._shape == "arc" and self._places:
            self._path = self._begun(at)
        elif self._from is not None and pressed and far_apart(event.px, self._px):
            self._path = self._dragged(self._from, at, event.shift)

    def _begun(self, at: Floats) -> Path:
        places = [*self._places, at]
        try:
            return arc(*places) if len(places) == 3 else path_of(np.array(places))
        except OutlineError:
            return path_of(np.array(places))

    def _dragged(self, start: Floats, end: Floats, square: bool) -> Path | None:
        away = end - start
        if self._shape == "circle":
            radius = float(np.hypot(*away))
            return ellipse(start, (radius, radius)) if radius > 0 else None
        if square:
            away = np.where(away < 0, -1.0, 1.0) * float(np.abs(away).max())
        if np.abs(away).min() <= 0:
            return None
        if self._shape == "ellipse":
            return ellipse(start + away / 2, np.abs(away) / 2)
        return rectangle(start, start + away)

    def release(self, event: BoardEvent) -> None:
        path, begun = self._path, self._from is not None
        if begun:
            self._from = self._path = None
        if begun and path is not None:
            self._make(path)

    def _make(self, path: Path) -> None:
        assert self._view is not None
        drawing = shown_in(self.bench.document, self._view)
        doc, made = with_outline(
            self.bench.committed, path, self._view, self._shape,
            drawing=None if drawing is None else drawing.id,
        )  # fmt: skip
        self._path = None
        self.bench.commit(doc, f"Draw {_article(self._shape)}")
        self.bench.choose((made,))
        self.bench.refresh()

    def abandon(self) -> bool:
        active = self._from is not None or bool(self._places)
        self._from = self._path = None
        self._places = []
        return active

    # The panel.

    def options(self) -> Sequence[Option]:
        def choose(value: str) -> None:
            self._shape = value
            self.abandon()
            self.bench.refresh()

        return (Option("Shape", _SHAPES, self._shape, choose),)

    def fields(self) -> Sequence[Field]:
        chosen = self.bench.chosen
        item = self.bench.document.item(chosen[0]) if len(chosen) == 1 else None
        if not isinstance(item, Outline):
            return ()
        box = bounds(item.path)
        size = box[1] - box[0]

        def entered(side: int) -> Callable[[float], None]:
            def enter(mm: float) -> None:
                if mm <= 0 or size[side] <= 0:
                    raise ValueError("The size must be more than zero.")
                factors = np.ones(2)
                factors[side] = mm / size[side]
                if abs(size[0] - size[1]) < 1e-9 and self._shape == "circle":
                    factors[:] = factors[side]
                middle = box.mean(axis=0)
                path = mapped(item.path, np.diag(factors), middle - factors * middle)
                doc = with_path(self.bench.committed, item.id, path)
                self.bench.commit(doc, f"Set the size of {item.name}")
                self.bench.refresh()

            return enter

        return [
            Field("Across", float(size[0]), entered(0), hint="How wide it is"),
            Field("Up", float(size[1]), entered(1), hint="How high it is", beside=True),
        ]

    def overlays(self) -> Sequence[Overlay]:
        if self._view is None:
            return ()
        marks: list[Overlay] = []
        if self._places:
            at = self._view.to_world(np.array(self._places))
            marks.append(Marks(at, "square", "accent", 6.0, only=self._view))
        if self._path is not None and (self._places or self._from is not None):
            marks.append(path_marks(self._path, self._view, 0.0, "selection"))
            if self._from is not None:
                size = np.ptp(bounds(self._path), axis=0)
                words = f"{self.length(float(size[0]))} × {self.length(float(size[1]))}"
                corner = self._view.to_world(bounds(self._path)[1])
                marks.append(Label(corner, words, only=self._view))
        return marks


def _article(shape: str) -> str:
    return f"an {shape}" if shape[0] in "ae" else f"a {shape}"
