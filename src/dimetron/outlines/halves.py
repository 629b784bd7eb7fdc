"""Outlines drawn up to an axis, and what they are when mirrored across it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from dimetron.outlines.crossed import cut_at_axis
from dimetron.outlines.edit import closed
from dimetron.outlines.path import Path, joined, turned_round

#: Ends nearer to the axis than this, in mm, are on it.
ON_AXIS = 1e-6


def mirrored(path: Path, side: int) -> Path:
    """The mirror image across the line where one coordinate (0: x, 1: y) is nothing."""
    flip = np.ones(2)
    flip[side] = -1.0
    return replace(
        path, points=path.points * flip, before=path.before * flip, after=path.after * flip
    )


def whole(path: Path, side: int) -> tuple[Path, ...]:
    """A half with its mirror image: one outline where its ends lie on the axis, welded there
    exactly and smooth where it is not a corner; else two."""
    if path.closed:
        return path, mirrored(path, side)
    ends = np.abs(path.points[[0, -1], side]) <= ON_AXIS
    if not ends.any():
        return path, mirrored(path, side)
    half = path if ends[1] else turned_round(path)
    both = np.abs(half.points[[0, -1], side]) <= ON_AXIS
    half = _squared(half, side, begin=bool(both[0]))
    one = joined([half, turned_round(mirrored(half, side))])
    corner = one.corner.copy()
    corner[len(half) - 1] = bool(half.corner[-1])
    one = replace(one, corner=corner)
    if not both[0]:
        return (one,)
    one = closed(one)
    corner = one.corner.copy()
    corner[0] = bool(half.corner[0])
    return (replace(one, corner=corner),)


def _squared(half: Path, side: int, begin: bool) -> Path:
    """Ends put exactly on the axis; at a smooth one the handle stands square to it."""
    points, before, after = half.points.copy(), half.before.copy(), half.after.copy()
    last = len(half) - 1
    for end, handles in ((last, before), *(((0, after),) if begin else ())):
        points[end, side] = 0.0
        if not half.corner[end]:
            handles[end, 1 - side] = points[end, 1 - side]
    return replace(half, points=points, before=before, after=after)


def onto_axis(path: Path, side: int, within: float) -> Path:
    """A path whose ends lie exactly on the axis where they were as near as ``within``."""
    points, before, after = path.points.copy(), path.before.copy(), path.after.copy()
    if path.closed:
        return path
    for end in (0, len(path) - 1):
        if abs(points[end, side]) <= within:
            for part in (before, after):
                part[end, side] -= points[end, side] if np.allclose(part[end], points[end]) else 0.0
            points[end, side] = 0.0
    return replace(path, points=points, before=before, after=after)


def evened(path: Path, side: int) -> Path:
    """An uneven closed or open outline made even: the half on the positive side, cut at the axis,
    and its mirror image."""
    half = cut_at_axis(path, side)
    return whole(half, side)[0]
