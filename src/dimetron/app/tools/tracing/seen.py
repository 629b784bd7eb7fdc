"""Outlines under way, drawn: their lines, points and handles, and how far they lie off the ink."""

from __future__ import annotations

from collections.abc import Collection

import numpy as np

from dimetron.document.outline import Outline, fineness
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, Ints
from dimetron.outlines.path import Path, sampled
from dimetron.render.overlays import Marks, Overlay, Strokes

#: Sizes of points, in pixels.
_CORNER, _SMOOTH, _HANDLE = 6.0, 7.0, 4.0


def line_of(path: Path, view: AnyView, depth: float) -> Floats:
    """(n, 3) a path as a polyline in space."""
    points = sampled(path, fineness(path))
    if path.closed:
        points = np.concatenate([points, points[:1]])
    return view.to_world(points, depth)


def path_marks(
    path: Path, view: AnyView, depth: float, role: str, dash: float = 0.0, width: float = 2.0
) -> Overlay:
    """A path as a line in its view."""
    return Strokes(line_of(path, view, depth), role, width, dash, only=view)


def points_seen(item: Outline, selected: Collection[int]) -> list[Overlay]:
    """An outline's points: squares for corners, rings for smooth ones, and the handles of those
    that are selected."""
    path, view = item.path, item.view
    marks: list[Overlay] = []

    def put(which: Ints, kind: str, role: str, size: float) -> None:
        if len(which):
            places = view.to_world(path.points[which], item.depth)
            marks.append(Marks(places, kind, role, size, only=view))

    chosen = np.zeros(len(path), bool)
    chosen[[k for k in selected if k < len(path)]] = True
    for corner, kind, size in ((True, "square", _CORNER), (False, "ring", _SMOOTH)):
        of_kind = path.corner == corner
        put(np.flatnonzero(of_kind & ~chosen), kind, "accent", size)
        put(np.flatnonzero(of_kind & chosen), kind, "selection", size + 2)
    for point in np.flatnonzero(chosen).tolist():
        for handle in (path.before[point], path.after[point]):
            if np.abs(handle - path.points[point]).max() > 1e-9:
                ends = view.to_world(np.stack([path.points[point], handle]), item.depth)
                marks.append(Strokes(ends, "selection", 1.0, only=view))
                marks.append(Marks(ends[1:], "dot", "selection", _HANDLE, only=view))
    return marks
