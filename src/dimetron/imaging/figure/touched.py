"""Where a hand went over a picture to say what is drawn and what is not."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from dimetron.imaging.figure.said import MOST_POINTS, Touch
from dimetron.imaging.flat import Matrix, inverse, projected

#: OpenCV draws to this part of a pixel.
_SHIFT = 4


def touched(
    touches: Sequence[Touch], size: tuple[int, int], whole: Matrix | None = None
) -> NDArray[np.int8]:
    """(h, w) of ``size`` (width, height): 1 where a stroke adds, -1 where one takes away, 0 where
    none went. ``whole`` (3, 3) takes pixels to shares of the picture that was gone over."""
    w, h = size
    if whole is None:
        whole = np.diag([1 / w, 1 / h, 1.0])
    out = np.zeros((h, w), np.int8)
    to_px = inverse(whole)
    per_share = 1.0 / math.sqrt(abs(float(np.linalg.det(whole[:2, :2]))))
    for touch in touches:
        at = projected(to_px, touch.points)
        # The middle of the first pixel is at 0 there.
        fixed = np.rint((at - 0.5) * 2**_SHIFT)
        if not np.isfinite(fixed).all() or np.abs(fixed).max() > 2**30:
            continue
        radius = max(1, round(touch.radius * per_share))
        value = 1 if touch.adds else -1
        line = fixed.astype(np.int32)
        if len(line) > 1:
            cv2.polylines(out, [line], False, (value,), 2 * radius, shift=_SHIFT)
        for x, y in (line[0], line[-1]):
            cv2.circle(out, (int(x), int(y)), radius << _SHIFT, (value,), -1, shift=_SHIFT)
    return out


def carried(touch: Touch, whole: Matrix, size: tuple[int, int]) -> Touch:
    """The same stroke on another picture of what was gone over, ``size`` (width, height) large."""
    at = projected(inverse(whole), touch.points) / size
    area = abs(float(np.linalg.det(whole[:2, :2]))) * size[0] * size[1]
    points = tuple((float(x), float(y)) for x, y in at)
    return replace(touch, points=points, radius=touch.radius / math.sqrt(area))


def simplified(points: NDArray[np.float64], by: float) -> NDArray[np.float64]:
    """The way of a stroke (n, 2) by few points: within ``by``, or farther if they were too many."""
    while True:
        line = cv2.approxPolyDP(points.astype(np.float32)[:, None], by, False)
        if len(line) <= MOST_POINTS:
            return np.asarray(line[:, 0], np.float64)
        by *= 2
