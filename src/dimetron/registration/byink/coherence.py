"""Whether outlines can be of one object: what one of them shows must be possible by the others.

The test of silhouette coherence (Hernández, Schmitt and Cipolla, "Silhouette coherence for camera
calibration under circular motion", 2007) for outlines along the world axes: the visual hull
(Laurentini, "The visual hull concept for silhouette-based image understanding", 1994) of two
outlines, seen along the third axis, must cover the third. Along an axis the hull is a product of
matrices, so nothing in space is ever built.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

Mask = NDArray[np.bool_]

#: Outlines are compared on so many cells a side.
CELLS = 96


def reduced(filled: Mask) -> Mask:
    """(CELLS, CELLS) from one end of the ink to the other both ways."""
    small = cv2.resize(filled.astype(np.float32), (CELLS, CELLS), interpolation=cv2.INTER_AREA)
    return np.asarray(small > 0.5)


def uncovered(first: Mask, second: Mask, third: Mask) -> float:
    """The share of an outline that the other two do not allow. first: by (a, b), second: by (b, c),
    third: by (a, c)."""
    possible = first.astype(np.float32) @ second.astype(np.float32) > 0.5
    # A cell more: outlines are known to about one.
    possible = cv2.dilate(possible.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    shown = int(third.sum())
    return float((third & ~possible).sum() / shown) if shown else 0.0


def unlike(one: Mask, other: Mask) -> float:
    """By what share two outlines along the same axis differ: of the area of both together."""
    either = int((one | other).sum())
    return float((one ^ other).sum() / either) if either else 0.0
