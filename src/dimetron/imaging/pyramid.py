"""A picture at halving resolutions, so that any zoom reads about as many pixels as it shows."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from PIL import Image

from dimetron.imaging.figure.kind import Kind
from dimetron.imaging.medium import Medium, medium_of
from dimetron.imaging.read import Pixels

#: The coarsest level is about a thumbnail.
COARSEST_PX = 160
#: Rows reduced at a time, so that other threads get a turn in between.
_BAND = 64
#: What a picture is drawn with is told at less than this.
_MEDIUM_PX = 1800
#: Pictures with more pixels than this are reduced by two threads.
_WORTH_SHARING = 4_000_000


@dataclass(frozen=True, slots=True, eq=False)
class Pyramid:
    """levels[0] is the picture, L, RGB or RGBA; each next one halves it, rounding up. medium: what
    it is drawn with."""

    levels: tuple[Image.Image, ...]
    medium: Medium

    @property
    def size_px(self) -> tuple[int, int]:
        """(width, height) of the whole picture."""
        return self.levels[0].size

    def part(self, level: int, left: int, top: int, right: int, bottom: int) -> Pixels:
        """Pixels (h, w, c) of a box of a level; beyond the picture its edge pixels repeat."""
        image = self.levels[level]
        w, h = image.size
        inside = max(left, 0), max(top, 0), min(right, w), min(bottom, h)
        pixels = np.asarray(image.crop(inside))
        pixels = pixels[..., None] if pixels.ndim == 2 else pixels
        beyond = (
            (inside[1] - top, bottom - inside[3]),
            (inside[0] - left, right - inside[2]),
            (0, 0),
        )
        return np.pad(pixels, beyond, mode="edge")


def build(image: Image.Image, medium: Medium | None = None, kind: Kind | None = None) -> Pyramid:
    """Average 2x2 blocks down to about a thumbnail. The image is kept, not copied. ``medium``: what
    it is known to be drawn with; else it is told here, or as far as ``kind`` says."""
    levels = [image]
    while max(levels[-1].size) > COARSEST_PX:
        levels.append(_halved(levels[-1]))
    return Pyramid(tuple(levels), medium or medium_of(_told_by(levels), kind))


def as_kind(pyramid: Pyramid, kind: Kind) -> Pyramid:
    """The same picture, said to consist of something."""
    if pyramid.medium.kind is kind:
        return pyramid
    return Pyramid(pyramid.levels, medium_of(_told_by(pyramid.levels), kind))


def _told_by(levels: Sequence[Image.Image]) -> Image.Image:
    return next((i for i in levels if max(i.size) < _MEDIUM_PX), levels[-1])


def _halved(image: Image.Image) -> Image.Image:
    w, h = image.size
    half = Image.new(image.mode, ((w + 1) // 2, (h + 1) // 2))

    def reduced(top: int) -> tuple[int, Image.Image]:
        return top // 2, image.reduce(2, box=(0, top, w, min(h, top + 2 * _BAND)))

    tops = range(0, h, 2 * _BAND)
    if w * h < _WORTH_SHARING:
        for row, band in map(reduced, tops):
            half.paste(band, (0, row))
        return half
    # Pillow works outside the interpreter's lock here, so two threads take half the time.
    with ThreadPoolExecutor(2) as pool:
        for row, band in pool.map(reduced, tops):
            half.paste(band, (0, row))
    return half
