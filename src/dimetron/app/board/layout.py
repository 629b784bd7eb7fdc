"""Where the panes lie, as a value: one to four of them.

Third-angle: plan above front, side to the right of it; first-angle: plan below front, side to the
left of it (ISO 128-30).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import NamedTuple

from dimetron.app.tools.slots import ELEVATION, PLAN, SIDE, SLOTS, SPACE
from dimetron.geometry.views import Projection

#: Width of the border between panes, and how near the pointer takes hold of it.
BORDER_PX = 1.0
GRIP_PX = 4.0
_LEAST_SHARE = 0.12
#: Most of the board that one side gets by itself.
_MOST_UNEVEN = 0.6


class Rect(NamedTuple):
    x: float
    y: float
    w: float
    h: float

    def contains(self, x: float, y: float) -> bool:
        return self.x <= x < self.x + self.w and self.y <= y < self.y + self.h


@dataclass(frozen=True, slots=True)
class Layout:
    """``split``: share of width and height left of and above the borders; ``full``: the pane that
    fills the board for now, or None; ``slots``: the panes that are shown otherwise."""

    projection: Projection = Projection.THIRD_ANGLE
    split: tuple[float, float] = (0.46, 0.46)
    full: str | None = None
    slots: tuple[str, ...] = SLOTS

    def columns(self) -> dict[str, tuple[int, int]]:
        """Column and row of each slot."""
        if self.projection is Projection.THIRD_ANGLE:
            return {PLAN: (0, 0), SPACE: (1, 0), ELEVATION: (0, 1), SIDE: (1, 1)}
        return {SIDE: (0, 0), ELEVATION: (1, 0), SPACE: (0, 1), PLAN: (1, 1)}

    def rects(self, w: float, h: float) -> dict[str, Rect]:
        """Shown slots and where they lie on a board of w x h pixels."""
        return dict(_rects(self, w, h))

    def _lain_out(self, w: float, h: float) -> dict[str, Rect]:
        shown = (self.full,) if self.full is not None else self.slots
        cells = self._cells(w, h)
        places = self._places(shown)
        found = {}
        for slot in self.columns():
            if slot not in shown:
                continue
            column, row = places[slot]
            across = len({c for c, r in places.values() if r == row}) > 1
            down = len({r for _, r in places.values()}) > 1
            x, width = (cells[0][column]) if across else (0.0, w)
            y, height = (cells[1][row]) if down else (0.0, h)
            found[slot] = Rect(x, y, width, height)
        return found

    def _cells(self, w: float, h: float) -> tuple[list[tuple[float, float]], ...]:
        """Columns and rows of the four places, each as begin and size."""
        x, y = round(w * self.split[0]), round(h * self.split[1])
        return (
            [(0.0, x), (x + BORDER_PX, w - x - BORDER_PX)],
            [(0.0, y), (y + BORDER_PX, h - y - BORDER_PX)],
        )

    def _places(self, shown: tuple[str, ...]) -> dict[str, tuple[int, int]]:
        """Column and row of the shown panes. Two that stand cornerwise go side by side."""
        places = {slot: at for slot, at in self.columns().items() if slot in shown}
        if len(places) == 2:
            (a, (ca, ra)), (b, (cb, rb)) = places.items()
            if ca != cb and ra != rb:
                return {a: (ca, 0), b: (cb, 0)}
        return places

    def homes(self, w: float, h: float) -> dict[str, Rect]:
        """The part of each shown pane whose middle shows the focus: of a pane that takes the room
        of a missing neighbour, its own place, so that it stays in line with the others."""
        rects = self.rects(w, h)
        if len(rects) != 3:
            return rects
        cells, places = self._cells(w, h), self.columns()
        homes = {}
        for slot, rect in rects.items():
            x, width = cells[0][places[slot][0]]
            homes[slot] = Rect(x, rect.y, width, rect.h) if rect.w > width else rect
        return homes

    def with_slots(self, slots: tuple[str, ...]) -> Layout:
        """Show these panes, in their own places."""
        return replace(self, slots=tuple(s for s in SLOTS if s in slots) or SLOTS, full=None)

    def proportioned(self, extents: tuple[float, float, float]) -> Layout:
        """Borders so that the flat panes share the board as their views share the object."""
        width, depth, height = (max(e, 1e-9) for e in extents)
        third = self.projection is Projection.THIRD_ANGLE
        across = width / (width + depth) if third else depth / (width + depth)
        down = depth / (depth + height) if third else height / (depth + height)

        def within(share: float) -> float:
            return min(_MOST_UNEVEN, max(1 - _MOST_UNEVEN, share))

        return replace(self, split=(within(across), within(down)))

    def arranged(self, projection: Projection) -> Layout:
        """The other arrangement; every pane keeps its size."""
        if projection is self.projection:
            return self
        x, y = self.split
        return replace(self, projection=projection, split=(1 - x, 1 - y))

    def grip_at(self, x: float, y: float, w: float, h: float) -> tuple[bool, bool]:
        """Whether the upright and the level border are within reach."""
        rects = self.rects(w, h).values()
        upright = any(
            r.x > 0 and abs(x - r.x) <= GRIP_PX and r.y - GRIP_PX <= y <= r.y + r.h + GRIP_PX
            for r in rects
        )
        level = any(r.y > 0 and abs(y - r.y) <= GRIP_PX for r in rects)
        return upright, level

    def with_split(self, fx: float | None, fy: float | None) -> Layout:
        def within(share: float) -> float:
            return min(1 - _LEAST_SHARE, max(_LEAST_SHARE, share))

        x, y = self.split
        return replace(
            self, split=(x if fx is None else within(fx), y if fy is None else within(fy))
        )


@lru_cache(maxsize=16)
def _rects(layout: Layout, w: float, h: float) -> dict[str, Rect]:
    """Asked for several times with every event."""
    return layout._lain_out(w, h)
