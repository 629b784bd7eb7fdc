"""A part of a picture, to be traced alone."""

from __future__ import annotations

import cv2
import numpy as np

from dimetron.imaging.ink import Darkness
from dimetron.outlines.path import Floats, OutlineError

#: So much ground stays around it, in pixels.
_ROOM = 8


def part_of(dark: Darkness, ring: Floats) -> tuple[Darkness, Floats]:
    """What of a picture's darkness (h, w) lies within a polygon (n, 2) of its pixels, with ground
    around it, and where its corner lies in the picture. Raises OutlineError for next to nothing."""
    h, w = dark.shape
    low = np.maximum(np.floor(ring.min(axis=0)).astype(int) - _ROOM, 0)
    high = np.minimum(np.ceil(ring.max(axis=0)).astype(int) + _ROOM, (w, h))
    if (high - low < 2 * _ROOM).any():
        raise OutlineError("This part of the drawing is too small to be traced; take more of it.")
    (x0, y0), (x1, y1) = low.tolist(), high.tolist()
    # OpenCV counts from the middle of the first pixel.
    corners = np.rint((ring - low - 0.5) * 16).astype(np.int32)
    within = np.zeros((y1 - y0, x1 - x0), np.uint8)
    cv2.fillPoly(within, [corners], (1,), shift=4)
    return np.where(within > 0, dark[y0:y1, x0:x1], np.float32(0.0)), low.astype(np.float64)
