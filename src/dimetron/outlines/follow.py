"""The way along a drawing's lines from one place to others: a cheapest path over the ink.

Source: E. N. Mortensen and W. A. Barrett, Intelligent scissors for image composition, SIGGRAPH
1995: all cheapest paths from a start are known at once, so that the one to the pointer is only
looked up. Here they run along the middles of strokes and the edges of areas, and across gaps.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_array
from scipy.sparse.csgraph import dijkstra
from scipy.spatial import cKDTree

from dimetron.imaging.pyramid import Pyramid
from dimetron.imaging.strands import linked
from dimetron.imaging.thin import thinned
from dimetron.outlines.corners import Run, with_corners
from dimetron.outlines.edges import refined, slopes_of
from dimetron.outlines.ink import Mask
from dimetron.outlines.middles import centred
from dimetron.outlines.path import Floats
from dimetron.outlines.window import Window, window_on

Ints = NDArray[np.intp]

#: Paper is crossed from where a line ends, for so many pixels at most, each as dear as so many
#: along a line; faint ink is dearer than dark by so much.
_GAP_PX, _GAP_COST, _FAINT_COST = 14.0, 4.0, 2.0
#: A way that is so many times as long as it is straight leads somewhere else.
_DETOUR, _ALWAYS = 6.0, 60.0
#: Ink broader than so many pens is of two lines that run together.
_BROAD = 1.2
#: Ways are read at full resolution so many pixels at a time.
_CHUNK_PX = 800


@dataclass(frozen=True, slots=True, eq=False)
class Ways:
    """The cheapest ways from a start over the lines of a part of a picture. pixels (n, 2): of the
    lines, in the window's; before (n,): which one each is reached from, negative for none."""

    window: Window
    start: Floats
    pixels: Ints
    costs: Floats
    before: Ints
    tree: cKDTree

    def covers(self, px: Floats) -> bool:
        """Whether a place of the picture lies well within what was read."""
        own = self.window.from_picture(px)
        h, w = self.window.ink.dark.shape
        return bool(((own > 4) & (own < (w - 4, h - 4))).all())

    def to(self, px: Floats, reach: float) -> Floats | None:
        """(n, 2) places of the picture along the line from the start to where a line is nearest to
        ``px``, within ``reach`` of its pixels; None if there is none, or no way to it."""
        own = self.window.from_picture(px)
        near = self.tree.query_ball_point(own - 0.5, reach / self.window.scale)
        there = [k for k in near if np.isfinite(self.costs[k])]
        if not there:
            return None
        away = np.hypot(*(self.pixels[there] + 0.5 - own).T)
        last = there[int(np.argmin(away))]
        chain = [last]
        while self.before[chain[-1]] >= 0:
            chain.append(int(self.before[chain[-1]]))
        way = np.array(chain[::-1])
        straight = float(np.hypot(*(self.pixels[way[-1]] - self.pixels[way[0]])))
        if len(way) < 2 or self.costs[last] > _DETOUR * straight + _ALWAYS:
            return None
        return self.window.to_picture(self.pixels[way] + 0.5)


def nearest_on_line(pyramid: Pyramid, px: Floats, reach: float) -> Floats | None:
    """(2,) the place on a line nearest to a pixel of the picture; None beyond reach."""
    window = window_on(pyramid, px - 2 * reach - 20, px + 2 * reach + 20)
    lines = None if window is None else _lines(window)
    if window is None or lines is None or not lines.any():
        return None
    rows, columns = np.nonzero(lines)
    own = np.stack([columns, rows], axis=1).astype(np.float64) + 0.5
    places = window.to_picture(own)
    away = np.hypot(*(places - px).T)
    return places[int(np.argmin(away))] if away.min() <= reach else None


def run_along(pyramid: Pyramid, way: Floats, begin: Floats, end: Floats | None) -> Run:
    """The line that a way runs along, at the picture's full resolution: its middle, or its edge,
    and its corners. begin, end: where it begins and ends exactly; None: on the line."""
    way = _dense(way)
    parts, pens = [], []
    for chunk in _chunks(way):
        window = window_on(pyramid, chunk.min(axis=0), chunk.max(axis=0))
        if window is None:
            parts.append(chunk)
            continue
        points, pen = _on_line(window, window.from_picture(chunk))
        parts.append(window.to_picture(points))
        pens.append(pen * window.scale)
    pen = float(np.median(pens)) if pens else 0.0
    points = np.concatenate(parts)
    points = _between(points, begin, points[-1] if end is None else end, pen + 1.5)
    return with_corners(points, False, pen)


def _dense(way: Floats) -> Floats:
    """A way by places a pixel apart."""
    long = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(way, axis=0).T))])
    at = np.linspace(0.0, long[-1], max(2, round(long[-1])))
    return np.stack([np.interp(at, long, way[:, k]) for k in (0, 1)], axis=1)


def _chunks(way: Floats) -> list[Floats]:
    """Parts of a way that can be read at full resolution."""
    count = max(1, -(-len(way) // _CHUNK_PX))
    return [part for part in np.array_split(way, count) if len(part)]


def _on_line(window: Window, points: Floats) -> tuple[Floats, float]:
    ink = window.ink
    h, w = ink.dark.shape
    column, row = (np.clip(points[:, k].astype(np.intp), 0, s - 1) for k, s in ((0, w), (1, h)))
    rim = cv2.dilate(ink.thick.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    if rim[row, column].mean() > 0.5:
        return refined(ink, points, slopes_of(ink.dark), ring=False), 0.0
    pen = max(1.5, 2 * float(np.median(ink.wide[row, column])) - 0.5)
    # A coarser picture's way lies beside the line by more than a hand sees: it is led in twice.
    points = centred(ink, centred(ink, points, pen + 2), pen)
    # Where another line meets this one the middle of both is neither's.
    broad = 2 * ink.wide[row, column] - 0.5 > _BROAD * pen + 1
    around = np.ones(2 * round(pen) + 1)
    alone = np.convolve(broad, around, "same") < 0.5 if len(broad) > len(around) else ~broad
    alone[[0, -1]] = True
    return (points[alone] if alone.mean() > 0.5 else points), pen


def _between(points: Floats, begin: Floats, end: Floats, blur: float) -> Floats:
    """From one place to another: what lies too near to either to be told from it goes."""
    first = np.hypot(*(points - begin).T) > blur
    last = np.hypot(*(points - end).T) > blur
    kept = points[np.logical_or.accumulate(first) & np.logical_or.accumulate(last[::-1])[::-1]]
    return np.concatenate([begin[None], kept, end[None]])


def ways_from(pyramid: Pyramid, start: Floats, to: Floats, reach: float) -> Ways | None:
    """All cheapest ways from the line nearest to ``start``, as far as ``to`` and around; both in
    pixels of the picture. None if no line is within ``reach`` of the start."""
    around = max(160.0, 0.4 * float(np.abs(to - start).max()))
    low, high = np.minimum(start, to) - around, np.maximum(start, to) + around
    window = window_on(pyramid, low, high)
    if window is None:
        return None
    lines = _lines(window)
    if not lines.any():
        return None
    pixels, links = linked(lines)
    tree = cKDTree(pixels)
    away, first = tree.query(window.from_picture(start) - 0.5)
    if away * window.scale > reach:
        return None
    costs, before = _cheapest(window, pixels, links, tree, int(first))
    return Ways(window, start, pixels, costs, before, tree)


def _lines(window: Window) -> Mask:
    """The middles of strokes and the edges of areas, one pixel wide."""
    ink = window.ink
    middles = thinned(ink.thin)
    if not ink.thick.any():
        return middles
    inner = cv2.erode(ink.thick.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    return middles | thinned(ink.thick & ~inner)


def _cheapest(
    window: Window, pixels: Ints, links: Ints, tree: cKDTree, first: int
) -> tuple[Floats, Ints]:
    count = len(pixels)
    dark = window.ink.dark[pixels[:, 1], pixels[:, 0]]
    strong = max(1e-3, float(np.percentile(dark, 80)))
    faint = 1 + _FAINT_COST * np.clip(1 - dark / strong, 0, 1)
    long = np.hypot(*(pixels[links[:, 0]] - pixels[links[:, 1]]).T)
    cost = long * (faint[links[:, 0]] + faint[links[:, 1]]) / 2
    degree = np.bincount(links.ravel(), minlength=count)
    a, b, gap = _gaps(pixels, np.flatnonzero(degree < 2), tree)
    rows = np.concatenate([links[:, 0], a])
    columns = np.concatenate([links[:, 1], b])
    values = np.concatenate([cost, gap])
    graph = csr_array((values, (rows, columns)), shape=(count, count))
    costs, before = dijkstra(graph, directed=False, indices=first, return_predecessors=True)
    return np.asarray(costs), np.asarray(before, np.intp)


def _gaps(pixels: Ints, ends: Ints, tree: cKDTree) -> tuple[Ints, Ints, Floats]:
    """Leaps from where lines end to the nearest pixels of others: which, and how dear."""
    if not len(ends):
        return ends, ends, np.zeros(0)
    away, near = tree.query(pixels[ends], k=min(40, len(pixels)), distance_upper_bound=_GAP_PX)
    away, near = away.reshape(len(ends), -1), near.reshape(len(ends), -1)
    good = np.isfinite(away) & (away > 1.5)
    which, place = np.nonzero(good)
    return ends[which], near[which, place], away[which, place] * _GAP_COST
