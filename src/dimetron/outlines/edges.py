"""The edges of filled areas, and of the holes in them, to a part of a pixel."""

from __future__ import annotations

import cv2
import numpy as np

from dimetron.imaging.ink import Darkness
from dimetron.outlines.corners import Run, with_corners
from dimetron.outlines.ink import Inked, seen
from dimetron.outlines.path import Floats, unit
from dimetron.outlines.smoothing import smoothed

#: An edge is looked for so far to both sides of where the mask has it, in such steps.
_REACH, _STEP = 2.5, 0.25
#: Edges of fewer pixels are specks, or gaps of the print.
_FEWEST = 8
#: How much edges are smoothed along, in pixels.
_SOFT = 1.2


def edges(ink: Inked) -> list[list[Run]]:
    """For every area its outer edge and those of its holes."""
    if not ink.thick.any():
        return []
    found, family = cv2.findContours(
        ink.thick.astype(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE
    )
    areas: dict[int, list[Run]] = {}
    slopes = slopes_of(ink.dark)
    for number, (chain, kin) in enumerate(zip(found, family[0], strict=True)):
        if len(chain) < _FEWEST:
            continue
        outer = number if kin[3] < 0 else int(kin[3])
        points = refined(ink, chain[:, 0].astype(np.float64) + 0.5, slopes)
        areas.setdefault(outer, []).append(with_corners(points, True, 0.0))
    return list(areas.values())


def slopes_of(dark: Darkness) -> tuple[Darkness, Darkness]:
    """(h, w) each: which way it gets darker, across and down."""
    soft = cv2.GaussianBlur(dark, (0, 0), 1.5)
    across, down = (cv2.Sobel(soft, cv2.CV_32F, *way) for way in ((1, 0), (0, 1)))
    return np.asarray(across, np.float32), np.asarray(down, np.float32)


def refined(
    ink: Inked, points: Floats, slopes: tuple[Darkness, Darkness], ring: bool = True
) -> Floats:
    """Points along an edge moved to where it is half as dark as within."""
    inward = unit(np.stack([seen(part, points) for part in slopes], axis=1).astype(np.float64))
    steps = np.arange(-_REACH, _REACH + 1e-9, _STEP)
    dark = seen(ink.dark, points[:, None] + steps[None, :, None] * inward[:, None])
    inner, outer = dark[:, -4:].mean(axis=1), dark[:, :4].mean(axis=1)
    half = np.maximum((inner + outer) / 2, 0.25 * ink.level)[:, None]
    rising = (dark[:, :-1] <= half) & (dark[:, 1:] > half)
    # The crossing nearest to where the mask has its edge.
    middles = np.abs((steps[:-1] + steps[1:]) / 2 + 0.5)
    cost = np.where(rising, middles, np.inf)
    best = np.argmin(cost, axis=1)
    row = np.arange(len(points))
    good = np.isfinite(cost[row, best])
    low, high = dark[row, best], dark[row, best + 1]
    share = (half[:, 0] - low) / np.where(high > low, high - low, 1.0)
    off = np.where(good, steps[best] + share * _STEP, -0.5)
    return smoothed(points + off[:, None] * inward, _SOFT, ring)
