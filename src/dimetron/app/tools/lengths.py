"""Known length and distance: lengths picked between two points, in real units."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.app.kit.instrument import Field, Option
from dimetron.app.tools import picking
from dimetron.app.tools.base import BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.document import bodies, registering, sizing
from dimetron.document.model import Drawing
from dimetron.geometry import placement as place
from dimetron.geometry.views import AXIS_NAMES, AnyView
from dimetron.mesh.arrays import Floats
from dimetron.registration.problem import PictureLength
from dimetron.render.overlays import Label, Marks, Overlay, Strokes

#: The side of the paper along which a length counts; None: straight.
_AXES = {"straight": None, "across": 0, "up": 1}


@dataclass(slots=True)
class _Pair:
    """Two picked pixels of one drawing; the second is None until it is picked."""

    drawing: str
    view: AnyView
    first: tuple[float, float]
    second: tuple[float, float] | None = None


class KnownLength(Tool):
    """Pick two points of a drawing, type how far apart they really are."""

    shortcut = "K"
    name, title, icon = "known-length", "Known length", "ruler-measure"
    hint = "Click the first point of a length you know."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._pair: _Pair | None = None
        self._hover: tuple[float, float] | None = None
        self._along = "straight"
        self._use = "now"

    def words(self) -> str:
        if self._pair is None:
            return self.hint
        if self._pair.second is None:
            return "Click the second point on the same drawing."
        return "Type the real length and press Enter. Click again to measure another."

    def press(self, event: BoardEvent) -> bool:
        if event.view is None:
            return False
        aimed = picking.free_drawing(self.bench, event)
        if aimed is None:
            self.bench.warn("Click on a drawing that is shown and not held.")
            return True
        drawing, px = aimed.drawing, aimed.px
        pair = self._pair
        if pair is not None and pair.second is None and pair.drawing == drawing.id:
            pair.second = px
        else:
            self._pair = _Pair(drawing.id, event.view, px)
            self.bench.choose((drawing.id,))
        self.bench.refresh()
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        pair, item = self._pair, self._drawing()
        self.aimed = picking.free_drawing(self.bench, event)
        if pair is not None and pair.second is None and item is not None:
            if event.view is not pair.view:
                self._hover = self.aimed = None
                return
            self.aimed = picking.on_drawing(self.bench, item, event)
            self._hover = self.aimed.px

    def _drawing(self) -> Drawing | None:
        if self._pair is None:
            return None
        item = self.bench.document.item(self._pair.drawing)
        return item if isinstance(item, Drawing) else None

    def abandon(self) -> bool:
        active = self._pair is not None
        self._pair = self._hover = self.aimed = None
        return active

    def _ends(self) -> Floats | None:
        """(2, 2) view-plane ends of the picked or hovered length."""
        drawing, pair = self._drawing(), self._pair
        if drawing is None or pair is None:
            return None
        other = pair.second or self._hover
        return None if other is None else drawing.placement.to_plane(np.array([pair.first, other]))

    def _measured(self) -> float | None:
        ends = self._ends()
        return None if ends is None else _counted(ends[1] - ends[0], _AXES[self._along])

    def fields(self) -> Sequence[Field]:
        ready = self._pair is not None and self._pair.second is not None
        value = self._measured() if ready else None
        hint = "The real distance between the two points."
        return (Field("Real length", value, self._enter, hint=hint, first=ready),)

    def _enter(self, length: float) -> None:
        drawing, pair = self._drawing(), self._pair
        if drawing is None or pair is None or pair.second is None:
            raise ValueError("Click two points on a drawing first.")
        if self._use == "kept":
            self._keep(drawing, pair, length)
            return
        scaled = place.to_known_length(
            drawing.placement, pair.first, pair.second, length, _AXES[self._along]
        )
        doc = bodies.carried_along(self.bench.committed, drawing.id, scaled)
        # What was under the pointer lies elsewhere now.
        self.aimed = None
        self.bench.commit(doc, f"Known length {self.length(length)}")

    def _keep(self, drawing: Drawing, pair: _Pair, length: float) -> None:
        """For Register, where all known lengths count together."""
        assert pair.second is not None
        known = PictureLength(drawing.id, pair.first, pair.second, length)
        doc = registering.with_drawing_length(self.bench.committed, known)
        self.bench.commit(doc, f"Keep {self.length(length)} in {drawing.name}")

    def options(self) -> Sequence[Option]:
        def choose(value: str) -> None:
            self._along = value
            self.bench.refresh()

        def use(value: str) -> None:
            self._use = value
            self.bench.refresh()

        uses = (("now", "sizes it now"), ("kept", "is kept"))
        how = Option("The length", uses, self._use, use)
        if self._use == "kept":
            return (how,)
        view = None if self._pair is None else self._pair.view
        return how, Option("Count it", _ways(view), self._along, choose)

    def overlays(self) -> Sequence[Overlay]:
        drawing, pair, ends = self._drawing(), self._pair, self._ends()
        if drawing is None or pair is None:
            return ()
        view = pair.view
        first = view.to_world(drawing.placement.to_plane(np.array([pair.first])))
        marks: list[Overlay] = [Marks(first, "cross", only=view)]
        if ends is not None:
            shown = _along_axis(ends, _AXES[self._along])
            marks += span(view.to_world(shown), self.length(self._measured() or 0.0), view)
            marks.append(Marks(view.to_world(ends[1:]), "cross", only=view))
        return marks


def _ways(view: AnyView | None) -> tuple[tuple[str, str], ...]:
    """How a length can be counted, in words for a view."""
    axes = (None, None) if view is None else view.paper_axes
    across, up = (
        word if axis is None else f"along {AXIS_NAMES[axis]}"
        for word, axis in zip(("across", "up"), axes, strict=True)
    )
    return ("straight", "straight"), ("across", across), ("up", up)


def _counted(way: Floats, axis: int | None) -> float:
    """The length of a way (2,) on the paper, or of its part along one side of it."""
    return float(np.hypot(*way)) if axis is None else abs(float(way[axis]))


def _along_axis(ends: Floats, axis: int | None) -> Floats:
    """The part of a length that counts along one axis."""
    if axis is None:
        return ends
    shown = ends.copy()
    shown[1, 1 - axis] = ends[0, 1 - axis]
    return shown


def span(ends: Floats, text: str, view: AnyView | None) -> list[Overlay]:
    """A measured length (2, 3) with its figure at the middle."""
    return [
        Strokes(ends, width=1.6, only=view),
        Label(ends.mean(axis=0), text, shift=(10.0, -8.0), only=view),
    ]


class Measure(Tool):
    """The distance between two points of the board, in real units."""

    shortcut = "D"
    name, title, icon = "measure", "Distance", "ruler-2"
    hint = "Click two points to read the distance between them."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._view: AnyView | None = None
        self._first: Floats | None = None
        self._second: Floats | None = None
        self._done = False
        self._along = "straight"

    def press(self, event: BoardEvent) -> bool:
        if event.view is None:
            return False
        point = picking.on_board(self.bench, event).point
        if self._first is None or self._done or event.view is not self._view:
            self._view, self._first, self._second, self._done = event.view, point, None, False
        else:
            self._second, self._done = point, True
        self.bench.refresh()
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        picked = picking.on_board(self.bench, event)
        self.aimed = picked.aimed
        if self._first is not None and not self._done and event.view is self._view:
            self._second = picked.point

    def abandon(self) -> bool:
        active = self._first is not None
        self._first = self._second = self.aimed = None
        self._done = False
        return active

    def fields(self) -> Sequence[Field]:
        """The true distance makes the whole project as large as it says."""
        if not self._done:
            return ()
        hint = "Type the true distance: everything is made larger or smaller together"
        return (Field("Truly", self._distance(), self._enter, hint=hint),)

    def _enter(self, mm: float) -> None:
        now = self._distance()
        if mm <= 0 or now <= 0:
            raise ValueError("The distance must be more than zero.")
        if abs(mm - now) < 1e-9:
            return
        assert self._first is not None and self._second is not None
        doc = sizing.scaled_project(self.bench.committed, mm / now)
        self._first, self._second = self._first * (mm / now), self._second * (mm / now)
        self.bench.commit(doc, f"True size: {self.length(now)} is {self.length(mm)}")

    def words(self) -> str:
        if self._first is None or self._second is None or self._view is None:
            return self.hint
        way = np.abs(self._second - self._first)
        parts = [f"{AXIS_NAMES[a]} {self.length(float(way[a]))}" for a in self._view.axes]
        return f"Distance {self.length(self._distance())}  ·  {'  ·  '.join(parts)}"

    def _distance(self) -> float:
        assert self._first is not None and self._second is not None and self._view is not None
        return _counted(self._view.to_plane(self._second - self._first), _AXES[self._along])

    def options(self) -> Sequence[Option]:
        """What the true distance is typed of."""

        def choose(value: str) -> None:
            self._along = value
            self.bench.refresh()

        return (Option("Count it", _ways(self._view), self._along, choose),)

    def overlays(self) -> Sequence[Overlay]:
        if self._first is None or self._view is None:
            return ()
        if self._second is None:
            return (Marks(self._first[None], "cross", only=self._view),)
        ends, view = np.stack([self._first, self._second]), self._view
        marks: list[Overlay] = [Marks(ends, "cross", only=view)]
        shown = view.to_world(_along_axis(view.to_plane(ends), _AXES[self._along]))
        # At the depth of what was picked.
        shown = shown + view.directions.forward * float(view.directions.forward @ self._first)
        return [*marks, *span(shown, self.length(self._distance()), view)]
