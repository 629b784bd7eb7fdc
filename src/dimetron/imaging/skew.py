"""How far a sheet lies askew: the turn at which rows and columns of ink are sharpest.

The projection-profile method (Postl, "Detection of linear oblique structures and skew scan in
digitized documents", 1986), on ink points, for rows and columns at once.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from scipy.ndimage import median_filter

from dimetron.imaging.ink import Darkness, drawn, ink_level, outlines
from dimetron.imaging.medium import Medium, medium_of

#: Sheets lie no farther askew than this; more is a quarter turn plus a rest, or meant so.
LIMIT_DEG = 12.0
_WORK_PX = 1800
_POINTS = 30_000
#: How much the best turn must stand out from the others to be believed.
_CLEAR = 1.25
#: And where areas are drawn: what is rounded has edges that run nearly one way for a while.
_CLEAR_AREAS = 3.0
#: A line's share of all ink, and that of one that tells by itself; how much weaker than the
#: strongest it may be; how wide it is in pixels, and how far from the next as a share of the whole;
#: and how many of one direction are several.
_LINE, _STRONG, _BESIDE, _LINE_PX, _APART, _SEVERAL = 0.0175, 0.03, 0.35, 3.0, 0.08, 3


@dataclass(frozen=True, slots=True)
class Skew:
    """deg: how far the sheet lies counter-clockwise in the picture; sure: whether lines say so;
    shared: whether several that lie apart do."""

    deg: float
    sure: bool
    shared: bool = True


def skew(image: Image.Image) -> Skew:
    """Find a picture's skew within ±12 degrees."""
    medium = medium_of(image)
    dark = drawn(image, medium, _WORK_PX)
    return skew_of(dark, ink_level(dark, medium), medium)


def skew_of(drawn_on: Darkness, level: float, medium: Medium, limit_deg: float = LIMIT_DEG) -> Skew:
    """The same from what is drawn (h, w) and the level above which it is ink, within a limit."""
    dark = outlines(drawn_on, medium)
    y, x = np.nonzero(dark > level)
    if len(x) < 50:
        return Skew(0.0, False)
    if len(x) > _POINTS:
        chosen = np.random.default_rng(1).choice(len(x), _POINTS, replace=False)
        x, y = x[chosen], y[chosen]
    centre = np.array(dark.shape[::-1]) / 2
    points = np.stack([x, y], axis=1).astype(np.float32) + 0.5 - centre.astype(np.float32)
    few = points[:: max(1, len(points) // 6_000)]
    coarse = np.arange(-limit_deg, limit_deg + 0.01, 0.2)
    scores = np.array([_sharpness(few, a, 2.0) for a in coarse])
    best = float(coarse[int(scores.argmax())])
    clear = _CLEAR_AREAS if medium.kind.areas else _CLEAR
    sure = float(scores.max()) > clear * float(np.median(scores))
    for step, reach in ((0.04, 0.24), (0.01, 0.06)):
        angles = np.arange(best - reach, best + reach + step / 2, step)
        values = np.array([_sharpness(points, a, 1.0) for a in angles])
        best = _peak(angles, values)
    return Skew(best, sure, _shared(points, best))


def _shared(points: NDArray[np.float32], deg: float) -> bool:
    """Whether several lines lie at a turn: some along it and some across, or three of either,
    apart from each other. One, or the two edges of one thing, may as well slope."""
    lines = [_lines(at) for at in _along_and_across(points, deg)]
    enough = [[w for w in found if w >= _LINE * len(points)] for found in lines]
    weaker, stronger = sorted(max(found, default=0.0) for found in enough)
    both = weaker >= max(_STRONG * len(points), _BESIDE * stronger)
    return both or max(len(found) for found in enough) >= _SEVERAL


def _lines(at: NDArray[np.float32]) -> list[float]:
    """How many points lie in each line at one place along an axis, the largest first: narrow peaks
    that lie apart."""
    counts = np.bincount(((at - at.min()) / _LINE_PX).astype(np.int32)).astype(np.float64)
    counts = np.maximum(counts - median_filter(counts, 31), 0.0)
    most, apart = float(counts.max()), int(_APART * len(counts)) + 1
    found: list[float] = []
    while most > 0 and len(found) < 2 * _SEVERAL:
        peak = int(counts.argmax())
        if counts[peak] < _BESIDE * most:
            break
        found.append(float(counts[peak]))
        counts[max(0, peak - apart) : peak + apart + 1] = 0.0
    return found


def _along_and_across(
    points: NDArray[np.float32], deg: float
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """In which row and which column points lie that are turned back by ``deg``."""
    c, s = math.cos(math.radians(deg)), math.sin(math.radians(deg))
    # A sheet that lies counter-clockwise has rows that rise to the right: y falls as x grows.
    return points[:, 0] * s + points[:, 1] * c, points[:, 0] * c - points[:, 1] * s


def _sharpness(points: NDArray[np.float32], deg: float, bin_px: float) -> float:
    """Sum of squares of the row and column profiles of points turned back by ``deg``."""
    total = 0.0
    for along in _along_and_across(points, deg):
        counts = np.bincount(((along - along.min()) / bin_px).astype(np.int32)).astype(np.float64)
        total += float(counts @ counts)
    return total


def _peak(x: NDArray[np.float64], y: NDArray[np.float64]) -> float:
    """The top of a parabola through the three highest neighbours."""
    i = int(y.argmax())
    if 0 < i < len(x) - 1:
        low, mid, high = y[i - 1], y[i], y[i + 1]
        bend = low - 2 * mid + high
        if bend < 0:
            return float(x[i] + 0.5 * (low - high) / bend * (x[1] - x[0]))
    return float(x[i])
