"""Where the panes lie, as a value. Third-angle: plan above front, side to the right of it;
first-angle: plan below front, side to the left of it (ISO 128-30)."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import NamedTuple

from dimetron.geometry.views import Projection, View

#: Slots of the board. The 3D view takes the fourth place.
PLAN, SPACE, ELEVATION, SIDE = "plan", "space", "elevation", "side"
SLOTS = (PLAN, SPACE, ELEVATION, SIDE)
FLAT_SLOTS = (PLAN, ELEVATION, SIDE)
#: Views each flat slot can show.
VIEWS = {
    PLAN: (View.TOP, View.BOTTOM),
    ELEVATION: (View.FRONT, View.BACK),
    SIDE: (View.RIGHT, View.LEFT),
}
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
    fills the board, or None."""

    projection: Projection = Projection.THIRD_ANGLE
    split: tuple[float, float] = (0.46, 0.46)
    full: str | None = None

    def columns(self) -> dict[str, tuple[int, int]]:
        """Column and row of each slot."""
        if self.projection is Projection.THIRD_ANGLE:
            return {PLAN: (0, 0), SPACE: (1, 0), ELEVATION: (0, 1), SIDE: (1, 1)}
        return {SIDE: (0, 0), ELEVATION: (1, 0), SPACE: (0, 1), PLAN: (1, 1)}

    def rects(self, w: float, h: float) -> dict[str, Rect]:
        """Shown slots and where they lie on a board of w x h pixels."""
        if self.full is not None:
            return {self.full: Rect(0, 0, w, h)}
        x, y = round(w * self.split[0]), round(h * self.split[1])
        xs = (Rect(0, 0, x, 0), Rect(x + BORDER_PX, 0, w - x - BORDER_PX, 0))
        ys = (Rect(0, 0, 0, y), Rect(0, y + BORDER_PX, 0, h - y - BORDER_PX))
        return {
            slot: Rect(xs[c].x, ys[r].y, xs[c].w, ys[r].h)
            for slot, (c, r) in self.columns().items()
        }

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
        if self.full is not None:
            return False, False
        return abs(x - w * self.split[0]) <= GRIP_PX, abs(y - h * self.split[1]) <= GRIP_PX

    def with_split(self, fx: float | None, fy: float | None) -> Layout:
        def within(share: float) -> float:
            return min(1 - _LEAST_SHARE, max(_LEAST_SHARE, share))

        x, y = self.split
        return replace(
            self, split=(x if fx is None else within(fx), y if fy is None else within(fy))
        )
