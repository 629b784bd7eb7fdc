"""A picture at halving resolutions, so that any zoom reads about as many pixels as it shows."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.imaging.read import Pixels

#: The coarsest level is about a thumbnail.
COARSEST_PX = 160
#: Rows reduced at a time: temporaries stay in the cache, and other threads get a turn.
_BAND = 64


@dataclass(frozen=True, slots=True)
class Pyramid:
    """levels[0] is the picture (h, w, c); each next one halves it, rounding up."""

    levels: tuple[Pixels, ...]

    @property
    def size_px(self) -> tuple[int, int]:
        return self.levels[0].shape[1], self.levels[0].shape[0]


def build(pixels: Pixels) -> Pyramid:
    """Average 2x2 blocks down to about a thumbnail; (h, w, c) uint8 in, the same kind out."""
    levels = [pixels]
    while max(levels[-1].shape[:2]) > COARSEST_PX:
        levels.append(_halved(levels[-1]))
    for level in levels:
        level.setflags(write=False)
    return Pyramid(tuple(levels))


def _halved(pixels: Pixels) -> Pixels:
    h, w, c = pixels.shape
    out = np.empty(((h + 1) // 2, (w + 1) // 2, c), np.uint8)
    for top in range(0, h, 2 * _BAND):
        band = pixels[top : top + 2 * _BAND]
        if band.shape[0] % 2:
            band = np.concatenate([band, band[-1:]])
        if w % 2:
            band = np.concatenate([band, band[:, -1:]], axis=1)
        total = band[0::2].astype(np.uint16)
        total += band[1::2]
        quad = total[:, 0::2] + total[:, 1::2]
        quad += 2
        quad >>= 2
        out[top // 2 : top // 2 + quad.shape[0]] = quad
    return out
