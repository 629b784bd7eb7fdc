"""The middles of drawn lines, to a part of a pixel: runs of points with their corners."""

from __future__ import annotations

import numpy as np

from dimetron.imaging.strands import Strands, strands_of
from dimetron.outlines.corners import Run, with_corners
from dimetron.outlines.crossings import Line, put_together, without_bridges
from dimetron.outlines.ink import Inked, Mask, seen, thin_lines
from dimetron.outlines.path import Floats, unit
from dimetron.outlines.smoothing import smoothed

#: Free ends shorter than so many pens are no lines.
_SPUR = 1.0
#: Within so many pens of where lines meet, the middle of either is not told.
_BLUR = 0.75
#: Ink broader than so many pens is of two lines that run together, for at most so many pens.
_BROAD, _MOST_BLUR = 1.15, 4.0
#: Ink counts no more than so much of what there is in the middle.
_FULL = 0.85
#: How far from the middle a line's ink may lie, beyond half a pen, in pixels.
_ROOM = 1.5
#: Wide lines are as rough along them as they are wide.
_SOFT_PENS = 0.2


def middles(ink: Inked) -> list[Run]:
    """The runs that a picture's strokes consist of: through crossings where they go straight on."""
    found = strands_of(thin_lines(ink))
    lines = _lines(ink, found)
    lines = _refined(ink, _without_spurs(lines, ink.pen))
    lines, knots = without_bridges(lines, found.knots + 0.5)
    return [
        with_corners(points, closed, pen)
        for points, closed, pen in put_together(lines, knots)
        if len(points) > 1
    ]


def _lines(ink: Inked, found: Strands) -> list[Line]:
    lines = []
    for strand in found.strands:
        column, row = strand.pixels.T
        pen = max(1.5, 2 * float(np.median(ink.wide[row, column])) - 0.5)
        points = np.asarray(strand.pixels + 0.5, np.float64)
        broad = 2 * ink.wide[row, column] - 0.5 > _BROAD * pen + 1
        blurred = _blurred(broad, pen), _blurred(broad[::-1], pen)
        lines.append(Line(points, strand.ends, strand.ring, pen, blurred))
    return lines


def _blurred(broad: Mask, pen: float) -> int:
    """How many points from the first on are of a line too broad to be one alone."""
    alone = int(np.argmin(broad)) if not broad.all() else len(broad)
    return min(max(alone, round(_BLUR * pen)), round(_MOST_BLUR * pen))


def _without_spurs(lines: list[Line], pen: float) -> list[Line]:
    """Without short free ends, and loops no longer than the pen is wide: holes in a crossing."""
    kept = []
    for line in lines:
        free = (line.ends[0] < 0) != (line.ends[1] < 0)
        alone = line.ends == (-1, -1) and not line.ring
        short = len(line.points) < _SPUR * line.pen + (2 if free else 0)
        loop = line.ends[0] == line.ends[1] >= 0 and len(line.points) < pen
        if not ((free or alone) and short) and not loop:
            kept.append(line)
    return kept


def _refined(ink: Inked, lines: list[Line]) -> list[Line]:
    """The lines' points moved across them into the middle of their ink."""
    if not lines:
        return lines
    counts = [len(line.points) for line in lines]
    edges = np.cumsum(counts)[:-1]
    points = np.concatenate([line.points for line in lines])
    half = np.repeat([line.pen / 2 + _ROOM for line in lines], counts)
    for _ in range(2):
        smooth = np.concatenate(
            [
                smoothed(part, 1.5, line.ring)
                for part, line in zip(np.split(points, edges), lines, strict=True)
            ]
        )
        ways = np.concatenate(
            [
                _ways(part, line.ring)
                for part, line in zip(np.split(smooth, edges), lines, strict=True)
            ]
        )
        points = smooth + _across(ink, smooth, ways, half)
    for part, line in zip(np.split(points, edges), lines, strict=True):
        line.points = smoothed(part, max(1.2, _SOFT_PENS * line.pen), line.ring)
    return lines


def centred(ink: Inked, points: Floats, pen: float) -> Floats:
    """Points in order along a line ``pen`` wide, moved into the middle of its ink."""
    half = np.full(len(points), pen / 2 + _ROOM)
    for _ in range(2):
        points = smoothed(points, 1.5, False)
        points = points + _across(ink, points, _ways(points, False), half)
    return smoothed(points, max(1.2, _SOFT_PENS * pen), False)


def _across(ink: Inked, points: Floats, ways: Floats, half: Floats) -> Floats:
    """How far the middle of the ink that each point lies in is away, square to the line."""
    normal = np.stack([-ways[:, 1], ways[:, 0]], axis=1)
    count = 2 * int(np.ceil(2 * half.max())) + 1
    steps = np.linspace(-1, 1, count)[None, :] * half[:, None]
    dark = seen(ink.dark, points[:, None] + steps[..., None] * normal[:, None])
    floor = 0.5 * ink.level
    weight = np.clip(dark - floor, 0.0, None)
    middle = count // 2
    near = weight[:, max(0, middle - 2) : middle + 3].max(axis=1, keepdims=True)
    # Only the ink that hangs together with the middle: a line beside is another.
    there = weight > 0.15 * near
    right = np.logical_and.accumulate(there[:, middle:], axis=1)
    left = np.logical_and.accumulate(there[:, middle::-1], axis=1)[:, ::-1]
    # Where a wide line is darkest is not its middle.
    weight = np.minimum(weight, _FULL * near) * np.concatenate([left[:, :-1], right], axis=1)
    total = weight.sum(axis=1)
    off = (weight * steps).sum(axis=1) / np.where(total > 0, total, 1.0)
    return np.asarray(np.clip(off, -1.5, 1.5)[:, None] * normal)


def _ways(points: Floats, ring: bool) -> Floats:
    """(n, 2) the direction of the line at each of its points."""
    n = len(points)
    if n == 1:
        return np.array([[1.0, 0.0]])
    reach = min(3, max(1, n // 2))
    at = np.arange(n)
    if ring:
        return unit(points[(at + reach) % n] - points[(at - reach) % n])
    return unit(points[np.minimum(at + reach, n - 1)] - points[np.maximum(at - reach, 0)])
