"""A picture at halving resolutions, so that any zoom reads about as many pixels as it shows."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from threading import Lock
from weakref import WeakKeyDictionary

import numpy as np
from PIL import Image

from dimetron.imaging.figure.inks import Ink
from dimetron.imaging.figure.said import AS_FOUND, Figure
from dimetron.imaging.medium import Medium, colours_of, medium_of
from dimetron.imaging.read import Pixels

#: The coarsest level is about a thumbnail.
COARSEST_PX = 160
#: Rows reduced at a time, so that other threads get a turn in between.
_BAND = 64
#: What a picture is drawn with is told at less than this.
_MEDIUM_PX = 1800
#: Pictures with more pixels than this are reduced by two threads.
_WORTH_SHARING = 4_000_000
#: Readings of one picture that are kept, so that its drawings and an undo have them at once.
_READINGS = 4


@dataclass(frozen=True, slots=True, eq=False, weakref_slot=True)
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


def build(image: Image.Image, medium: Medium | None = None, figure: Figure = AS_FOUND) -> Pyramid:
    """Average 2x2 blocks down to about a thumbnail. The image is kept, not copied. ``medium``: what
    it is known to be drawn with; else it is told here, as far as ``figure`` does not say it."""
    levels = [image]
    while max(levels[-1].size) > COARSEST_PX:
        levels.append(_halved(levels[-1]))
    return Pyramid(tuple(levels), medium or medium_of(_told_by(levels), figure))


def read_as(pyramid: Pyramid, figure: Figure) -> Pyramid:
    """The same picture, with what was said about what is drawn on it."""
    if figure == AS_FOUND:
        return pyramid
    # Drawings of one page are made side by side; it is read once for them.
    with _reading:
        known = _known.setdefault(pyramid, {})
        medium = known.get(figure)
        if medium is None:
            medium = medium_of(_told_by(pyramid.levels), figure)
            if len(known) == _READINGS:
                del known[next(iter(known))]
            known[figure] = medium
    return Pyramid(pyramid.levels, medium)


#: What was read of a picture, for as long as that is there.
_known: WeakKeyDictionary[Pyramid, dict[Figure, Medium]] = WeakKeyDictionary()
_reading = Lock()


def inks_on(pyramid: Pyramid) -> tuple[Ink, ...]:
    """The inks that a picture of lines is drawn with, the commonest first."""
    return colours_of(_told_by(pyramid.levels))


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
