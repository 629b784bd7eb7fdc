"""Points and handles of outlines: moved, typed, made smooth or corners, put in and taken out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.app.kit.instrument import Action, Field, Option, Switch
from dimetron.app.tools import picking
from dimetron.app.tools.base import BoardEvent, Tool, far_apart
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.tracing import points_numbers
from dimetron.app.tools.tracing import points_panel as panel
from dimetron.app.tools.tracing.grabbed import Grabbed, grabbed
from dimetron.app.tools.tracing.seen import points_seen
from dimetron.document.outline import Outline, with_path
from dimetron.mesh.arrays import Floats
from dimetron.outlines import edit
from dimetron.outlines.path import Path
from dimetron.render.overlays import Overlay, PaneBox


@dataclass(slots=True)
class _Drag:
    """what: None while a box is drawn. path: of the outline before."""

    what: Grabbed | None
    px: tuple[float, float]
    path: Path | None = None
    dragging: bool = False
    at: tuple[float, float] = (0.0, 0.0)
    slot: str = ""


class EditPoints(Tool):
    """Drag points and handles of outlines, or type where they are."""

    shortcut = "Shift+J"
    name, title, icon = "points", "Points", "outline-points"
    hint = "Click an outline, then drag its points; Ctrl+click on it puts one in."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self.points: tuple[int, ...] = ()
        self._of = ""
        self._drag: _Drag | None = None
        self.miss_mm = 0.3

    def words(self) -> str:
        if self.outline() is None:
            return self.hint
        if not self.selected():
            return "Drag a point, Shift adds, Ctrl+click puts one in, drag a box to select."
        return "Drag points or handles; Ctrl moves a handle alone, Delete takes points out."

    # What it works on.

    def outline(self) -> Outline | None:
        """The chosen outline, if just one item is chosen and it is one."""
        chosen = self.bench.chosen
        item = self.bench.document.item(chosen[0]) if len(chosen) == 1 else None
        return item if isinstance(item, Outline) else None

    def selected(self) -> tuple[int, ...]:
        """The selected points of the chosen outline."""
        item = self.outline()
        if item is None or item.id != self._of:
            return ()
        return tuple(k for k in self.points if k < len(item.path))

    def select(self, item: Outline, points: Sequence[int]) -> None:
        self._of, self.points = item.id, tuple(points)
        self.bench.refresh()

    def about(self) -> object:
        return self.bench.chosen, self.selected()

    def change(self, path: Path | None, label: str) -> None:
        """Another path for the chosen outline; None takes it away."""
        item = self.outline()
        if item is None:
            return
        if path is None:
            self.bench.commit(panel.without_item(self.bench.committed, item), label)
            return
        self.bench.commit(with_path(self.bench.committed, item.id, path), label)
        self.points = tuple(k for k in self.points if k < len(path))
        self.bench.refresh()

    # Pointing.

    def press(self, event: BoardEvent) -> bool:
        if event.view is None:
            return False
        hit = grabbed(self.bench.document, event, self.bench.chosen)
        if hit is None:
            self._drag = _Drag(None, event.px, at=event.px, slot=event.slot)
            return True
        if hit.item.id not in self.bench.chosen:
            self.bench.choose((hit.item.id,))
            self.select(hit.item, ())
        if hit.kind == "piece":
            if event.ctrl:
                self._put_in(hit)
                return True
            self.select(hit.item, self._ends_of(hit))
        elif hit.kind == "point":
            self._pick(hit, event.shift)
        self._drag = _Drag(hit, event.px, hit.item.path, slot=event.slot)
        return True

    def _ends_of(self, hit: Grabbed) -> tuple[int, ...]:
        return hit.number, (hit.number + 1) % len(hit.item.path)

    def _put_in(self, hit: Grabbed) -> None:
        path = edit.inserted(hit.item.path, hit.number, hit.t)
        self._of, self.points = hit.item.id, (hit.number + 1,)
        self.change(path, f"Put a point into {hit.item.name}")

    def _pick(self, hit: Grabbed, adding: bool) -> None:
        known = self.selected() if hit.item.id == self._of else ()
        if adding:
            self.select(hit.item, sorted(set(known) ^ {hit.number}))
        elif hit.number not in known:
            self.select(hit.item, (hit.number,))

    def move(self, event: BoardEvent, pressed: bool) -> None:
        drag = self._drag
        if drag is None or not pressed:
            return
        drag.at = event.px
        drag.dragging = drag.dragging or far_apart(event.px, drag.px)
        if not drag.dragging or drag.what is None or drag.path is None:
            return
        item = drag.what.item
        if event.view != item.view:
            return
        to = item.view.to_plane(self._place(event, drag.what))
        path = self._dragged(drag, to, event)
        self.bench.preview(with_path(self.bench.committed, item.id, path))

    def _place(self, event: BoardEvent, hit: Grabbed) -> Floats:
        """Where the pointer would put a point: handles are led by nothing."""
        if hit.kind in ("before", "after") or event.shift:
            return event.point
        moving = self.selected() if hit.kind == "point" else range(len(hit.item.path))
        own = hit.item.id, np.array(moving, np.intp)
        return picking.on_board(self.bench, event, without=own).point

    def _dragged(self, drag: _Drag, to: Floats, event: BoardEvent) -> Path:
        hit, path = drag.what, drag.path
        assert hit is not None and path is not None
        if hit.kind in ("before", "after"):
            return edit.shaped(path, hit.number, hit.kind == "after", to, event.ctrl)
        which = self.selected() or (hit.number,)
        start = path.points[hit.number]
        if hit.kind == "piece":
            start = hit.item.view.to_plane(self._unprojected(event, drag.px))
        return edit.moved(path, which, to - start)

    def _unprojected(self, event: BoardEvent, px: tuple[float, float]) -> Floats:
        ray = event.camera.ray(px)
        away = np.array(event.point) - ray.origin
        return np.asarray(ray.origin + ray.direction * float(away @ ray.direction))

    def release(self, event: BoardEvent) -> None:
        drag, self._drag = self._drag, None
        if drag is None:
            return
        if drag.what is None:
            self._box(drag, event)
            return
        if drag.dragging and self.bench.document is not self.bench.committed:
            what = "a handle" if drag.what.kind in ("before", "after") else "points"
            self.bench.commit(self.bench.document, f"Move {what} of {drag.what.item.name}")
            self.bench.refresh()

    def _box(self, drag: _Drag, event: BoardEvent) -> None:
        item = self.outline()
        if not drag.dragging:
            self.bench.choose(())
            return
        if item is None or event.view != item.view:
            return
        px = event.camera.project(item.view.to_world(item.path.points, item.depth))
        low, high = np.minimum(drag.px, drag.at), np.maximum(drag.px, drag.at)
        inside = np.flatnonzero(((px >= low) & (px <= high)).all(axis=1)).tolist()
        known = self.selected() if event.shift else ()
        self.select(item, sorted({*known, *inside}))

    def abandon(self) -> bool:
        drag, self._drag = self._drag, None
        if drag is not None:
            self.bench.cancel()
            return True
        if self.selected():
            self.points = ()
            self.bench.refresh()
            return True
        return False

    def key(self, key: str, event: BoardEvent | None) -> bool:
        item, points = self.outline(), self.selected()
        if item is None or not points:
            return False
        if key == "delete":
            self.points = ()
            self.change(edit.without(item.path, points), f"Take points out of {item.name}")
            return True
        step = panel.STEPS.get(key.removeprefix("shift+"))
        if step is None:
            return False
        mm = (10.0 if key.startswith("shift+") else 1.0) * panel.nudge_mm(self.bench, item.view)
        self.change(
            edit.moved(item.path, points, np.array(step) * mm), f"Move points of {item.name}"
        )
        return True

    # The panel.

    def fields(self) -> Sequence[Field]:
        return points_numbers.fields(self)

    def options(self) -> Sequence[Option]:
        return panel.options(self)

    def switches(self) -> Sequence[Switch]:
        return panel.switches(self)

    def actions(self) -> Sequence[Action]:
        return panel.actions(self)

    def told(self) -> str:
        return panel.told(self)

    def overlays(self) -> Sequence[Overlay]:
        item = self.outline()
        marks = [] if item is None else points_seen(item, self.selected())
        drag = self._drag
        if drag is not None and drag.what is None and drag.dragging:
            low = min(drag.px[0], drag.at[0]), min(drag.px[1], drag.at[1])
            high = max(drag.px[0], drag.at[0]), max(drag.px[1], drag.at[1])
            marks.append(PaneBox(drag.slot, low, high))
        return marks
