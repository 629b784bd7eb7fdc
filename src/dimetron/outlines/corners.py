"""Corners of runs of points: where a line turns at once, and not along a curve."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dimetron.outlines.path import Floats, unit
from dimetron.outlines.smoothing import main_way

Ints = NDArray[np.intp]

#: A corner turns by at least this much; over twice the reach not by so much more, as curves do.
_TURN_DEG, _CURVE = 26.0, 1.45
#: Turns are read over so many pens and pixels; within so many pens and pixels of a corner the line
#: is rounded by its own width.
_READ_PENS, _READ_PX, _BLUR_PENS, _BLUR_PX = 1.0, 4.0, 0.6, 1.0


@dataclass(frozen=True, slots=True, eq=False)
class Run:
    """points (n, 2) in order; corners: indices among them."""

    points: Floats
    corners: Ints
    closed: bool


def with_corners(points: Floats, closed: bool, pen: float) -> Run:
    """Find the corners of points about a pixel apart, and set each where its two sides meet.
    pen: how wide the line is drawn, 0 for an edge."""
    reach = round(_READ_PENS * pen + _READ_PX)
    blur = round(_BLUR_PENS * pen + _BLUR_PX)
    if len(points) < 2 * reach + 3:
        return Run(points, np.zeros(0, np.intp), closed)
    points = _evenly(points, closed)
    found = _found(points, closed, reach, blur)
    if not len(found):
        return Run(points, found, closed)
    return _set(points, found, closed, reach, blur)


def _evenly(points: Floats, closed: bool) -> Floats:
    """The same line by points one pixel apart."""
    whole = np.concatenate([points, points[:1]]) if closed else points
    long = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(whole, axis=0).T))])
    count = max(4, round(long[-1]))
    at = np.linspace(0.0, long[-1], count + 1)
    even = np.stack([np.interp(at, long, whole[:, k]) for k in (0, 1)], axis=1)
    return even[:-1] if closed else even


def _turns(points: Floats, closed: bool, gap: int, reach: int) -> Floats:
    """(n,) by how many degrees the line turns at each point, read from ``gap`` to ``gap + reach``
    away on both sides; 0 near the ends of an open one."""
    n = len(points)
    at = np.arange(n)
    far, near = gap + reach, gap
    if closed:
        on = points[(at + far) % n] - points[(at + near) % n]
        back = points[(at - near) % n] - points[(at - far) % n]
        whole = np.full(n, True)
    else:
        on = points[np.minimum(at + far, n - 1)] - points[np.minimum(at + near, n - 1)]
        back = points[np.maximum(at - near, 0)] - points[np.maximum(at - far, 0)]
        whole = (at >= near + 3) & (at < n - near - 3)
    cosine = np.einsum("ij,ij->i", unit(on), unit(back))
    return np.where(whole, np.degrees(np.arccos(np.clip(cosine, -1, 1))), 0.0)


def _found(points: Floats, closed: bool, reach: int, blur: int) -> Ints:
    turn = _turns(points, closed, blur, reach)
    wider = _turns(points, closed, blur + reach, reach)
    n = len(points)
    span = blur + reach // 2 + 1
    padded = (
        np.concatenate([turn[-span:], turn, turn[:span]])
        if closed
        else np.concatenate([np.zeros(span), turn, np.zeros(span)])
    )
    most = np.lib.stride_tricks.sliding_window_view(padded, 2 * span + 1).max(axis=1)
    # A curve turns on beyond what is read at first; a corner does not, or not as much for its
    # length.
    curve = (blur + 1.5 * reach) / (blur + 0.5 * reach)
    sharp = wider < turn * max(_CURVE, 0.75 * curve)
    peaks = np.flatnonzero((turn >= most) & (turn > _TURN_DEG) & sharp)
    if len(peaks) < 2:
        return peaks
    apart = np.diff(peaks) > span
    kept = np.concatenate([[True], apart])
    # Peaks next to one another are one, in its middle.
    groups = np.cumsum(kept) - 1
    middle = np.bincount(groups, peaks) / np.bincount(groups)
    found = np.rint(middle).astype(np.intp)
    if closed and len(found) > 1 and found[0] + n - found[-1] <= span:
        found = found[:-1]
    return found


def _set(points: Floats, found: Ints, closed: bool, reach: int, blur: int) -> Run:
    """Each corner where straight lines through both its sides cross; what its width rounds goes."""
    n = len(points)
    kept = np.full(n, True)
    moved = points.copy()
    for corner in found.tolist():
        sides = [_side(points, found, corner, sign, reach, blur, closed) for sign in (-1, 1)]
        place = _cross(*sides)
        if place is None or np.hypot(*(place - points[corner])) > 2.0 * blur + 2:
            continue
        near = np.arange(corner - blur, corner + blur + 1)
        near = near % n if closed else near[(near >= 0) & (near < n)]
        if not closed:
            near = near[(near > 0) & (near < n - 1)]
        kept[near] = False
        kept[corner] = True
        moved[corner] = place
    kept[found] = True
    number = np.cumsum(kept) - 1
    return Run(moved[kept], number[found], closed)


def _side(
    points: Floats, found: Ints, corner: int, sign: int, reach: int, blur: int, closed: bool
) -> Floats:
    """The points on one side of a corner that tell its direction: not as far as the next one."""
    n = len(points)
    others = (found[found != corner] - corner) * sign
    if closed:
        others = others % n
    others = others[others > 0]
    free = int(others.min()) - blur if len(others) else n
    last = max(blur + 3, min(blur + reach + 1, free))
    at = corner + sign * np.arange(blur, last)
    at = at % n if closed else at[(at >= 0) & (at < n)]
    return points[at]


def _cross(a: Floats, b: Floats) -> Floats | None:
    """Where the lines through two runs of points cross."""
    if len(a) < 2 or len(b) < 2:
        return None
    lines = []
    for part in (a, b):
        way = main_way(part)
        lines.append((part.mean(axis=0), np.array([-way[1], way[0]])))
    normals = np.stack([line[1] for line in lines])
    if abs(np.linalg.det(normals)) < 0.1:
        return None
    offsets = np.array([normal @ middle for middle, normal in lines])
    return np.asarray(np.linalg.solve(normals, offsets))
