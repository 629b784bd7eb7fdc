"""Ink against paper: how much darker a drawing's strokes are than the paper around them."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from dimetron.imaging.flat import Matrix
from dimetron.imaging.medium import PENCIL, Medium
from dimetron.imaging.read import Pixels

Darkness = NDArray[np.float32]
#: Paper is looked for at about this size; strokes vanish there, uneven light does not.
_PAPER_PX = 160
#: What is darker than this share of the paper around is shadow, surely so within that much more;
#: what is darker than that share is a surface.
_LIT, _LIT_SOFT, _SHADE = 0.94, 0.08, 0.45
#: Areas are softened by so many pixels, their edges are so steep then.
_EDGE_SOFT, _EDGE_PEAK = 1.0, 0.36
#: Strokes fainter than this are not told from the grain of paper.
_FAINTEST = 0.07


def grey_of(image: Image.Image, longest_px: int | None = None, medium: Medium = PENCIL) -> Pixels:
    """Grey (h, w) of a picture in which what is drawn is dark, reduced to ``longest_px`` if
    larger."""
    if longest_px is not None and max(image.size) >= 2 * longest_px:
        image = image.reduce(max(image.size) // longest_px)
    grey = medium.grey(image)
    if longest_px is not None and max(grey.shape) > longest_px:
        scale = longest_px / max(grey.shape)
        size = (max(1, round(grey.shape[1] * scale)), max(1, round(grey.shape[0] * scale)))
        grey = np.asarray(cv2.resize(grey, size, interpolation=cv2.INTER_AREA))
    return grey


def paper_of(grey: Pixels) -> Darkness:
    """The paper's brightness (h, w) under the strokes, 0..255: uneven light and tint."""
    h, w = grey.shape
    scale = min(1.0, _PAPER_PX / max(h, w))
    size = max(2, round(w * scale)), max(2, round(h * scale))
    small = cv2.resize(grey, size, interpolation=cv2.INTER_AREA)
    bright = cv2.dilate(small, np.ones((7, 7), np.uint8))
    smooth = cv2.GaussianBlur(bright.astype(np.float32), (0, 0), 5.0)
    # Beside the edge of a shadow that is the light's; what follows the edge counts there.
    close = cv2.morphologyEx(small, cv2.MORPH_CLOSE, np.ones((15, 15), np.uint8))
    close = cv2.GaussianBlur(close.astype(np.float32), (0, 0), 2.0)
    ratio = close / np.maximum(smooth, 1.0)
    shadow = np.clip((_LIT - ratio) / _LIT_SOFT, 0.0, 1.0) * (ratio > _SHADE)
    smooth += (close - smooth) * shadow
    return np.asarray(cv2.resize(smooth, (w, h), interpolation=cv2.INTER_LINEAR), np.float32)


def darkness(grey: Pixels) -> Darkness:
    """(h, w) 0..1: how much light the strokes take from the paper under them."""
    paper = np.maximum(paper_of(grey), 1.0)
    return np.clip(1.0 - grey.astype(np.float32) / paper, 0.0, 1.0)


def drawn(
    image: Image.Image,
    medium: Medium,
    longest_px: int | None = None,
    whole: Matrix | None = None,
) -> Darkness:
    """(h, w) 0..1: how far what is drawn stands out from its ground, reduced to ``longest_px`` if
    larger. ``whole`` (3, 3) takes the image's pixels to shares of the picture that it is of."""
    dark = None if medium.kind.areas else darkness(grey_of(image, longest_px, medium))
    if dark is not None and medium.all_counts:
        return dark
    if longest_px is not None and max(image.size) > longest_px:
        before = image.size
        image = reduced(image, longest_px)
        if whole is not None:
            shrunk = before[0] / image.size[0], before[1] / image.size[1]
            whole = whole @ np.diag([*shrunk, 1.0])
    return medium.cover(image, whole) if dark is None else _counted(dark, image, medium, whole)


def _counted(dark: Darkness, image: Image.Image, medium: Medium, whole: Matrix | None) -> Darkness:
    """Lines without those that are not the object's."""
    counted = medium.counted(image, whole)
    if counted.shape != dark.shape:
        size = dark.shape[1], dark.shape[0]
        resized = cv2.resize(counted.astype(np.uint8), size, interpolation=cv2.INTER_NEAREST)
        counted = np.asarray(resized > 0)
    return np.where(counted, dark, np.float32(0.0)).astype(np.float32)


def reduced(image: Image.Image, longest_px: int) -> Image.Image:
    """A picture that is no larger than ``longest_px``, its pixels averaged."""
    times = max(image.size) // longest_px
    if times > 1:
        image = image.reduce(times)
    scale = min(1.0, longest_px / max(image.size))
    if scale == 1:
        return image
    size = (max(1, round(image.size[0] * scale)), max(1, round(image.size[1] * scale)))
    smaller = cv2.resize(np.asarray(image), size, interpolation=cv2.INTER_AREA)
    return Image.fromarray(smaller)


def outlines(dark: Darkness, medium: Medium) -> Darkness:
    """(h, w) 0..1: of what is drawn in areas only a thin line along its edges, as if it were lines;
    lines as they are."""
    if not medium.kind.areas:
        return dark
    soft = cv2.GaussianBlur(dark, (0, 0), _EDGE_SOFT)
    across, down = (cv2.Sobel(soft, cv2.CV_32F, *way, scale=1 / 8) for way in ((1, 0), (0, 1)))
    return np.asarray(np.minimum(np.hypot(across, down) / _EDGE_PEAK, 1.0), np.float32)


def ink_level(dark: Darkness, medium: Medium = PENCIL) -> float:
    """The darkness above which a pixel is ink: under the strokes', over the paper's grain; of areas
    the half, which is where their edges run."""
    if medium.kind.areas:
        return 0.5
    sample, middle, noise = _grain(dark)
    grain = middle + 5.0 * noise
    strokes = sample[sample > max(grain, _FAINTEST)]
    typical = float(np.percentile(strokes, 80)) if strokes.size > 50 else 0.5
    return max(grain, _FAINTEST, 0.33 * typical)


def faint_level(dark: Darkness, medium: Medium = PENCIL) -> float:
    """The darkness above which a pixel may belong to a stroke that is too faint to be ink."""
    if medium.kind.areas:
        return 0.5
    _, middle, noise = _grain(dark)
    return min(ink_level(dark), max(middle + 3.5 * noise, 0.6 * _FAINTEST))


def _grain(dark: Darkness) -> tuple[Darkness, float, float]:
    """A sample of the darkness, its middle, and how much the paper scatters about it."""
    sample = dark[:: max(1, dark.shape[0] // 600), :: max(1, dark.shape[1] // 600)]
    middle = float(np.median(sample))
    return sample, middle, 1.4826 * float(np.median(np.abs(sample - middle)))
