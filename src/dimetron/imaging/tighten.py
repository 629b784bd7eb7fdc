"""Shrinking a crop to the ink in it, and what that leaves out."""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

import cv2
import numpy as np

from dimetron.imaging.frame import Crop, Frame
from dimetron.imaging.ink import Darkness, drawn, faint_level, ink_level
from dimetron.imaging.medium import Medium, shares
from dimetron.imaging.prepare import cut_out, image_of, shares_of
from dimetron.imaging.pyramid import Pyramid

#: What hangs together and is no longer than this, in pixels, is a speck and no stroke; however thin
#: it is, a line is longer.
_SPECK = 4
#: Faint strokes are told from the grain by their length, as a share of the picture's longer side,
#: and by being no thicker than this, in pixels.
_LONG, _THICK = 0.03, 8.0
#: Gaps up to this, in pixels, do not part a faint or dotted stroke.
_GAP = 4
#: So far beyond the ink something must reach to be left out by it, in pixels.
_BEYOND = 2
#: No more than so many are told, the longest.
_MOST_TOLD = 12

#: Ink is first looked for at about this many pixels, then at the picture's own along its border.
_COARSE_PX = 1200

#: Left, top, right and bottom, in pixels.
Edges = tuple[float, float, float, float]


class Inked(NamedTuple):
    """Where a picture's ink lies, and strokes too faint to be ink that lie outside of that."""

    box: Edges
    left_out: tuple[Edges, ...]


class Tight(NamedTuple):
    """A crop shrunk to the ink in it, and the faint strokes of it that this cuts off, as crops."""

    crop: Crop
    left_out: tuple[Crop, ...]


def tightened(page: Pyramid, sheet: Frame, crop: Crop) -> Tight | None:
    """The part of a crop of the sheet's frame that holds ink; None if there is none. page: the
    sheet as it came."""
    left, top = int(np.floor(crop.left)), int(np.floor(crop.top))
    w, h = int(np.ceil(crop.right)) - left, int(np.ceil(crop.bottom)) - top
    move = np.array([[1, 0, -left], [0, 1, -top], [0, 0, 1.0]])
    frame = replace(sheet, size_px=(w, h), matrix=move @ sheet.matrix)
    dark = drawn(
        image_of(cut_out(page.levels[0], frame)), page.medium, whole=shares_of(page, frame)
    )
    box = _inked(dark > ink_level(dark, page.medium))
    if box is None:
        return None

    def placed(edges: Edges) -> Crop:
        x0, y0, x1, y1 = edges
        return Crop(left + x0, top + y0, x1 - x0, y1 - y0)

    left_out = _left_out(dark, box, page.medium)
    return Tight(placed(box), tuple(placed(edges) for edges in left_out))


def inked(pyramid: Pyramid) -> Inked | None:
    """A picture's ink and what it leaves out, in its pixels; None if it holds none."""
    level, coarse = _coarse(pyramid)
    box = _extent(pyramid, level, coarse)
    if box is None:
        return None
    step = 2.0**level
    small = (box[0] / step, box[1] / step, box[2] / step, box[3] / step)
    faint = _left_out(coarse, small, pyramid.medium)
    return Inked(box, tuple((a * step, b * step, c * step, d * step) for a, b, c, d in faint))


def _left_out(dark: Darkness, box: Edges, medium: Medium) -> tuple[Edges, ...]:
    """Boxes of the faint and the dotted strokes that reach out of the ink's box, longest first."""
    h, w = dark.shape
    faint = (dark > faint_level(dark, medium)).astype(np.uint8)
    joined = cv2.morphologyEx(faint, cv2.MORPH_CLOSE, np.ones((2 * _GAP + 1,) * 2, np.uint8))
    _, labels, stats, _ = cv2.connectedComponentsWithStats(joined, connectivity=8)
    x0, y0, wide, high = stats[:, :4].T
    x1, y1 = x0 + wide, y0 + high
    beyond = np.max([box[0] - x0, box[1] - y0, x1 - box[2], y1 - box[3]], axis=0) > _BEYOND
    long = np.maximum(wide, high)
    # Shade is as long as a stroke, but thicker, or runs out of the picture.
    area = np.bincount(labels.ravel(), minlength=len(stats))
    inside = (x0 > 0) & (y0 > 0) & (x1 < w) & (y1 < h)
    found = np.flatnonzero(inside & beyond & (long > _LONG * max(w, h)) & (area <= _THICK * long))
    found = found[found > 0]
    found = found[np.argsort(-long[found], kind="stable")][:_MOST_TOLD]
    return tuple((float(x0[i]), float(y0[i]), float(x1[i]), float(y1[i])) for i in found)


def ink_extent(pyramid: Pyramid) -> Edges | None:
    """Left, top, right and bottom of a picture's ink, in pixels; None if it holds none.

    The border is found on a reduced picture and then to the pixel in strips along it.
    """
    return _extent(pyramid, *_coarse(pyramid))


def _extent(pyramid: Pyramid, level: int, coarse: Darkness) -> Edges | None:
    threshold = ink_level(coarse, pyramid.medium)
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
        # Of a stroke that was found already only its end may reach into the strip.
        whole = shares(strip[:2], pyramid.size_px)
        dark = drawn(pyramid.levels[0].crop(strip), pyramid.medium, whole=whole)
        near_edge = _inked(dark > threshold, speck=1)
        found = at - low if near_edge is None else near_edge[side]
        ends.append(float(low + found))
    return ends[0], ends[1], ends[2], ends[3]


def _coarse(pyramid: Pyramid) -> tuple[int, Darkness]:
    """The level that ink is first looked for at, and how dark it is there."""
    level = 0
    while max(pyramid.levels[level].size) > _COARSE_PX and level + 1 < len(pyramid.levels):
        level += 1
    return level, drawn(pyramid.levels[level], pyramid.medium)


def _inked(ink: np.ndarray, speck: int = _SPECK) -> Edges | None:
    """Left, top, right and bottom of all strokes."""
    _, _, stats, _ = cv2.connectedComponentsWithStats(ink.astype(np.uint8), connectivity=8)
    x, y, w, h = stats[1:, :4].T
    strokes = np.maximum(w, h) > speck
    if not strokes.any():
        return None
    x, y, w, h = (side[strokes] for side in (x, y, w, h))
    return float(x.min()), float(y.min()), float((x + w).max()), float((y + h).max())
