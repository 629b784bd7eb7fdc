"""How far what is drawn covers each pixel, where it is drawn in areas."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from dimetron.imaging.figure.ground import Pixels

Cover = NDArray[np.float32]
#: Over so many pixels an edge's full difference is found.
_NEAR = 5


#: Inner edges: softened by so much, and steeper than so many of 255 from pixel to pixel.
_SOFT, _WEAK, _STRONG = 1.2, 12, 36


def inner_edges(pixels: Pixels, covered: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """(h, w) where what is drawn goes over abruptly from one tone to another: one pixel wide lines
    within what is covered (h, w). By Canny, "A computational approach to edge detection", 1986."""
    soft = cv2.GaussianBlur(pixels, (0, 0), _SOFT)
    edges = np.zeros(covered.shape, np.uint8)
    for channel in cv2.split(soft):
        edges |= cv2.Canny(channel, _WEAK, _STRONG)
    return np.asarray((edges > 0) & covered)


def differing(pixels: Pixels, field: NDArray[np.float32]) -> Cover:
    """(h, w) 0..255: by how much pixels (h, w, 3) differ from the ground's field, in the channel in
    which they do most."""
    r, g, b = cv2.split(cv2.absdiff(pixels.astype(np.float32), field))
    return np.asarray(cv2.max(cv2.max(r, g), b), np.float32)


def cover(pixels: Pixels, field: NDArray[np.float32], least: float) -> Cover:
    """(h, w) 0..1: the share of each pixel that differs from the ground by ``least`` or more. At an
    edge a half is where it runs, however strong or faint what is drawn there is."""
    off = differing(pixels, field)
    whole = np.ones((_NEAR, _NEAR), np.uint8)
    inside = cv2.erode((off > least).astype(np.uint8), whole)
    full = np.maximum(cv2.dilate(off, whole), 2.0 * least)
    return np.where(inside > 0, np.float32(1.0), np.minimum(off / full, 1.0)).astype(np.float32)
