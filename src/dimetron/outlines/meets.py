"""Where lines cross one another near a place or are touched by straight ones, what they hold, and
ways square to others."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike, NDArray

from dimetron.geometry.segments import nearest_on
from dimetron.outlines.corners import Ints
from dimetron.outlines.path import Floats, unit

#: More pieces near one place than this are not compared with one another.
_MOST = 400
#: Lines whose ways differ by less than this (a sine) run along one another.
_ALONG = 1e-3
#: A polyline that turns by less between two pieces (a cosine) is smooth there.
_SMOOTH = 0.94
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


def touched(
    lines: Sequence[Floats], start: ArrayLike, at: ArrayLike, reach: float
) -> tuple[Floats, str] | None:
    """The place (2,) within ``reach`` of ``at`` where a straight line from ``start`` meets one of
    some polylines (n, 2) and "touches" it, being its tangent, or stands "square" to it."""
    begin, place = np.asarray(start, float), np.asarray(at, float)
    found: list[tuple[float, str, Floats]] = []
    for line in lines:
        own = _near(line, place, reach)
        if not len(own):
            continue
        ways = np.diff(line, axis=0)[own]
        share = ((begin - line[own]) * ways).sum(axis=1) / (ways * ways).sum(axis=1)
        feet = (line[own] + share[:, None] * ways)[(share >= 0) & (share <= 1)]
        touches, square = _at_points(line, own, begin)
        spots = {"square": np.concatenate([feet, square]), "touches": touches}
        for word, places in spots.items():
            away = np.hypot(*(places - place).T)
            far = np.hypot(*(places - begin).T) > reach
            found += [
                (float(away[k]), word, places[k]) for k in np.flatnonzero((away <= reach) & far)
            ]
    if not found:
        return None
    _, word, where = min(found, key=lambda spot: spot[0])
    return where, word


def _at_points(line: Floats, near: Ints, begin: Floats) -> tuple[Floats, Floats]:
    """Points (k, 2) of a polyline at which the way from a place passes from one side of it to the
    other, and at which it comes to stand square to it; corners are no such points."""
    ring = bool((line[0] == line[-1]).all())
    ways = np.diff(line, axis=0)
    back = ways[near - 1] if ring else ways[np.maximum(near - 1, 0)]
    on, away = ways[near], line[near] - begin
    long = np.hypot(*on.T) * np.hypot(*back.T)
    smooth = (on * back).sum(axis=1) > _SMOOTH * long
    inner = smooth & (ring | (near > 0))
    turns = _cross(away, back) * _cross(away, on) <= 0
    square = (away * back).sum(axis=1) * (away * on).sum(axis=1) <= 0
    return line[near][inner & turns], line[near][inner & square]


def _near(line: Floats, place: Floats, reach: float) -> Ints:
    """Which pieces of a polyline come within reach of a place."""
    _, away = nearest_on(place, line[:-1], line[1:])
    return np.flatnonzero((away <= reach) & (line[1:] != line[:-1]).any(axis=1))


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
