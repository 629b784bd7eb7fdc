"""Outlines to begin with: straight pieces, arcs, circles, ellipses, rectangles."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike

from dimetron.outlines.path import OutlineError, Path, path_of

#: Arcs larger than this are made of several pieces.
_PIECE_DEG = 90.0


def ellipse(centre: ArrayLike, radii: ArrayLike, turn_deg: float = 0.0) -> Path:
    """An ellipse of four pieces, its first radius turned counter-clockwise where y is up. Raises
    OutlineError."""
    rx, ry = np.asarray(radii, float)
    if not (rx > 0 and ry > 0):
        raise OutlineError("A circle or ellipse needs radii of more than nothing.")
    way = np.array([[1, 0], [0, 1], [-1, 0], [0, -1]], float)
    on = np.roll(way, -1, axis=0) * (4 / 3 * (math.sqrt(2) - 1))
    c, s = math.cos(math.radians(turn_deg)), math.sin(math.radians(turn_deg))
    matrix = np.array([[c * rx, -s * ry], [s * rx, c * ry]])
    points, before, after = (
        part @ matrix.T + np.asarray(centre, float) for part in (way, way - on, way + on)
    )
    return path_of(points, before, after, np.zeros(4, bool), closed=True)


def rectangle(one: ArrayLike, other: ArrayLike, radius: float = 0.0) -> Path:
    """A rectangle between two opposite corners, counter-clockwise where y is up. Raises
    OutlineError."""
    a, b = np.asarray(one, float), np.asarray(other, float)
    low, high = np.minimum(a, b), np.maximum(a, b)
    if not (high > low).all():
        raise OutlineError("A rectangle needs a width and a height.")
    corners = [low, (high[0], low[1]), high, (low[0], high[1])]
    return path_of(corners, radius=np.full(4, radius), closed=True)


def arc(begin: ArrayLike, through: ArrayLike, end: ArrayLike) -> Path:
    """The arc from one place through a second to a third. Raises OutlineError if they lie in
    line."""
    a, b, c = (np.asarray(p, float) for p in (begin, through, end))
    square = 2 * np.array([b - a, c - a])
    if abs(np.linalg.det(square)) < 1e-9 * max(1e-12, float(np.abs(square).max()) ** 2):
        raise OutlineError("These three places lie in line; there is no arc through them.")
    centre = np.linalg.solve(square, [b @ b - a @ a, c @ c - a @ a])
    first, middle, last = (math.atan2(*(p - centre)[::-1]) for p in (a, b, c))
    sweep, half = (last - first) % math.tau, (middle - first) % math.tau
    if half > sweep:
        sweep -= math.tau
    return round_about(centre, float(np.hypot(*(a - centre))), first, sweep)


def round_about(centre: ArrayLike, radius: float, first: float, sweep: float) -> Path:
    """An arc about a centre from an angle on, by a signed angle, both in radians."""
    count = max(1, math.ceil(abs(math.degrees(sweep)) / _PIECE_DEG - 1e-9))
    turn = first + sweep * np.arange(count + 1) / count
    points = np.stack([np.cos(turn), np.sin(turn)], axis=1)
    reach = 4 / 3 * math.tan(sweep / count / 4)
    way = np.stack([-points[:, 1], points[:, 0]], axis=1) * reach
    at = np.asarray(centre, float)
    corner = np.zeros(count + 1, bool)
    corner[[0, -1]] = True
    return path_of(
        at + radius * points, at + radius * (points - way), at + radius * (points + way), corner
    )
