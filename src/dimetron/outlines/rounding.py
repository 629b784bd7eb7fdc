"""Corners with a radius: the true arc that touches both sides."""

from __future__ import annotations

import numpy as np
from scipy.optimize import root

from dimetron.outlines.edit import halved
from dimetron.outlines.path import Floats, OutlineError, Path, at, from_pieces, unit
from dimetron.outlines.shapes import round_about

#: Sides are looked at by so many places for where the arc may touch.
_LOOK = 64
#: An arc touches to this share of its radius.
_TOUCH = 1e-6


def rounded(path: Path) -> Path:
    """The path with all its radii as arcs. Raises OutlineError if one has no room."""
    if not (path.radius > 0).any():
        return path
    pieces = list(path.pieces)
    count = len(pieces)
    begin, end = np.zeros(count), np.ones(count)
    arcs: dict[int, Floats] = {}
    for point in np.flatnonzero(path.radius > 0).tolist():
        if not path.closed and point in (0, len(path) - 1):
            continue
        came, goes = (point - 1) % count, point % count
        found = _arc(pieces[came], pieces[goes], float(path.radius[point]))
        if found is None:
            continue
        t, u, arc = found
        end[came], begin[goes] = t, u
        arcs[came] = arc
    if (end <= begin + 1e-9).any():
        at_ = int(np.argmax(end <= begin + 1e-9))
        x, y = path.points[at_]
        raise OutlineError(
            f"The radii beside ({x:g}, {y:g}) have no room on the piece between; make them smaller."
        )
    parts = []
    for number, cubic in enumerate(pieces):
        rest = halved(cubic, float(end[number]))[0] if end[number] < 1 else cubic
        if begin[number] > 0:
            rest = halved(rest, float(begin[number] / end[number]))[1]
        parts.append(rest[None])
        if number in arcs:
            parts.append(arcs[number])
    return from_pieces(np.concatenate(parts), path.closed, smooth_deg=0.5)


def _arc(a: Floats, b: Floats, radius: float) -> tuple[float, float, Floats] | None:
    """Where on both sides an arc of a radius touches, and its pieces; None where there is no
    corner. Raises OutlineError if it does not fit."""
    came, goes = -unit(_first(a[::-1])), unit(_first(b))
    sense = float(np.sign(came[0] * goes[1] - came[1] * goes[0]))
    if abs(came[0] * goes[1] - came[1] * goes[0]) < 1e-6:
        return None

    def centre(cubic: Floats, t: float) -> Floats:
        d = np.diff(cubic, axis=0)
        s = 1 - t
        way = unit(s * s * d[0] + 2 * s * t * d[1] + t * t * d[2])
        place = at(cubic, np.array(t))
        return place + sense * radius * np.array([-way[1], way[0]])

    steps = (np.arange(_LOOK) + 0.5) / _LOOK
    one = np.array([centre(a, t) for t in steps])
    other = np.array([centre(b, t) for t in steps])
    gaps = np.hypot(*(one[:, None] - other[None]).transpose(2, 0, 1))
    i, j = np.unravel_index(int(np.argmin(gaps)), gaps.shape)
    solved = root(lambda v: centre(a, v[0]) - centre(b, v[1]), [steps[i], steps[j]], tol=1e-12)
    t, u = (float(v) for v in solved.x)
    gap = float(np.hypot(*(centre(a, t) - centre(b, u))))
    if gap > _TOUCH * radius or not (0 < t < 1 and 0 < u < 1):
        x, y = b[0]
        raise OutlineError(f"A radius of {radius:g} is too large at ({x:g}, {y:g}).")
    middle = centre(a, t)
    first, last = at(a, np.array(t)) - middle, at(b, np.array(u)) - middle
    angle = float(np.arctan2(first[1], first[0]))
    sweep = float(np.arctan2(last[1], last[0])) - angle
    sweep = sweep % (2 * np.pi) if sense > 0 else -((-sweep) % (2 * np.pi))
    return t, u, round_about(middle, radius, angle, sweep).pieces


def _first(cubic: Floats) -> Floats:
    for k in (1, 2, 3):
        way = cubic[k] - cubic[0]
        if np.abs(way).max() > 1e-9:
            return np.asarray(way)
    return np.asarray(cubic[3] - cubic[0])
