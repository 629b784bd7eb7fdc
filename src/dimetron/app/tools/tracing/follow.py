"""Follow the ink: an outline drawn by clicks along a drawing's line."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from dimetron.app.kit.instrument import Action, Field, Option
from dimetron.app.tools import picking
from dimetron.app.tools.base import REACH_PX, BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.snap import met
from dimetron.app.tools.tracing.missing import USUAL_MISS, Miss, miss_field, miss_of
from dimetron.app.tools.tracing.seen import path_marks
from dimetron.document.model import Drawing
from dimetron.document.outline import halving_axes, side_of, to_mm, with_outline
from dimetron.geometry.camera import OrthoCamera
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats
from dimetron.outlines import halves
from dimetron.outlines.edit import closed
from dimetron.outlines.fit import fitted
from dimetron.outlines.follow import Ways, nearest_on_line, run_along, ways_from
from dimetron.outlines.meets import squared
from dimetron.outlines.path import Path, from_pieces, joined, path_of
from dimetron.render.overlays import Label, Marks, Overlay

#: Where the mouse is led to a line from, in pixels of the screen.
_LEAD_PX = 14.0
_WHOLE = ""
_MET = {"touches": "touches the outline", "square": "square to the outline"}


class FollowInk(Tool):
    """Click along a drawn line: between two clicks the outline follows it."""

    shortcut = "Shift+K"
    name, title, icon = "follow-ink", "Follow ink", "follow-ink"
    hint = (
        "Click along a drawn line: the outline follows it. Ctrl goes straight, Shift also square."
    )

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._miss = USUAL_MISS
        self._half = _WHOLE
        self._view: AnyView | None = None
        self._drawing: Drawing | None = None
        self._first: Floats | None = None
        self._pieces: list[Path] = []
        self._ways: Ways | None = None
        self._next: Path | None = None
        self._next_miss: Miss | None = None
        #: Where the straight way touches an outline or stands square to it.
        self._met: tuple[Floats, str] | None = None
        self._last_miss: Miss | None = None

    def words(self) -> str:
        if self._first is None:
            return self.hint
        return (
            "Click on along the line; Ctrl goes straight, Shift square. Enter ends, "
            "a click at the beginning closes, Escape takes back."
        )

    # Pointing.

    def press(self, event: BoardEvent) -> bool:
        if event.view is None or not isinstance(event.camera, OrthoCamera):
            return False
        if self._first is None:
            self._begin(event)
            return True
        if event.view != self._view:
            self.bench.warn(f"This outline lies in the {self._view_name()} view; go on there.")
            return True
        self._aim(event)
        if self._closes(event):
            self._take_next()
            self._finish(close=True)
        else:
            self._take_next()
        return True

    def _begin(self, event: BoardEvent) -> None:
        picked = picking.on_board(self.bench, event)
        assert event.view is not None
        self._view = event.view
        self._drawing = picking.drawing_shown_at(self.bench.document, event)
        self._first = self._on_axis(event, self._led(event, picked))
        self._pieces, self._ways, self._next = [], None, None
        self.bench.refresh()

    def _view_name(self) -> str:
        return "" if self._view is None else self._view.title.lower()

    def move(self, event: BoardEvent, pressed: bool) -> None:
        if self._first is None or event.view != self._view:
            self._next = None
            return
        self._aim(event)

    def _aim(self, event: BoardEvent) -> None:
        """The next piece, from where the last one ended to the pointer."""
        start = self._end()
        to = self._target(event)
        if np.hypot(*(to - start)) < 1e-9:
            self._next = None
            return
        square = event.shift and not self._closes(event)
        self._met = met(self.bench, event, start) if square else None
        if self._met is not None:
            to = self._met[0]
        elif square:
            to = self._on_axis(event, squared(start, to, self._way_in()))
        path = None if event.ctrl or event.shift else self._along_ink(event, start, to)
        self._next = path if path is not None else path_of(np.stack([start, to]))
        self._next_miss = None
        if path is not None and self._drawing is not None:
            self._next_miss = miss_of(self.bench, self._drawing, path)

    def _way_in(self) -> list[Floats]:
        """The way in which the last piece arrives."""
        if not self._pieces:
            return []
        points = self._pieces[-1].pieces[-1]
        ways = points[3] - points[:3]
        return [ways[k] for k in (2, 1, 0) if np.hypot(*ways[k]) > 1e-9][:1]

    def _target(self, event: BoardEvent) -> Floats:
        assert self._view is not None
        if self._closes(event):
            assert self._first is not None
            return self._first
        return self._on_axis(event, self._led(event, picking.on_board(self.bench, event)))

    def _led(self, event: BoardEvent, picked: picking.Picked) -> Floats:
        """A place that snaps to nothing is led onto the nearest line."""
        assert self._view is not None
        at = self._view.to_plane(picked.point)
        drawing = self._drawing
        pyramid = None if drawing is None else self.bench.pyramid(drawing)
        if picked.aimed is not None or picked.guides or event.ctrl or "ink" not in self.bench.snaps:
            return at
        if drawing is None or pyramid is None or not isinstance(event.camera, OrthoCamera):
            return at
        place = drawing.placement
        reach = _LEAD_PX * event.camera.mm_per_px / place.mm_per_px
        on_line = nearest_on_line(pyramid, place.to_px(at), reach)
        return at if on_line is None else place.to_plane(on_line)

    def _closes(self, event: BoardEvent) -> bool:
        """Whether the pointer is back at the beginning."""
        if self._first is None or not self._pieces or self._view is None:
            return False
        at = event.camera.project(self._view.to_world(self._first))
        return float(np.hypot(*(at - event.px))) < REACH_PX

    def _on_axis(self, event: BoardEvent, at: Floats) -> Floats:
        """The ends of a half lie exactly on its axis."""
        side = self._side()
        if side is not None and isinstance(event.camera, OrthoCamera):
            reach = REACH_PX * event.camera.mm_per_px
            if abs(at[side]) <= reach:
                at = at.copy()
                at[side] = 0.0
        return at

    def _side(self) -> int | None:
        if not self._half or self._view is None:
            return None
        return side_of(self._view, self._half)

    def _end(self) -> Floats:
        assert self._first is not None
        return self._pieces[-1].points[-1] if self._pieces else self._first

    def _along_ink(self, event: BoardEvent, start: Floats, to: Floats) -> Path | None:
        drawing = self._drawing
        pyramid = None if drawing is None else self.bench.pyramid(drawing)
        if drawing is None or pyramid is None or not isinstance(event.camera, OrthoCamera):
            return None
        place = drawing.placement
        a, b = place.to_px(start), place.to_px(to)
        reach = _LEAD_PX * event.camera.mm_per_px / place.mm_per_px
        ways = self._ways
        if ways is None or not np.array_equal(ways.start, a) or not ways.covers(b):
            ways = self._ways = ways_from(pyramid, a, b, reach)
        way = None if ways is None else ways.to(b, reach)
        if way is None:
            return None
        run = run_along(pyramid, way, a, b)
        miss = max(self._miss / place.mm_per_px, 0.05)
        return to_mm(drawing, fitted(run.points, miss, run.corners))

    def _take_next(self) -> None:
        if self._next is not None:
            self._pieces.append(self._next)
            self._next = None
            self.bench.refresh()

    # Ending.

    def key(self, key: str, event: BoardEvent | None) -> bool:
        if key == "enter" and self._first is not None:
            self._finish()
            return True
        return False

    def abandon(self) -> bool:
        """Takes back the piece drawn last; at the beginning, the beginning."""
        if self._pieces:
            self._pieces.pop()
            self._next = None
        elif self._first is not None:
            self._drop()
        else:
            return False
        self.bench.refresh()
        return True

    def put_down(self) -> None:
        """What was drawn is kept."""
        if self._first is not None:
            self._finish()

    def _drop(self) -> None:
        self._first = self._view = self._drawing = self._ways = self._next = None
        self._next_miss = None
        self._pieces = []

    def _finish(self, close: bool = False) -> None:
        if self._pieces and self._view is not None:
            path = smooth_joints(joined(self._pieces))
            if close and len(path) > 2:
                path = smooth_joints(closed(path))
            side = self._side()
            half = self._half if side is not None and not path.closed else ""
            if side is not None and half:
                path = halves.onto_axis(path, side, 1e-6)
            drawing = self._drawing
            name = f"{drawing.name} outline" if drawing is not None else "outline"
            doc, made = with_outline(
                self.bench.committed,
                path,
                self._view,
                name,
                half=half,
                drawing=None if drawing is None else drawing.id,
            )
            self._last_miss = None if drawing is None else miss_of(self.bench, drawing, path)
            self.bench.commit(doc, f"Draw {doc.item(made).name}")  # type: ignore[union-attr]
            self.bench.choose((made,))
        self._drop()
        self.bench.refresh()

    # The panel.

    def fields(self) -> Sequence[Field]:
        def take(mm: float) -> None:
            self._miss = mm
            self.bench.refresh()

        return (miss_field(self._miss, take),)

    def options(self) -> Sequence[Option]:
        def choose(value: str) -> None:
            self._half = value
            self.bench.refresh()

        axes = ("x", "z", "y") if self._view is None else halving_axes(self._view)
        choices = ((_WHOLE, "none"), *((axis, axis.upper()) for axis in axes))
        value = self._half if self._half in dict(choices) else _WHOLE
        return (Option("Mirror about", choices, value, choose),)

    def actions(self) -> Sequence[Action]:
        under_way = bool(self._pieces)
        return (
            Action("end", "End here", self._finish, "The outline stays open (Enter)", under_way),
            Action(
                "close",
                "Close it",
                lambda: self._finish(close=True),
                "Back to its beginning the straight way",
                under_way,
            ),
        )

    def told(self) -> str:
        if self._first is None and self._last_miss is not None:
            return f"{_words(self, self._last_miss)}."
        return ""

    def overlays(self) -> Sequence[Overlay]:
        view = self._view
        if view is None or self._first is None:
            return ()
        marks: list[Overlay] = [path_marks(p, view, 0.0, "accent") for p in self._pieces]
        side = self._side()
        if side is not None:
            marks += [
                path_marks(halves.mirrored(p, side), view, 0.0, "accent", 5.0) for p in self._pieces
            ]
        joints = np.array([self._first, *(p.points[-1] for p in self._pieces)])
        marks.append(Marks(view.to_world(joints), "square", "accent", 6.0, only=view))
        if self._next is not None:
            marks.append(path_marks(self._next, view, 0.0, "selection", 6.0))
            end = view.to_world(self._next.points[-1])
            marks.append(Marks(end[None], "ring", "selection", 8.0, only=view))
            if self._next_miss is not None:
                marks.append(Label(end, f"next piece: {_words(self, self._next_miss)}", only=view))
            elif len(self._next) == 2:
                long = float(np.hypot(*np.diff(self._next.points, axis=0)[0]))
                how = _MET[self._met[1]] if self._met is not None else "straight"
                marks.append(Label(end, f"next piece: {self.length(long)}, {how}", only=view))
        return marks


def _words(tool: Tool, miss: Miss) -> str:
    return f"{tool.length(miss.mean)} off, largest {tool.length(miss.most)}"


def smooth_joints(path: Path, within_deg: float = 12.0) -> Path:
    """Where pieces that were drawn one after the other all but go on in one another, they do."""
    smooth = from_pieces(path.pieces, path.closed, within_deg).corner
    before, after = path.before.copy(), path.after.copy()
    corner = path.corner & smooth
    for point in np.flatnonzero(path.corner & ~corner).tolist():
        here = path.points[point]
        way = after[point] - here
        back = here - before[point]
        reach = np.hypot(*back), np.hypot(*way)
        if min(reach) < 1e-9:
            corner[point] = True
            continue
        mean = way / reach[1] + back / reach[0]
        mean /= np.hypot(*mean)
        before[point], after[point] = here - reach[0] * mean, here + reach[1] * mean
    return replace(path, before=before, after=after, corner=corner)
