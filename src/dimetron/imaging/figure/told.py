"""Telling lines from flat fills and from shade, and both from what stands before a busy ground."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from dimetron.imaging.figure.cover import differing
from dimetron.imaging.figure.ground import Ground, Pixels, commonest
from dimetron.imaging.figure.kind import Kind
from dimetron.imaging.figure.photo import stands_out

#: What survives wearing away this share of the longer side, at least so many pixels, and is this
#: much of all that differs from the ground and of the picture, is drawn in areas.
_THICK, _LEAST_PX, _MOSTLY, _SEEN = 0.010, 9, 0.6, 0.004
#: What scatters so much that only differences beyond this would count is no smooth ground, but one
#: full of things. Nor is one that less than this share of the rim agrees on.
_BUSY, _AGREED = 60.0, 0.5
#: A sheet on a bench: one colour that is so light, of 255, and so much lighter than a smooth
#: ground, fills this share of the picture; and thin details so much darker, of so many pixels, this
#: share.
_PAPER_LIGHT, _LIGHTER, _PAPER, _DARKER, _THIN_PX, _DETAILS = 150.0, 40.0, 0.45, 30, 9, 0.003
#: A ground is at least this share of the picture.
_GROUND = 0.2
#: A shadow runs over this share of the picture's edge, and takes as much of all colours, within
#: this share.
_OVER_EDGE, _SAME_HUE = 0.06, 0.08
#: Areas end sharply: within so many pixels they differ by this share of what they do so many pixels
#: farther in; shadows do not.
_EDGE_PX, _IN_PX, _SHARP = 3, 10, 0.7
#: Shade goes over from tone to tone: this share of it changes by between so much and so much of 255
#: from pixel to pixel, softened over so many.
_SHADE, _LEAST_STEP, _MOST_STEP, _SOFT = 0.42, 0.5, 6.0, 1.5
#: Strokes are of one width if few of their places are so many times as wide as is usual, and long
#: if they are so many times as long; the ridge of a stroke is where nothing near is wider by so
#: much.
_ONE_WIDTH, _LONG, _RIDGE = 1.6, 30.0, 0.3
#: Or it is of many colours: more than so many cells of so many levels hold most of it.
_CELL, _MOST, _COLOURS = 14, 0.8, 6


def kind_of(pixels: Pixels, ground: Ground) -> Kind:
    """Tell the kind of a picture (h, w, 3) of about a thousand pixels a side."""
    busy = ground.least > _BUSY or ground.agreed < _AGREED
    if _is_sheet(pixels, ground, busy):
        return Kind.LINES
    if busy:
        return Kind.PHOTO if stands_out(pixels) else Kind.LINES
    if ground.share < _GROUND:
        return Kind.LINES
    off = differing(pixels, ground.field((pixels.shape[1], pixels.shape[0])))
    mask = (off > ground.least).astype(np.uint8)
    size = max(_LEAST_PX, round(_THICK * max(mask.shape))) | 1
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size))
    thick = cv2.morphologyEx(mask, cv2.MORPH_OPEN, disc)
    shadow = _shadows(pixels, thick, ground)
    thick[shadow], mask[shadow] = 0, 0
    area = int(thick.sum())
    if area < _SEEN * mask.size or area < _MOSTLY * int(mask.sum()) or not _sharp(off, thick):
        return Kind.LINES
    if _strokes(mask):
        return Kind.LINES
    inside = cv2.erode(thick, disc) > 0
    shaded = _shaded(pixels, inside) > _SHADE or _colours(pixels[inside]) > _COLOURS
    return Kind.SHADED if shaded else Kind.FILLED


def _strokes(mask: NDArray[np.uint8]) -> bool:
    """Whether what is drawn with is a thick pen: it is of one width all along, and long or goes
    round more ground than it covers."""
    wide = cv2.distanceTransform(mask, cv2.DIST_L2, 5)
    ridge = wide[(wide >= cv2.dilate(wide, np.ones((3, 3), np.uint8)) - _RIDGE) & (wide > 1)]
    if not len(ridge):
        return False
    usual, widest = np.percentile(ridge, (50, 95))
    if widest > _ONE_WIDTH * usual:
        return False
    area = float(mask.sum())
    if area / (2 * usual) ** 2 >= _LONG:
        return True
    outside = np.pad(mask, 1)
    cv2.floodFill(outside, None, (0, 0), (2,))
    return float((outside == 0).sum()) >= area


def _shadows(pixels: Pixels, thick: NDArray[np.uint8], ground: Ground) -> NDArray[np.bool_]:
    """(h, w) areas that come in over the edge of the picture and are the ground, only darker or
    lighter: a shadow across it, or what that leaves."""
    h, w = thick.shape
    _, parts = cv2.connectedComponents(thick, connectivity=4)
    rim = np.concatenate([parts[0], parts[-1], parts[:, 0], parts[:, -1]])
    on_rim = np.bincount(rim, minlength=int(parts.max()) + 1) / len(rim)
    field = ground.field((w, h))
    found = np.zeros((h, w), bool)
    for part in np.flatnonzero(on_rim[1:] > _OVER_EDGE) + 1:
        where = parts == part
        ratio = np.median(pixels[where] / np.maximum(field[where], 1.0), axis=0)
        if np.ptp(ratio) <= _SAME_HUE * float(ratio.max()):
            found |= where
    return found


def _is_sheet(pixels: Pixels, ground: Ground, busy: bool) -> bool:
    """Whether it is a sheet of paper with lines on it that lies on something else."""
    light, share = commonest(pixels)
    if light < _PAPER_LIGHT or share < _PAPER:
        return False
    if not busy and light < 255 * ground.lightness + _LIGHTER:
        return False
    grey = cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY)
    details = cv2.morphologyEx(grey, cv2.MORPH_BLACKHAT, np.ones((_THIN_PX,) * 2, np.uint8))
    return float(np.mean(details > _DARKER)) >= _DETAILS


def _sharp(off: NDArray[np.float32], thick: NDArray[np.uint8]) -> bool:
    """Whether areas begin abruptly: close to their edges they differ from the ground nearly as much
    as a little farther in."""
    near, farther = (np.ones((2 * px + 1,) * 2, np.uint8) for px in (_EDGE_PX, _IN_PX))
    edge = (thick > 0) & (cv2.erode(thick, near) == 0)
    if not edge.any():
        return False
    inside = cv2.dilate(off, farther)[edge]
    return float(np.median(cv2.dilate(off, near)[edge] / inside)) > _SHARP


def _colours(pixels: Pixels) -> int:
    """How many cells of colour hold most of what is given (n, 3)."""
    if not len(pixels):
        return 0
    cells = pixels.astype(np.int32) // _CELL
    codes = cells[:, 0] * 1024 + cells[:, 1] * 32 + cells[:, 2]
    counts = np.sort(np.bincount(codes))[::-1]
    return int(np.searchsorted(np.cumsum(counts), _MOST * len(pixels))) + 1


def _shaded(pixels: Pixels, inside: NDArray[np.bool_]) -> float:
    """The share of what lies inside that changes gently."""
    if not inside.any():
        return 0.0
    soft = cv2.GaussianBlur(pixels.astype(np.float32), (0, 0), _SOFT)
    steps = [cv2.Sobel(soft, cv2.CV_32F, *way, scale=1 / 8) for way in ((1, 0), (0, 1))]
    step = np.hypot(steps[0][inside], steps[1][inside]).max(axis=1)
    return float(np.mean((step > _LEAST_STEP) & (step < _MOST_STEP)))
