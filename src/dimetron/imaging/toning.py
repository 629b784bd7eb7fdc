"""Applying a tone, and lifting lines off the paper.

``toned`` is one pass over pixels of any resolution, so a preview at the size it is seen and the
full result come from the same function.
"""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from dimetron.imaging.read import Pixels
from dimetron.imaging.tone import Colour, Tone

Plane = NDArray[np.float32]


def toned(pixels: Pixels, tone: Tone, light: Plane | None = None, scale: float = 1.0) -> Pixels:
    """Apply a tone to (h, w, c) pixels, c = 1, 3 or 4; returns (h, w, c') of 1, 3 or 4.

    light (h, w, c): the paper's brightness under the pixels, else found from them (see
    ``light_of``). scale: how many of the drawing's pixels one of these is wide.
    """
    if tone.plain:
        return pixels
    alpha = pixels[..., 3] if pixels.shape[2] == 4 else None
    colour = pixels[..., :3] if pixels.shape[2] >= 3 else pixels
    if tone.even:
        colour = _evened(colour, light if light is not None else light_of(colour))
    colour = _through_table(colour, tone)
    if tone.despeckle:
        colour = despeckled(colour, tone.despeckle / max(scale, 1e-6) ** 2)
    if tone.invert:
        colour = 255 - colour
    if tone.lift:
        return _lifted(colour, tone, alpha)
    if tone.tint is not None:
        colour = _tinted(_grey(colour), tone.tint)
    elif tone.grey and colour.shape[2] == 3:
        colour = _grey(colour)[..., None]
    if alpha is None:
        return np.ascontiguousarray(colour)
    three = colour if colour.shape[2] == 3 else np.repeat(colour, 3, axis=2)
    return np.dstack([three, alpha])


def light_of(pixels: Pixels, side_px: int = 160) -> Plane:
    """The paper's brightness (h, w, c) under strokes and shading: bright, smooth."""
    h, w, c = pixels.shape
    small = cv2.resize(pixels, _small(w, h, side_px), interpolation=cv2.INTER_AREA)
    bright = cv2.dilate(small, np.ones((9, 9), np.uint8))
    smooth = cv2.GaussianBlur(bright, (0, 0), 6.0)
    full = cv2.resize(smooth, (w, h), interpolation=cv2.INTER_LINEAR)
    return np.asarray(full, np.float32).reshape(h, w, c)


def _small(w: int, h: int, side: int) -> tuple[int, int]:
    scale = min(1.0, side / max(w, h))
    return max(1, round(w * scale)), max(1, round(h * scale))


def _evened(colour: Pixels, light: Plane) -> Pixels:
    """Divide by the light and bring the paper back to its own typical colour."""
    typical = np.median(light.reshape(-1, light.shape[2])[:: max(1, light.size // 30000)], axis=0)
    inverse = cv2.divide(1.0, np.ascontiguousarray(np.maximum(light, 8.0)))
    gain = np.clip(np.asarray(inverse).reshape(light.shape) * typical.astype(np.float32), 0.5, 4.0)
    even = cv2.multiply(np.ascontiguousarray(colour), gain, dtype=cv2.CV_8U)
    return np.asarray(even).reshape(colour.shape)


def _through_table(colour: Pixels, tone: Tone) -> Pixels:
    channels = colour.shape[2]
    steps = np.arange(256, dtype=np.float64) / 255
    tables = []
    for i in range(channels):
        low, high = _ends(tone, i, channels)
        value = np.clip((steps - low) / max(high - low, 1 / 255), 0, 1)
        gamma = tone.gamma[i] if channels == 3 else float(np.mean(tone.gamma))
        value = value ** (1.0 / gamma)
        value = (value - 0.5) * _slope(tone.contrast) + 0.5 + tone.brightness * 0.5
        tables.append(np.clip(np.rint(value * 255), 0, 255).astype(np.uint8))
    table = np.stack(tables, axis=-1)
    if np.array_equal(table, np.repeat(np.arange(256, dtype=np.uint8)[:, None], channels, axis=1)):
        return colour
    return np.asarray(cv2.LUT(colour, table.reshape(256, 1, channels))).reshape(colour.shape)


def _slope(contrast: float) -> float:
    """Contrast −1 flattens to grey, 0 leaves, 1 is a hard edge."""
    return math.tan((min(contrast, 0.98) + 1) * math.pi / 4)


def _ends(tone: Tone, channel: int, channels: int) -> tuple[float, float]:
    def value(colour: Colour | None, default: float) -> float:
        if colour is None:
            return default
        return (colour[channel] if channels == 3 else float(np.mean(colour))) / 255

    low, high = value(tone.ink, 0.0), value(tone.paper, 1.0)
    # Picked the wrong way round: the darker one is the ink all the same.
    return (low, high) if low < high else (high, low)


def _grey(colour: Pixels) -> Pixels:
    if colour.shape[2] == 1:
        return colour[..., 0]
    return np.asarray(cv2.cvtColor(np.ascontiguousarray(colour), cv2.COLOR_RGB2GRAY))


def despeckled(colour: Pixels, pixels: float) -> Pixels:
    """Without dark specks of up to so many pixels: filled with what surrounds them."""
    if pixels < 1:
        return colour
    grey = _grey(colour)
    paper = float(np.median(grey[::7, ::7]))
    dark = (grey < paper - 36).astype(np.uint8)
    _, labels, stats, _ = cv2.connectedComponentsWithStats(dark, connectivity=8)
    speck = stats[:, cv2.CC_STAT_AREA] <= pixels
    speck[0] = False
    mask = speck[labels].astype(np.uint8)
    if not mask.any():
        return colour
    mask = cv2.dilate(mask, np.ones((3, 3), np.uint8)) > 0
    size = 2 * int(math.sqrt(pixels) + 2) + 1
    around = cv2.medianBlur(np.ascontiguousarray(colour), min(size, 15)).reshape(colour.shape)
    return np.asarray(np.where(mask[..., None], around, colour))


def _tinted(grey: Pixels, tint: Colour) -> Pixels:
    """White stays white, black becomes the tint."""
    share = np.arange(256)[:, None] / 255
    table = np.rint(share * 255 + (1 - share) * np.array(tint)).astype(np.uint8)
    return np.asarray(cv2.LUT(np.dstack([grey] * 3), table.reshape(256, 1, 3)))


def _lifted(colour: Pixels, tone: Tone, alpha: Pixels | None) -> Pixels:
    """RGBA: how dark a pixel is becomes how solid it is; what is paper is clear."""
    grey = _grey(colour)
    sample = grey[:: max(1, grey.shape[0] // 400), :: max(1, grey.shape[1] // 400)]
    paper = 255.0 if tone.paper is not None else float(np.percentile(sample, 60))
    ink = 0.0 if tone.ink is not None else float(np.percentile(sample, 0.3))
    # A little under the paper's own tone, so that its grain is gone as well.
    low, high = ink, paper - 0.12 * max(paper - ink, 1.0)
    steps = np.arange(256, dtype=np.float64)
    table = np.rint(np.clip((high - steps) / max(high - low, 1.0), 0, 1) * 255).astype(np.uint8)
    solid = np.asarray(cv2.LUT(grey, table)).reshape(grey.shape)
    if alpha is not None:
        solid = np.asarray(cv2.multiply(solid, alpha, scale=1 / 255))
    lines = _line_colour(colour, grey, ink, tone)
    return np.dstack([lines, solid])


def _line_colour(colour: Pixels, grey: Pixels, ink: float, tone: Tone) -> Pixels:
    """The lines' own colour at their darkest, or the tint: paper must not shine through them."""
    h, w = grey.shape
    if tone.tint is not None:
        own: tuple[float, ...] = tone.tint
    elif tone.grey or colour.shape[2] == 1:
        own = (ink,) * 3
    else:
        # A sample will do for a typical colour.
        step = max(1, min(h, w) // 120)
        dark = colour[::step, ::step][grey[::step, ::step] <= ink + 12]
        own = tuple(np.median(dark, axis=0)) if len(dark) else (ink,) * 3
    return np.broadcast_to(np.array(own).round().astype(np.uint8), (h, w, 3))
