"""The point of a drawing's ink that a hand means: a crossing, corner or end of lines, the farthest
point of a curve, or the middle of a stroke; to a part of a pixel."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from dimetron.imaging.ink import grey_of, outlines
from dimetron.imaging.medium import PENCIL, Medium, shares

Floats = NDArray[np.float64]
Pair = tuple[float, float]

#: Ink at least this dark, of the darkest around, and never paler than that.
_INK, _FAINTEST = 0.4, 0.08
#: Corners as marked as this share of the most marked one around.
_CORNER = 0.25
#: At a corner light changes both ways, the weaker at least by this share of the stronger.
_BOTH_WAYS = 0.2
#: Room around the reach that corners and curves are judged by, in pixels.
_ROOM = 10
#: Ink that covers this share of what is around is a surface.
_SURFACE = 0.8
#: A curve's farthest point must stand out from the ends of the part that is seen by so much.
_STANDS_OUT = 2.0


@dataclass(frozen=True, slots=True)
class InkPoint:
    """px: where, in the picture's pixels; kind: "corner", "extreme" or "stroke"."""

    px: Pair
    kind: str


def ink_point(
    image: Image.Image, px: Pair, reach: float, medium: Medium = PENCIL
) -> InkPoint | None:
    """The ink's own point nearest to a place, within reach (pixels); corners before extremes before
    strokes. None where there is no ink."""
    half = int(np.ceil(reach)) + _ROOM
    left, top = int(np.floor(px[0])) - half, int(np.floor(px[1])) - half
    box = left, top, left + 2 * half + 1, top + 2 * half + 1
    dark, solid = darkness(image, box, medium)
    if float(dark.max()) < _FAINTEST:
        return None
    at = np.array(px) - (left, top)
    for kind, points in (
        ("corner", _corners(solid)),
        ("extreme", _extremes(dark)),
        ("stroke", _stroke(dark, at, reach)),
    ):
        away = np.hypot(*(points - at).T)
        if len(away) and away.min() <= reach:
            x, y = points[int(np.argmin(away))] + (left, top)
            return InkPoint((float(x), float(y)), kind)
    return None


def darkness(
    image: Image.Image, box: tuple[int, int, int, int], medium: Medium
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """(h, w) 0..1 of a part of a picture, areas as the lines along their edges; and the same with
    areas as they are. Beyond the picture there is paper."""
    w, h = image.size
    inside = max(0, box[0]), max(0, box[1]), min(w, box[2]), min(h, box[3])
    dark = np.zeros((box[3] - box[1], box[2] - box[0]), np.float32)
    if inside[0] >= inside[2] or inside[1] >= inside[3]:
        return dark, dark
    part = image.crop(inside)
    if medium.kind.areas:
        cover = medium.cover(part, shares(inside[:2], image.size))
        found = outlines(cover, medium)
    else:
        grey = grey_of(part, medium=medium).astype(np.float32)
        paper = max(1.0, float(np.percentile(grey, 90)))
        cover = np.clip(1 - grey / paper, 0, 1)
        if not medium.all_counts:
            cover = cover * medium.counted(part, shares(inside[:2], image.size))
        found = cover
    y, x = inside[1] - box[1], inside[0] - box[0]
    window = slice(y, y + found.shape[0]), slice(x, x + found.shape[1])
    solid = dark.copy()
    dark[window], solid[window] = found, cover
    return dark, solid


def _ink(dark: NDArray[np.float32]) -> NDArray[np.bool_]:
    return np.asarray(dark > max(_FAINTEST, _INK * float(dark.max())))


def _corners(dark: NDArray[np.float32]) -> Floats:
    """(n, 2) where lines cross, bend or end."""
    soft = cv2.GaussianBlur(dark, (0, 0), 1.2)
    found = cv2.goodFeaturesToTrack(soft, 12, _CORNER, 4.0, blockSize=7)
    if found is None:
        return np.zeros((0, 2))
    inner = 6
    h, w = dark.shape
    changes = np.sort(cv2.cornerEigenValsAndVecs(soft, 7, 3)[..., :2], axis=2)
    column, row = np.rint(found[:, 0]).astype(int).T
    weaker, stronger = changes[row, column].T
    found = found[weaker > _BOTH_WAYS * stronger]
    there = (found > inner + 1).all(axis=2) & (found < np.array([w, h]) - inner - 2).all(axis=2)
    found = found[there[:, 0]]
    if not len(found):
        return np.zeros((0, 2))
    steps = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_COUNT, 40, 0.01)
    fine = cv2.cornerSubPix(soft, found.copy(), (inner, inner), (-1, -1), steps)
    # What ran away was no corner but noise along a stroke.
    near = np.hypot(*(fine - found)[:, 0].T) < 4.0
    # Pixel centres are at .5.
    return np.asarray(fine[near][:, 0], np.float64) + 0.5


def _extremes(dark: NDArray[np.float32]) -> Floats:
    """(n, 2) the farthest points of curves up, down, left and right."""
    points = []
    for turned in (False, True):
        for sign in (1, -1):
            seen = (dark.T if turned else dark)[::sign]
            found = _topmost(seen)
            if found is not None:
                along, deep = found
                deep = deep if sign > 0 else len(seen) - deep
                points.append((deep, along) if turned else (along, deep))
    return np.array(points, np.float64).reshape(-1, 2)


def _topmost(dark: NDArray[np.float32]) -> Pair | None:
    """Where a curve is highest, and the middle of its stroke there; None if it goes on beyond the
    part that is seen."""
    ink = _ink(dark)
    there = ink.any(axis=0)
    first = np.where(there, ink.argmax(axis=0), len(dark))
    best = int(first.min())
    columns = np.flatnonzero(first <= best + 1)
    if not len(columns) or columns[0] < 3 or columns[-1] > len(first) - 4 or best < 2:
        return None
    ends = first[[max(0, columns[0] - _ROOM), min(len(first) - 1, columns[-1] + _ROOM)]]
    if (ends < best + _STANDS_OUT).any() or np.ptp(columns) + 1 > len(columns) + 2:
        return None
    middle = round(float(columns.mean()))
    run = dark[best : best + _ROOM, middle]
    stroke = int(np.argmin(ink[best : best + _ROOM, middle])) or len(run)
    weight = run[:stroke]
    deep = float((weight * (np.arange(len(weight)) + 0.5)).sum() / max(1e-9, weight.sum()))
    return float(columns.mean()) + 0.5, best + deep


def _stroke(dark: NDArray[np.float32], at: Floats, reach: float) -> Floats:
    """(1, 2) the middle of the stroke nearest to a place: of the ink around its nearest pixel."""
    ink = _ink(dark)
    y, x = np.nonzero(ink)
    away = np.hypot(x + 0.5 - at[0], y + 0.5 - at[1])
    if not len(away) or away.min() > reach:
        return np.zeros((0, 2))
    point = np.array([x[away.argmin()] + 0.5, y[away.argmin()] + 0.5])
    for _ in range(8):
        near = np.hypot(x + 0.5 - point[0], y + 0.5 - point[1]) < 3.5
        weight = dark[y[near], x[near]]
        centre = np.array([(x[near] + 0.5) @ weight, (y[near] + 0.5) @ weight]) / weight.sum()
        # Only across the stroke: along it the hand decides.
        way = _along(x[near], y[near], weight)
        step = centre - point
        step = step - way * float(step @ way)
        point = point + step
        if float(np.hypot(*step)) < 0.02:
            break
    # In the midst of a surface there is no stroke.
    around = np.hypot(x + 0.5 - point[0], y + 0.5 - point[1]) < _ROOM
    solid = around.sum() > _SURFACE * np.pi * _ROOM**2
    return np.zeros((0, 2)) if solid else point[None]


def _along(x: Floats, y: Floats, weight: NDArray[np.float32]) -> Floats:
    """The unit direction in which ink around a place runs."""
    total = float(weight.sum())
    dx, dy = x - (x @ weight) / total, y - (y @ weight) / total
    spread = np.array([[(dx * dx) @ weight, (dx * dy) @ weight], [0.0, (dy * dy) @ weight]])
    spread[1, 0] = spread[0, 1]
    return np.asarray(np.linalg.eigh(spread)[1][:, 1])
