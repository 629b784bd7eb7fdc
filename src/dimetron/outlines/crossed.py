"""Where a path crosses an axis, and what of it lies on one side."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np

from dimetron.outlines.edit import begun_at, closed, inserted
from dimetron.outlines.path import Floats, OutlineError, Path

_NEAR = 1e-9


def with_crossings(path: Path, side: int) -> Path:
    """The same shape with a point wherever it crosses the line where a coordinate is nothing."""
    number = 0
    while number < path.piece_count:
        found = _roots(path.pieces[number, :, side])
        if len(found):
            path = inserted(path, number, float(found[0]))
            points = path.points.copy()
            points[number + 1, side] = 0.0
            path = replace(path, points=points)
        number += 1
    return path


def _roots(values: Floats) -> Floats:
    """Where within a piece a Bézier polynomial is nothing, rising; not at its ends."""
    a, b, c, d = values
    cubic = np.roots([d - 3 * c + 3 * b - a, 3 * c - 6 * b + 3 * a, 3 * b - 3 * a, a])
    real = np.sort(cubic[np.abs(cubic.imag) < _NEAR].real)
    scale = max(1e-9, float(np.abs(values).max()))
    inner = real[(real > 1e-6) & (real < 1 - 1e-6)]
    if abs(a) < _NEAR * scale:
        inner = inner[inner > 1e-4]
    if abs(d) < _NEAR * scale:
        inner = inner[inner < 1 - 1e-4]
    return inner


def cut_at_axis(path: Path, side: int) -> Path:
    """The longest run of a path on the positive side of an axis, from axis to axis. Raises
    OutlineError if it nowhere lies there."""
    path = with_crossings(path, side)
    if path.closed:
        on = np.flatnonzero(np.abs(path.points[:, side]) <= _NEAR)
        if not len(on):
            raise OutlineError("This outline does not meet the axis, so it has no half.")
        path = closed(begun_at(path, int(on[0])), False)
    on_axis = np.abs(path.points[:, side]) <= _NEAR
    cuts = [0, *np.flatnonzero(on_axis).tolist(), len(path) - 1]
    best: Path | None = None
    for first, last in pairwise(cuts):
        if last <= first:
            continue
        middle = path.pieces[first:last].mean(axis=(0, 1))
        if middle[side] <= 0:
            continue
        part = path.taken(slice(first, last + 1))
        if best is None or len(part) > len(best):
            best = part
    if best is None:
        raise OutlineError("Nothing of this outline lies on the positive side of the axis.")
    return best
