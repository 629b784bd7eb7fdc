"""A path of few pieces through many points, within a miss.

Source: P. J. Schneider, An algorithm for automatically fitting digitized curves, Graphics Gems
(1990), 612 to 626, with its reparameterisation. Afterwards pieces are put together again where one
does for two, which the splitting from the top leaves many of.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from dimetron.outlines.path import Floats, Path, from_pieces, path_of, unit
from dimetron.outlines.smoothing import main_way

#: How often places along a piece are looked for anew; while it gets better by so much.
_ROUNDS, _BETTER = 12, 0.98
#: Beyond so many times the miss another round is no use.
_HOPELESS = 16.0
#: A piece that lies within this share of the miss of its chord is straight.
_STRAIGHT = 0.6
#: Directions are read over so many points each way.
_REACH = 10
#: Longer runs are fitted by so many of their points.
_ENOUGH = 400


@dataclass(frozen=True, slots=True, eq=False)
class _Piece:
    """first, last: among the points; cubic (4, 2); off: by how much it misses, worst: where."""

    first: int
    last: int
    cubic: Floats
    off: float
    worst: int


def fitted(points: Floats, miss: float, corners: NDArray[np.intp], closed: bool = False) -> Path:
    """A path within ``miss`` of points (n, 2) in order, with corners at those named (indices) and
    smooth between. A closed one is fitted round; without corners it begins where it bends most."""
    points = np.asarray(points, np.float64)
    if len(points) < 3:
        return path_of(points, closed=False)
    corners = np.unique(np.asarray(corners, np.intp))
    if not closed:
        stops = np.unique(np.concatenate([[0], corners, [len(points) - 1]]))
        return _through(points, stops, miss, closed, None)
    if len(corners):
        # It begins at a corner, which is met again at the end.
        points = np.roll(points, -corners[0], axis=0)
        corners = corners - corners[0]
        whole = np.concatenate([points, points[:1]])
        return _through(whole, np.append(corners, len(points)), miss, True, None)
    first = int(np.argmax(_bend(points)))
    points = np.roll(points, -first, axis=0)
    way = _direction(np.concatenate([points[-_REACH:], points[: _REACH + 1]]))
    whole = np.concatenate([points, points[:1]])
    return _through(whole, np.array([0, len(points)]), miss, True, way)


def _bend(points: Floats) -> Floats:
    step = max(2, len(points) // 16)
    back, on = points - np.roll(points, step, axis=0), np.roll(points, -step, axis=0) - points
    return np.asarray(-np.einsum("ij,ij->i", unit(back), unit(on)))


def _through(
    points: Floats, stops: NDArray[np.intp], miss: float, closed: bool, seam: Floats | None
) -> Path:
    """Fitted between stops, at which it may turn, but for the seam of a smooth ring."""
    pieces: list[_Piece] = []
    smooth: list[bool] = []
    for first, last in zip(stops[:-1].tolist(), stops[1:].tolist(), strict=True):
        run = points[first : last + 1]
        begin = _begin(run) if seam is None else seam
        end = -_begin(run[::-1]) if seam is None else seam
        own = _run(points, first, last, begin, end, miss)
        pieces.extend(own)
        smooth.extend([True] * (len(own) - 1) + [seam is not None])
    cubics = np.stack([piece.cubic for piece in pieces])
    path = from_pieces(cubics, closed)
    corner = np.ones(len(path), bool)
    inner = ~np.array(smooth)
    if closed:
        corner[:] = np.roll(inner, 1)
    else:
        corner[1:-1] = inner[:-1]
    return replace(path, corner=corner)


def _run(
    points: Floats, first: int, last: int, begin: Floats, end: Floats, miss: float
) -> list[_Piece]:
    """Pieces from one stop to the next, smooth where they meet."""
    waiting = [(first, last, begin, end)]
    done: list[_Piece] = []
    ways = {first: begin, last: end}
    while waiting:
        a, b, out, into = waiting.pop()
        piece = _piece(points, a, b, out, into, miss)
        if piece.off <= miss or b - a < 2:
            done.append(piece)
            continue
        middle = min(max(piece.worst, a + 1), b - 1)
        way = _direction(points[max(a, middle - _REACH) : min(b, middle + _REACH) + 1])
        ways[middle] = way
        waiting.extend([(middle, b, way, into), (a, middle, out, way)])
    return _fewer(points, done, ways, miss)


def _fewer(
    points: Floats, pieces: list[_Piece], ways: dict[int, Floats], miss: float
) -> list[_Piece]:
    """Two pieces become one wherever that lies within the miss."""
    at_ = 0
    pieces = list(pieces)
    while at_ + 1 < len(pieces):
        a, b = pieces[at_], pieces[at_ + 1]
        both = _piece(points, a.first, b.last, ways[a.first], ways[b.last], miss)
        if both.off <= miss:
            pieces[at_ : at_ + 2] = [both]
            at_ = max(0, at_ - 1)
        else:
            at_ += 1
    return pieces


def _piece(
    points: Floats, first: int, last: int, begin: Floats, end: Floats, miss: float
) -> _Piece:
    """The cubic from one point to another that leaves and arrives in given directions."""
    run = points[first : last + 1]
    step = 1
    if len(run) > _ENOUGH:
        step = len(run) // _ENOUGH
        run = np.concatenate([run[:-1:step], run[-1:]])
    chord = run[-1] - run[0]
    long = float(np.hypot(*chord))
    away = run - run[0]
    if len(run) == 2:
        return _Piece(first, last, _straight(run), 0.0, first)
    if long > 1e-9:
        across = np.abs(away @ np.array([-chord[1], chord[0]])) / long
        along = away @ chord / long
        if across.max() <= _STRAIGHT * miss and along.min() > -miss and along.max() < long + miss:
            worst = int(np.argmax(across))
            return _Piece(first, last, _straight(run), float(across.max()), first + worst * step)
    t, length = _by_chords(run)
    flat = np.ascontiguousarray(run.T)
    cubic = _least(flat, t, begin, end, length)
    away = _away(flat, cubic, t)
    off, worst = _farthest(away)
    for _ in range(_ROUNDS):
        if off <= miss or off > _HOPELESS * miss:
            break
        t = _nearer(away, cubic, t)
        cubic = _least(flat, t, begin, end, length)
        before, away = off, _away(flat, cubic, t)
        off, worst = _farthest(away)
        if off > _BETTER * before:
            break
    return _Piece(first, last, cubic, off, min(first + worst * step, last))


def one_piece(points: Floats, begin: Floats, end: Floats) -> Floats:
    """(4, 2) the one cubic from the first to the last of points (n, 2) in order that follows them
    best, leaving and arriving in given directions."""
    t, length = _by_chords(points)
    flat = np.ascontiguousarray(points.T)
    for _ in range(4 * _ROUNDS):
        cubic = _least(flat, t, begin, end, length)
        t = _nearer(_away(flat, cubic, t), cubic, t)
    return _least(flat, t, begin, end, length)


def _by_chords(run: Floats) -> tuple[Floats, float]:
    """(n,) how far along each point lies, 0 to 1, and how long the run is."""
    t = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(run, axis=0).T))])
    length = max(float(t[-1]), 1e-12)
    return t / length, length


def _straight(run: Floats) -> Floats:
    a, b = run[0], run[-1]
    return np.stack([a, a + (b - a) / 3, b - (b - a) / 3, b])


def _powers(cubic: Floats) -> Floats:
    """(4, 2, 1) what is multiplied with 1, t, t² and t³."""
    p0, p1, p2, p3 = cubic
    rows = p0, 3 * (p1 - p0), 3 * (p0 - 2 * p1 + p2), p3 - p0 + 3 * (p1 - p2)
    return np.array(rows)[..., None]


def _away(flat: Floats, cubic: Floats, t: Floats) -> Floats:
    """(2, n) from points (2, n) to their places t on a cubic."""
    c0, c1, c2, c3 = _powers(cubic)
    return np.asarray(((c3 * t + c2) * t + c1) * t + c0 - flat)


def _farthest(away: Floats) -> tuple[float, int]:
    square = away[0] * away[0] + away[1] * away[1]
    worst = int(square.argmax())
    return float(square[worst]) ** 0.5, worst


def _least(flat: Floats, t: Floats, begin: Floats, end: Floats, length: float) -> Floats:
    """By least squares how far the handles reach, for places t of points (2, n) along the piece;
    begin, end: unit directions."""
    p0, p3 = flat[:, 0], flat[:, -1]
    s = 1 - t
    b1, b2 = 3 * s * s * t, 3 * s * t * t
    q = s * s * (1 + 2 * t)
    # What is left of the points when their ends' shares are taken off, weighed by either handle.
    by = [flat @ b - p0 * (b @ q) - p3 * (b.sum() - b @ q) for b in (b1, b2)]
    aa, ab, bb = float(b1 @ b1), -float(begin @ end) * float(b1 @ b2), float(b2 @ b2)
    ra, rb = float(begin @ by[0]), -float(end @ by[1])
    det = aa * bb - ab * ab
    one = two = -1.0
    if abs(det) > 1e-12 * max(aa * bb, 1e-300):
        one, two = (ra * bb - rb * ab) / det, (rb * aa - ra * ab) / det
    if not (1e-3 * length < one < 2 * length and 1e-3 * length < two < 2 * length):
        one = two = float(np.hypot(*(p3 - p0))) / 3
    return np.stack([p0, p0 + one * begin, p3 - two * end, p3])


def _nearer(away: Floats, cubic: Floats, t: Floats) -> Floats:
    """One step of Newton's from places t towards the nearest ones; away (2, n): from the points."""
    _, c1, c2, c3 = _powers(cubic)
    first = (3 * c3 * t + 2 * c2) * t + c1
    second = 6 * c3 * t + 2 * c2
    slope = (first * first + away * second).sum(axis=0)
    slope[np.abs(slope) <= 1e-12] = np.inf
    moved = t - (away * first).sum(axis=0) / slope
    return np.maximum.accumulate(np.clip(moved, 0.0, 1.0, out=moved))


def _begin(run: Floats) -> Floats:
    """The direction in which a run leaves its first point: of a parabola through what follows."""
    near = run[: min(len(run), 2 * _REACH + 1)] - run[0]
    if len(near) < 4:
        return np.asarray(unit(near[-1]))
    long = np.hypot(*near.T)
    basis = np.stack([long, long * long], axis=1)
    slope = np.linalg.lstsq(basis, near, rcond=None)[0][0]
    way = unit(slope)
    return np.asarray(way if way @ near[-1] > 0 else unit(near[-1]))


def _direction(near: Floats) -> Floats:
    """The direction of points that lie along a smooth curve: of their longest extent."""
    way = main_way(near)
    return np.asarray(way if way @ (near[-1] - near[0]) >= 0 else -way)
