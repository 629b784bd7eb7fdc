"""Shrinking a crop to the ink in it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PIL import Image

from dimetron.imaging.frame import Crop, Frame
from dimetron.imaging.ink import darkness, grey_of, ink_level
from dimetron.imaging.prepare import cut_out, image_of

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
