"""Shrinking a crop to the ink in it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PIL import Image

from dimetron.imaging.frame import Crop, Frame
from dimetron.imaging.ink import darkness, grey_of, ink_level
from dimetron.imaging.prepare import cut_out, image_of
from dimetron.imaging.pyramid import Pyramid

#: Rows and columns with less ink than this, in pixels, hold no stroke but a speck.
_SPECK = 2


def tightened(image: Image.Image, sheet: Frame, crop: Crop) -> Crop | None:
    """The part of a crop of the sheet's frame that holds ink; None if there is none."""
    left, top = int(np.floor(crop.left)), int(np.floor(crop.top))
    w, h = int(np.ceil(crop.right)) - left, int(np.ceil(crop.bottom)) - top
    move = np.array([[1, 0, -left], [0, 1, -top], [0, 0, 1.0]])
    frame = replace(sheet, size_px=(w, h), matrix=move @ sheet.matrix)
    dark = darkness(grey_of(image_of(cut_out(image, frame))))
    ink = dark > ink_level(dark)
    rows, columns = (
        np.flatnonzero(ink.sum(axis=1) > _SPECK),
        np.flatnonzero(ink.sum(axis=0) > _SPECK),
    )
    if not len(rows) or not len(columns):
        return None
    return Crop(
        float(left + columns[0]),
        float(top + rows[0]),
        float(columns[-1] - columns[0] + 1),
        float(rows[-1] - rows[0] + 1),
    )


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
        dark = darkness(grey_of(pyramid.levels[0].crop(strip))) > threshold
        counts = np.flatnonzero(dark.sum(axis=side % 2) > _SPECK)
        found = (counts[0] if side < 2 else counts[-1] + 1) if len(counts) else at - low
        ends.append(float(low + found))
    return ends[0], ends[1], ends[2], ends[3]


def _inked(ink: np.ndarray) -> tuple[float, float, float, float] | None:
    rows, columns = (np.flatnonzero(ink.sum(axis=axis) > _SPECK) for axis in (1, 0))
    if not len(rows) or not len(columns):
        return None
    return float(columns[0]), float(rows[0]), float(columns[-1] + 1), float(rows[-1] + 1)
