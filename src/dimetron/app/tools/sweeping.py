"""Selecting by a sweep of the pointer from empty ground: a box, a lasso, or a brush."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np

from dimetron.app.tools import aim
from dimetron.app.tools.base import BoardEvent, far_apart
from dimetron.app.tools.bench import Shaping
from dimetron.document.model import MeshObject
from dimetron.geometry.segments import nearest_on
from dimetron.mesh.arrays import Floats, Ints, Mask
from dimetron.mesh.pick import in_box
from dimetron.mesh.select import Kind
from dimetron.outlines.meets import inside
from dimetron.render.overlays import Overlay, PaneBox, PanePath

WAYS = (("box", "box"), ("lasso", "lasso"), ("brush", "brush"))
#: How wide the brush is, in pixels.
BRUSH_PX = 16.0
_Px = tuple[float, float]


@dataclass(slots=True)
class Sweep:
    """way: as in ``WAYS``; path: where the pointer went, in the pixels of one pane."""

    way: str
    first: BoardEvent
    last: BoardEvent = field(init=False)
    path: list[_Px] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.last = self.first
        self.path.append(self.first.px)

    def go_on(self, event: BoardEvent) -> None:
        """The pointer is elsewhere in the same pane."""
        if event.slot == self.first.slot:
            self.last = event
            self.path.append(event.px)

    @property
    def went(self) -> bool:
        """Whether it is more than a click."""
        return any(far_apart(self.first.px, px) for px in self.path[1:])

    def parts(self, bench: Shaping, item: MeshObject, kind: Kind) -> Ints:
        """The parts of a mesh that it takes in; in a solid pane only what is in sight."""
        return aim.parts_where(bench, item, kind, self.last, self._taking())

    def _taking(self) -> Callable[[Floats], Mask]:
        path = np.array(self.path)
        if self.way == "lasso":
            return lambda px: inside(path, px)
        if self.way == "brush":
            return lambda px: _near(path, px)
        low, high = ordered(self.first.px, self.last.px)
        return lambda px: in_box(px, low, high)

    def overlays(self) -> Sequence[Overlay]:
        """What shows it."""
        if self.way == "box":
            low, high = ordered(self.first.px, self.last.px)
            return (PaneBox(self.first.slot, low, high),)
        closed = self.way == "lasso"
        width = 1.2 if closed else 2 * BRUSH_PX
        return (PanePath(self.first.slot, tuple(self.path), width, closed),)


def _near(path: Floats, px: Floats) -> Mask:
    """(n,) which places (n, 2) lie under a brush that went along a path."""
    found = np.zeros(len(px), bool)
    for a, b in zip(path, path[1:] if len(path) > 1 else path, strict=False):
        found |= nearest_on(px, a, b)[1] <= BRUSH_PX
    return found


def ordered(a: _Px, b: _Px) -> tuple[_Px, _Px]:
    """Lowest and highest corner of the box between two places."""
    low = min(a[0], b[0]), min(a[1], b[1])
    return low, (max(a[0], b[0]), max(a[1], b[1]))
