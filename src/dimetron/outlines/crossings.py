"""Where lines meet: which go on in one another, and where the others end."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from dimetron.outlines.path import Floats, unit
from dimetron.outlines.smoothing import main_way

#: A line goes on through a crossing if it turns there by less than this.
_THROUGH_DEG = 28.0
#: Crossings are one when no more than so many pens apart.
_BRIDGE = 1.5
#: Lines that cross at a narrow angle run together for at most so many pens.
_LONG_BRIDGE = 9.0
#: More lines than this do not meet at one place.
_MOST_MEETING = 8
#: Directions at a crossing are read over so many pens, and pixels.
_READ_PENS, _READ_PX = 2.0, 5


@dataclass(slots=True, eq=False)
class Line:
    """A strand while it is put together with others; pen: how wide it is drawn; blurred: how many
    of its points at either end lie where it runs together with another."""

    points: Floats
    ends: tuple[int, int]
    ring: bool
    pen: float
    blurred: tuple[int, int]


def without_bridges(lines: list[Line], knots: Floats) -> tuple[list[Line], Floats]:
    """Where wide lines cross, or any at a narrow angle, their middles meet at two places close by:
    those are one."""
    between = [n for n, line in enumerate(lines) if min(line.ends) >= 0]
    meeting = _meeting(lines)
    bridges = {
        n
        for n in between
        if len(lines[n].points) <= _BRIDGE * lines[n].pen + 1
        or (len(lines[n].points) <= _LONG_BRIDGE * lines[n].pen and _crossed(n, lines, meeting))
    }
    if not bridges:
        return lines, knots
    a, b = np.array([lines[n].ends for n in sorted(bridges)]).T
    graph = coo_array((np.ones(len(a)), (a, b)), shape=(len(knots), len(knots)))
    count, label = connected_components(graph, directed=False)
    members = np.bincount(label, minlength=count)
    merged = np.stack(
        [np.bincount(label, knots[:, k], minlength=count) / members for k in (0, 1)], axis=1
    )
    kept = []
    for n, line in enumerate(lines):
        if n in bridges:
            continue
        first, last = (int(label[end]) if end >= 0 else -1 for end in line.ends)
        line.ends = first, last
        kept.append(line)
    return kept, merged


def _crossed(bridge: int, lines: list[Line], meeting: dict[int, list[_End]]) -> bool:
    """Whether what meets at the two ends of a strand are two lines that cross along it."""
    one, other = (
        [end for end in meeting[knot] if end.line != bridge] for knot in lines[bridge].ends
    )
    if len(one) != 2 or len(other) != 2:
        return False
    room = 1.2 * lines[bridge].pen + 1
    return any(
        all(_in_line(a, b, room) for a, b in zip(one, ends, strict=True))
        for ends in (other, other[::-1])
    )


def _in_line(a: _End, b: _End, room: float) -> bool:
    """Whether two ends go on in one another, and not beside."""
    if -(a.way @ b.way) < np.cos(np.radians(_THROUGH_DEG)):
        return False
    gap = b.at - a.at
    off = (abs(gap[0] * way[1] - gap[1] * way[0]) for way in (a.way, b.way))
    return bool(min(off) < room)


@dataclass(slots=True, eq=False)
class _End:
    """line: index; side: 0 its beginning, 1 its end. way: away from the knot."""

    line: int
    side: int
    at: Floats
    way: Floats


def put_together(lines: list[Line], knots: Floats) -> list[tuple[Floats, bool, float]]:
    """Lines as they go on in one another: points in order, whether they close, and how wide the
    pen was."""
    ends = _meeting(lines)
    partner: dict[tuple[int, int], tuple[int, int]] = {}
    for knot, meeting in ends.items():
        pairs = _pairs(meeting)
        for a, b in pairs:
            partner[a.line, a.side] = b.line, b.side
            partner[b.line, b.side] = a.line, a.side
        _trimmed(lines, meeting, pairs, knots[knot])
    return _routes(lines, partner)


def _meeting(lines: list[Line]) -> dict[int, list[_End]]:
    """The ends that meet at each knot."""
    ends: dict[int, list[_End]] = {}
    for number, line in enumerate(lines):
        for side in (0, 1):
            if line.ends[side] >= 0:
                ends.setdefault(line.ends[side], []).append(_end(line, number, side))
    return ends


def _end(line: Line, number: int, side: int) -> _End:
    points = line.points if side == 0 else line.points[::-1]
    first = min(line.blurred[side], max(0, len(points) - 3))
    last = first + round(_READ_PENS * line.pen) + _READ_PX
    near = points[first:last]
    way = near[-1] - near[0]
    if len(near) > 2:
        main = main_way(near)
        way = main if main @ way >= 0 else -main
    return _End(number, side, near.mean(axis=0), np.asarray(unit(way)))


def _pairs(meeting: list[_End]) -> list[tuple[_End, _End]]:
    """Which ends go on in one another: if there are just two, they do."""
    if len(meeting) == 2:
        a, b = meeting
        return [] if a.line == b.line else [(a, b)]
    ways = np.stack([end.way for end in meeting])
    straight = -(ways @ ways.T) - np.cos(np.radians(_THROUGH_DEG))
    ends = tuple(range(min(len(meeting), _MOST_MEETING)))
    return [(meeting[i], meeting[j]) for i, j in _best(straight, ends)[1]]


def _best(worth: Floats, ends: tuple[int, ...]) -> tuple[float, list[tuple[int, int]]]:
    """The pairs that are worth most together; what is worth nothing is none."""
    if len(ends) < 2:
        return 0.0, []
    first, rest = ends[0], ends[1:]
    best = _best(worth, rest)
    for k, other in enumerate(rest):
        if worth[first, other] > 0:
            more, pairs = _best(worth, rest[:k] + rest[k + 1 :])
            if worth[first, other] + more > best[0]:
                best = float(worth[first, other]) + more, [(first, other), *pairs]
    return best


def _trimmed(
    lines: list[Line], meeting: list[_End], pairs: list[tuple[_End, _End]], knot: Floats
) -> None:
    """Take away what the crossing blurs; who ends there ends where the lines meet."""
    going = {(end.line, end.side) for pair in pairs for end in pair}
    place = _meeting_place(lines, meeting, knot)
    bent = len(meeting) == 2 and bool(pairs) and _bends(*pairs[0])
    for end in meeting:
        line = lines[end.line]
        cut = min(line.blurred[end.side], (len(line.points) - 1) // 2)
        through = (end.line, end.side) in going and not bent
        points = line.points if end.side == 0 else line.points[::-1]
        points = points[cut:]
        if not through:
            points = np.concatenate([place[None], points])
        line.points = points if end.side == 0 else points[::-1]


def _bends(a: _End, b: _End) -> bool:
    return bool(-(a.way @ b.way) < np.cos(np.radians(_THROUGH_DEG)))


def _meeting_place(lines: list[Line], meeting: list[_End], knot: Floats) -> Floats:
    """Where lines meet, by least squares; the knot itself if they hardly cross."""
    if len(meeting) < 2:
        return knot
    normals = np.stack([[-e.way[1], e.way[0]] for e in meeting])
    offsets = np.array([n @ e.at for n, e in zip(normals, meeting, strict=True)])
    square = normals.T @ normals
    if np.linalg.eigvalsh(square)[0] < 0.05:
        return knot
    place = np.linalg.solve(square, normals.T @ offsets)
    pen = max(lines[e.line].pen for e in meeting)
    return np.asarray(place if np.hypot(*(place - knot)) < 1.5 * pen + 1 else knot)


def _routes(
    lines: list[Line], partner: dict[tuple[int, int], tuple[int, int]]
) -> list[tuple[Floats, bool, float]]:
    """Lines one after the other as they go on in one another."""
    routes: list[tuple[Floats, bool, float]] = []
    used: set[int] = set()
    # What begins somewhere is followed from there; what is left goes round.
    begins = [
        (n, side)
        for n, line in enumerate(lines)
        for side in (0, 1)
        if (n, side) not in partner and not line.ring
    ]
    begins += [(n, 0) for n in range(len(lines))]
    for number, side in begins:
        if number in used:
            continue
        parts, pens, closed = [], [], lines[number].ring
        at: tuple[int, int] | None = (number, side)
        while at is not None:
            n, entered = at
            if n in used:
                closed = n == number
                break
            used.add(n)
            points = lines[n].points
            parts.append(points if entered == 0 else points[::-1])
            pens.append(lines[n].pen)
            at = partner.get((n, 1 - entered))
        routes.append((np.concatenate(parts), closed, float(np.median(pens))))
    return routes
