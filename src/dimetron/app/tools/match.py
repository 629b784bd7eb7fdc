"""Match: lay two points of a drawing onto two places of the board."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from dimetron.app.kit.instrument import Switch
from dimetron.app.tools import picking
from dimetron.app.tools.base import BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.document import bodies, edits, placing
from dimetron.document.model import Document, Drawing
from dimetron.geometry import placement as place
from dimetron.geometry.placement import PlacementError
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats
from dimetron.render.overlays import Marks, Overlay, Strokes

_STEPS = (
    "Click a point of the drawing that is to be laid.",
    "Click the place it belongs to.",
    "Click a second point of the same drawing.",
    "Click the place that one belongs to.",
)


class MatchPoints(Tool):
    """Two points of a drawing and where they belong give its place, turn and scale."""

    shortcut = "M"
    name, title, icon = "match", "Match two points", "map-pins"
    hint = _STEPS[0]

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._drawing: str | None = None
        self._view: AnyView | None = None
        self._points: list[tuple[float, float]] = []
        self._targets: list[Floats] = []
        self._hover: Floats | None = None
        self._keep_scale = False

    def words(self) -> str:
        return _STEPS[len(self._points) + len(self._targets)]

    def _item(self) -> Drawing | None:
        item = self.bench.committed.item(self._drawing) if self._drawing else None
        return item if isinstance(item, Drawing) else None

    def press(self, event: BoardEvent) -> bool:
        if event.view is None:
            return False
        if self._view is not None and event.view != self._view:
            self.bench.warn(f"Go on in the pane that shows {self._view.title.lower()}.")
            return True
        if len(self._points) == len(self._targets):
            self._pick(event, event.view)
        else:
            found = picking.on_board(self.bench, event, self._skip())
            self._targets.append(event.view.to_plane(found.point))
            self._settle()
        self.bench.refresh()
        return True

    def _skip(self) -> frozenset[str]:
        return frozenset((self._drawing,)) if self._drawing else frozenset()

    def _pick(self, event: BoardEvent, view: AnyView) -> None:
        under = picking.free_drawing(self.bench, event)
        item = self._item() or (under and under.drawing)
        if item is None:
            self.bench.warn("Click on a drawing that is shown and not held.")
            return
        shown = self.bench.document.drawing(item.id)
        self._drawing, self._view = item.id, view
        self.bench.choose((item.id,))
        self._points.append(picking.on_drawing(self.bench, shown, event).px)

    def _settle(self) -> None:
        """Show what follows from what was picked; with four clicks it is done."""
        try:
            doc = self._laid()
        except PlacementError as error:
            self._targets.pop()
            self._points.pop()
            self.bench.warn(str(error))
            return
        if len(self._targets) < 2:
            self.bench.preview(doc)
            return
        name = doc.drawing(self._drawing or "").name
        self._forget()
        self.bench.commit(doc, f"Match two points of {name}")

    def _laid(self) -> Document:
        item = self._item()
        assert item is not None
        p = item.placement
        if len(self._targets) == 1:
            after = place.moved(p, self._targets[0] - p.to_plane(self._points[0]))
        else:
            after = placing.matched(p, self._points, self._targets, self._keep_scale)
        # Those of its body become as much larger, and stay where they are to one another.
        larger = replace(p, mm_per_px=after.mm_per_px)
        doc = bodies.carried_along(self.bench.committed, item.id, larger)
        return edits.with_placement(doc, item.id, after)

    def move(self, event: BoardEvent, pressed: bool) -> None:
        self._hover = self.aimed = None
        if event.view is None or self._view not in (None, event.view):
            return
        if len(self._points) > len(self._targets):
            picked = picking.on_board(self.bench, event, self._skip())
            self.aimed, self._hover = picked.aimed, event.view.to_plane(picked.point)
            return
        item = self._item()
        if item is None:
            self.aimed = picking.free_drawing(self.bench, event)
        else:
            shown = self.bench.document.drawing(item.id)
            self.aimed = picking.on_drawing(self.bench, shown, event)

    def _forget(self) -> None:
        self._drawing = self._view = self._hover = self.aimed = None
        self._points, self._targets = [], []

    def abandon(self) -> bool:
        active = self._drawing is not None
        self._forget()
        if active:
            self.bench.cancel()
        return active

    def switches(self) -> Sequence[Switch]:
        def turn(on: bool) -> None:
            self._keep_scale = on
            self.bench.refresh()

        hint = "The second point gives the direction only"
        return (Switch("Keep the scale", self._keep_scale, turn, hint),)

    def overlays(self) -> Sequence[Overlay]:
        view = self._view
        if view is None or self._drawing is None:
            return ()
        item = self.bench.document.drawing(self._drawing)
        marks: list[Overlay] = []
        picked = [item.placement.to_plane(px) for px in self._points]
        if picked:
            marks.append(Marks(view.to_world(np.array(picked)), "cross", only=view))
        if self._targets:
            marks.append(Marks(view.to_world(np.array(self._targets)), "ring", "accent", only=view))
        if len(picked) > len(self._targets) and self._hover is not None:
            line = view.to_world(np.stack([picked[-1], self._hover]))
            marks.append(Strokes(line, "selection", 1.2, dash=4.0, only=view))
        return marks
