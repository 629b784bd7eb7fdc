"""Where lines cross one another near a place, what they hold, and ways square to others."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike, NDArray

from dimetron.outlines.corners import Ints
from dimetron.outlines.path import Floats, unit

#: More pieces near one place than this are not compared with one another.
_MOST = 400
#: Lines whose ways differ by less than this (a sine) run along one another.
_ALONG = 1e-3
_NONE = np.zeros((0, 2))


def crossings_near(lines: Sequence[Floats], at: ArrayLike, reach: float) -> Floats:
    """(k, 2) where polylines (n, 2) cross one another or themselves within ``reach`` of a place
    (2,). Where a line only goes on from one of its pieces to the next it does not cross."""
    place = np.asarray(at, float)
    near = [_near(line, place, reach) for line in lines]
    starts = np.concatenate([line[own] for line, own in zip(lines, near, strict=True)] or [_NONE])
    ends = np.concatenate([line[own + 1] for line, own in zip(lines, near, strict=True)] or [_NONE])
    if not 1 < len(starts) <= _MOST:
        return _NONE
    one, other = np.triu_indices(len(starts), 1)
    ways = ends - starts
    turn = _cross(ways[one], ways[other])
    long = np.hypot(*ways.T)
    between = starts[other] - starts[one]
    with np.errstate(divide="ignore", invalid="ignore"):
        share = _cross(between, ways[other]) / turn
        other_share = _cross(between, ways[one]) / turn
        meet = (np.abs(turn) > _ALONG * long[one] * long[other]) & (share >= 0) & (share <= 1)
        meet &= (other_share >= 0) & (other_share <= 1)
    meet &= ~_go_on(starts, ends, one, other)
    found = starts[one[meet]] + share[meet, None] * ways[one[meet]]
    return np.asarray(found[np.hypot(*(found - place).T) <= reach])


def _near(line: Floats, place: Floats, reach: float) -> Ints:
    """Which pieces of a polyline come within reach of a place."""
    start, way = line[:-1], np.diff(line, axis=0)
    long = np.maximum((way * way).sum(axis=1), 1e-30)
    share = np.clip(((place - start) * way).sum(axis=1) / long, 0.0, 1.0)
    away = np.hypot(*(start + share[:, None] * way - place).T)
    return np.flatnonzero((away <= reach) & (long > 1e-30))


def _cross(a: Floats, b: Floats) -> Floats:
    return np.asarray(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0])


def _go_on(starts: Floats, ends: Floats, one: Ints, other: Ints) -> NDArray[np.bool_]:
    """Which pairs of pieces are neighbours of one line: one begins where the other ends."""
    on, back = ends[one] == starts[other], starts[one] == ends[other]
    return np.asarray(on.all(axis=1) | back.all(axis=1))


def inside(ring: Floats, places: Floats) -> NDArray[np.bool_]:
    """(m,) whether places (m, 2) lie within a polygon (n, 2), by the even-odd rule."""
    found = np.zeros(len(places), bool)
    x, y = places.T
    for (ax, ay), (bx, by) in zip(ring, np.roll(ring, -1, axis=0), strict=True):
        crosses = (ay > y) != (by > y)
        if crosses.any():
            found ^= crosses & (x < ax + (y - ay) * (bx - ax) / (by - ay))
    return found


def squared(start: ArrayLike, to: ArrayLike, ways: Sequence[ArrayLike] = ()) -> Floats:
    """The place nearest to ``to`` that lies level with ``start``, plumb over it, or straight on
    from or square to one of ``ways`` (2,)."""
    begin = np.asarray(start, float)
    away = np.asarray(to, float) - begin
    found = [unit(np.asarray(way, float)) for way in (*ways, (1.0, 0.0))]
    allowed = np.array([w for way in found for w in (way, np.array([-way[1], way[0]]))])
    along = allowed @ away
    best = int(np.argmax(np.abs(along)))
    return np.asarray(begin + along[best] * allowed[best])
