"""Shrinking a crop to the ink in it."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
from PIL import Image

from dimetron.imaging.frame import Crop, Frame
from dimetron.imaging.ink import darkness, grey_of, ink_level
from dimetron.imaging.prepare import cut_out, image_of
from dimetron.imaging.pyramid import Pyramid

#: What hangs together and is no longer than this, in pixels, is a speck and no stroke; however thin
#: it is, a line is longer.
_SPECK = 4


def tightened(image: Image.Image, sheet: Frame, crop: Crop) -> Crop | None:
    """The part of a crop of the sheet's frame that holds ink; None if there is none."""
    left, top = int(np.floor(crop.left)), int(np.floor(crop.top))
    w, h = int(np.ceil(crop.right)) - left, int(np.ceil(crop.bottom)) - top
    move = np.array([[1, 0, -left], [0, 1, -top], [0, 0, 1.0]])
    frame = replace(sheet, size_px=(w, h), matrix=move @ sheet.matrix)
    dark = darkness(grey_of(image_of(cut_out(image, frame))))
    box = _inked(dark > ink_level(dark))
    if box is None:
        return None
    return Crop(left + box[0], top + box[1], box[2] - box[0], box[3] - box[1])


#: Ink is first looked for at about this many pixels, then at the picture's own along its border.
_COARSE_PX = 1200


def ink_extent(pyramid: Pyramid) -> tuple[float, float, float, float] | None:
    """Left, top, right and bottom of a picture's ink, in pixels; None if it holds none.

    The border is found on a reduced picture and then to the pixel in strips along it.
    """
    level = 0
    while max(pyramid.levels[level].size) > _COARSE_PX and level + 1 < len(pyramid.levels):
        level += 1
    coarse = darkness(grey_of(pyramid.levels[level]))
    threshold = ink_level(coarse)
    box = _inked(coarse > threshold)
    if box is None or level == 0:
        return box
    step = 2**level
    w, h = pyramid.size_px
    left, top, right, bottom = (int(edge) * step for edge in box)
    near = 2 * step
    ends = []
    for side, at in enumerate((left, top, right, bottom)):
        low, high = max(0, at - near), min((w, h)[side % 2], at + near)
        strip = (low, 0, high, h) if side % 2 == 0 else (0, low, w, high)
        # Of a stroke that was found already only its end may reach into the strip.
        near_edge = _inked(darkness(grey_of(pyramid.levels[0].crop(strip))) > threshold, speck=1)
        found = at - low if near_edge is None else near_edge[side]
        ends.append(float(low + found))
    return ends[0], ends[1], ends[2], ends[3]


def _inked(ink: np.ndarray, speck: int = _SPECK) -> tuple[float, float, float, float] | None:
    """Left, top, right and bottom of all strokes."""
    _, _, stats, _ = cv2.connectedComponentsWithStats(ink.astype(np.uint8), connectivity=8)
    x, y, w, h = stats[1:, :4].T
    strokes = np.maximum(w, h) > speck
    if not strokes.any():
        return None
    x, y, w, h = (side[strokes] for side in (x, y, w, h))
    return float(x.min()), float(y.min()), float((x + w).max()), float((y + h).max())
