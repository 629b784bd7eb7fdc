"""Where a straight line crosses what is drawn: the middles of the strokes along it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from scipy.ndimage import gaussian_filter1d, map_coordinates

from dimetron.imaging.inkpoint import darkness
from dimetron.imaging.medium import PENCIL, Medium

Floats = NDArray[np.float64]
Pair = tuple[float, float]

#: Samples to a pixel along the line, and how far to both sides of it ink is averaged, in pixels.
_FINE, _BESIDE = 3, 1.0
#: Ink at least this dark, of the darkest along the line, and never paler than that.
_INK, _FAINTEST = 0.4, 0.1
#: Room around the line, in pixels.
_ROOM = 4
#: A run of ink so many times as long as a stroke is wide runs along the line, not across it.
_ALONG = 4.0
#: A stroke is no wider than this, in pixels, where all of the ink seems to run along.
_WIDEST = 8.0


def ink_crossings(image: Image.Image, a: Pair, b: Pair, medium: Medium = PENCIL) -> Floats:
    """(k,) how far from a to b (pixels) the middles of strokes lie that cross the line between
    them, from a on, in pixels. Of ink that runs along the line both ends count, half a stroke
    within. Nothing where there is no ink."""
    begin, end = np.array(a), np.array(b)
    long = float(np.hypot(*(end - begin)))
    if long < 1:
        return np.zeros(0)
    low, high = np.minimum(begin, end), np.maximum(begin, end)
    left, top = (np.floor(low) - _ROOM).astype(int)
    right, bottom = (np.ceil(high) + _ROOM).astype(int)
    dark, _ = darkness(image, (int(left), int(top), int(right), int(bottom)), medium)
    profile = _profile(dark, begin - (left, top), (end - begin) / long, long)
    peak = float(profile.max(initial=0.0))
    if peak < _FAINTEST:
        return np.zeros(0)
    inked = profile > max(_FAINTEST, _INK * peak)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], inked.astype(np.int8), [0]])))
    return _middles(profile, edges[::2], edges[1::2]) / _FINE


def _profile(dark: NDArray[np.float32], begin: Floats, way: Floats, long: float) -> Floats:
    """How dark it is along a line, averaged over a little to both sides of it."""
    steps = np.arange(round(long * _FINE) + 1) / _FINE
    aside = np.array([-way[1], way[0]])
    found = np.zeros(len(steps))
    for off in (-_BESIDE, 0.0, _BESIDE):
        # Pixel centres lie at a half.
        places = begin + steps[:, None] * way + off * aside - 0.5
        found += map_coordinates(dark, places.T[::-1], order=1, mode="nearest")
    return np.asarray(gaussian_filter1d(found / 3, _FINE / 2))


def _middles(profile: Floats, starts: NDArray[np.intp], stops: NDArray[np.intp]) -> Floats:
    """(k,) in samples: of each run of ink the middle by its darkness, or both ends."""
    wide = min(float(np.median(stops - starts)), _WIDEST * _FINE)
    found = []
    for start, stop in zip(starts.tolist(), stops.tolist(), strict=True):
        if stop - start > _ALONG * wide:
            found += [start + wide / 2, stop - wide / 2]
            continue
        weight = profile[start:stop]
        found.append(float((np.arange(start, stop) * weight).sum() / weight.sum()))
    return np.array(found)
