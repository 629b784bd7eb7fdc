"""A part of a drawing's picture, read for its ink at the resolution that a hand works at."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.imaging.ink import drawn, ink_level
from dimetron.imaging.medium import shares
from dimetron.imaging.pyramid import Pyramid
from dimetron.outlines.ink import Inked, inked_of
from dimetron.outlines.path import Floats

#: A part is read at no more pixels a side than this.
MOST_PX = 1000
#: What is read around what was asked for, in its own pixels.
_ROOM = 24


@dataclass(frozen=True, slots=True, eq=False)
class Window:
    """corner: where it begins in the picture, in the picture's pixels; scale: of those a pixel of
    its own. ink: what is drawn in it."""

    corner: tuple[float, float]
    scale: float
    ink: Inked

    def to_picture(self, own: Floats) -> Floats:
        """Its own pixels (n, 2) to the picture's."""
        return np.asarray(own * self.scale + self.corner)

    def from_picture(self, px: Floats) -> Floats:
        """The picture's pixels (n, 2) to its own."""
        return np.asarray((np.asarray(px, float) - self.corner) / self.scale)


def window_on(pyramid: Pyramid, low: Floats, high: Floats) -> Window | None:
    """The part of a picture between two of its pixels (2,), as finely as ``MOST_PX`` allows; None
    beyond the picture."""
    level = 0
    while (
        level + 1 < len(pyramid.levels)
        and float((high - low).max()) / _scale(pyramid, level) > MOST_PX - 2 * _ROOM
    ):
        level += 1
    image, scale = pyramid.levels[level], _scale(pyramid, level)
    w, h = image.size
    left, top = (int(v) for v in np.floor(low / scale - _ROOM))
    right, bottom = (int(v) for v in np.ceil(high / scale + _ROOM))
    box = max(left, 0), max(top, 0), min(right, w), min(bottom, h)
    if box[2] - box[0] < 3 or box[3] - box[1] < 3:
        return None
    dark = drawn(image.crop(box), pyramid.medium, whole=shares(box[:2], image.size))
    level_ = ink_level(dark, pyramid.medium)
    corner = box[0] * scale, box[1] * scale
    return Window(corner, scale, inked_of(dark, level_))


def _scale(pyramid: Pyramid, level: int) -> float:
    return pyramid.size_px[0] / pyramid.levels[level].size[0]
