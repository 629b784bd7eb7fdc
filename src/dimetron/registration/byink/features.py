"""What several drawings show at the same place: landmarks to propose.

Levels are where strokes run square to an axis in two or more drawings that show it: a rim, a foot,
the ground. Points are where a corner of each of three drawings across each other agrees with the
two others along the axes they share; corners are found by Shi and Tomasi's measure ("Good features
to track", 1994).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.signal import find_peaks

from dimetron.geometry.views import View
from dimetron.imaging.shape import Shape
from dimetron.registration.pose import Pose

Floats = NDArray[np.float64]

#: So many corners of a drawing at most, this share of its size apart, and as strong as this share
#: of the strongest.
_MOST, _APART, _QUALITY = 60, 0.02, 0.2
#: Corners stand on the outline within this share of the drawing's size.
_OUTLINE = 0.02
#: Corners are bettered within so many cells.
_FINE, _PAD = 7, 10
#: A level's strokes run along this share of the side, and stand out by as much.
_RUNS = 0.10
#: Drawings agree within this share of the object's size.
_AGREE = 0.004
#: So many of each kind are proposed at most, this share of the object's size apart.
_PROPOSED, _SPREAD = 8, 0.05


@dataclass(frozen=True, slots=True)
class Feature:
    """axis: None for a point, or the one axis along which a level lies; at_mm: where, 0 along what
    is not known. px: where each drawing shows it, by id; off_mm: how well they agree."""

    axis: int | None
    at_mm: tuple[float, float, float]
    px: Mapping[str, tuple[float, float]]
    off_mm: float


@dataclass(frozen=True, slots=True, eq=False)
class Placed:
    """A drawing of a principal view, where it lies and what it shows."""

    id: str
    view: View
    pose: Pose
    shape: Shape


def corners(shape: Shape) -> Floats:
    """(n, 2) corners of a drawing in pixels of its picture."""
    ink = shape.ink.astype(np.float32)
    soft = cv2.GaussianBlur(np.pad(ink, _PAD), (0, 0), 1.5)
    apart = max(3.0, _APART * max(ink.shape))
    found = cv2.goodFeaturesToTrack(soft, _MOST, _QUALITY, apart, blockSize=5)
    if found is None:
        return np.zeros((0, 2))
    steps = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_COUNT, 30, 0.01)
    fine = cv2.cornerSubPix(soft, found.copy(), (_FINE, _FINE), (-1, -1), steps)
    # What runs away stays where it was found.
    near = np.hypot(*(fine - found)[:, 0].T) < _FINE
    points = np.where(near[:, None, None], fine, found).reshape(-1, 2).astype(np.float64) - _PAD
    points = points[_at_outline(shape, points)]
    return shape.cells_to_picture(points + 0.5)


def _at_outline(shape: Shape, points: Floats) -> NDArray[np.bool_]:
    """Whether corners stand on the outline: inside it, strokes that meet in one drawing need not
    be of one point."""
    filled = np.pad(shape.filled, 1).astype(np.uint8)
    inward = cv2.distanceTransform(filled, cv2.DIST_L2, 5)[1:-1, 1:-1]
    h, w = inward.shape
    x = np.rint(points[:, 0]).astype(int).clip(0, w - 1)
    y = np.rint(points[:, 1]).astype(int).clip(0, h - 1)
    return np.asarray(inward[y, x] <= _OUTLINE * max(h, w))


def features(drawings: Sequence[Placed]) -> tuple[Feature, ...]:
    """Levels and points to propose as landmarks, the best agreed of each kind first."""
    found = {d.id: corners(d.shape) for d in drawings}
    size = max((_size(d) for d in drawings), default=0.0)
    levels = [level for axis in range(3) for level in _levels(drawings, axis, _AGREE * size)]
    points: list[Feature] = []
    for three in combinations(drawings, 3):
        if len({d.view.depth_axis for d in three}) == 3:
            points += _agreed(three, found, _AGREE * size)
    return (*_spread(levels, _SPREAD * size), *_spread(points, _SPREAD * size))


def _size(drawing: Placed) -> float:
    left, top, right, bottom = drawing.shape.box
    return max(right - left, bottom - top) * drawing.pose.mm_per_px


def _levels(drawings: Sequence[Placed], axis: int, tolerance: float) -> Iterator[Feature]:
    """Levels along an axis that two or more drawings across each other show; from the first
    drawing's on, so that each is told once."""
    lines = {d.id: _lines(d, axis) for d in drawings if axis in d.view.axes}
    showing = [d for d in drawings if d.id in lines]
    if not showing:
        return
    first, rest = showing[0], showing[1:]
    for at, px in lines[first.id]:
        marks, off = {first.id: px}, 0.0
        across = False
        for other in rest:
            near = min(lines[other.id], key=lambda line: abs(line[0] - at), default=None)
            if near is not None and abs(near[0] - at) <= tolerance:
                marks[other.id] = near[1]
                off = max(off, abs(near[0] - at))
                across |= other.view.depth_axis != first.view.depth_axis
        if across:
            where = [0.0, 0.0, 0.0]
            where[axis] = at
            yield Feature(axis, (where[0], where[1], where[2]), marks, off)


def _lines(drawing: Placed, axis: int) -> list[tuple[float, tuple[float, float]]]:
    """Where strokes run square to an axis: how far along it in mm, and a pixel on them."""
    shape = drawing.shape
    away = drawing.view.to_plane(np.eye(3)[axis])
    # Along which side of the straightened picture the axis runs, by where a step along it leads.
    step = drawing.pose.to_px(away) - drawing.pose.to_px(np.zeros(2))
    straight = shape.to_picture(np.eye(2)) - shape.to_picture(np.zeros(2))
    side = int(np.argmax(np.abs(straight @ step)))
    ink = shape.ink if side == 0 else shape.ink.T
    runs = ink.mean(axis=0)
    peaks, _ = find_peaks(np.pad(runs, 1), prominence=_RUNS, distance=3)
    found = []
    for peak in peaks - 1:
        near = np.arange(max(0, peak - 2), min(len(runs), peak + 3))
        middle = float((runs[near] * (near + 0.5)).sum() / runs[near].sum())
        along = float(np.median(np.flatnonzero(ink[:, peak]))) + 0.5
        cell = (middle, along) if side == 0 else (along, middle)
        px = shape.cells_to_picture(cell)
        world = drawing.view.to_world(drawing.pose.to_plane(px))
        found.append((float(world[axis]), (float(px[0]), float(px[1]))))
    return found


def _agreed(
    three: tuple[Placed, ...], found: Mapping[str, Floats], tolerance: float
) -> list[Feature]:
    """Every triple of corners that agree along all three axes."""
    by_depth = {d.view.depth_axis: d for d in three}
    side, front, top = by_depth[0], by_depth[1], by_depth[2]
    s, f, t = (_world(d, found[d.id]) for d in (side, front, top))
    z = f[:, None, 2] - s[None, :, 2]
    x = f[:, None, 0] - t[None, :, 0]
    y = s[:, None, 1] - t[None, :, 1]
    off = np.maximum(np.abs(z)[:, :, None], np.abs(x)[:, None, :])
    off = np.maximum(off, np.abs(y)[None])
    agreed = []
    for i, j, k in np.argwhere(off <= tolerance):
        at = (f[i, 0] + t[k, 0]) / 2, (s[j, 1] + t[k, 1]) / 2, (f[i, 2] + s[j, 2]) / 2
        px = {
            d.id: (float(found[d.id][n, 0]), float(found[d.id][n, 1]))
            for d, n in ((front, i), (side, j), (top, k))
        }
        where = float(at[0]), float(at[1]), float(at[2])
        agreed.append(Feature(None, where, px, float(off[i, j, k])))
    return agreed


def _world(drawing: Placed, px: Floats) -> Floats:
    return drawing.view.to_world(drawing.pose.to_plane(px))


def _spread(agreed: Sequence[Feature], apart: float) -> tuple[Feature, ...]:
    """The best agreed ones that do not stand close together, nor share a pixel."""
    kept: list[Feature] = []
    used: set[tuple[str, tuple[float, float]]] = set()
    for feature in sorted(agreed, key=lambda f: f.off_mm):
        far = all(
            feature.axis != k.axis or np.linalg.norm(np.subtract(feature.at_mm, k.at_mm)) > apart
            for k in kept
        )
        if far and not used & set(feature.px.items()):
            kept.append(feature)
            used |= set(feature.px.items())
        if len(kept) == _PROPOSED:
            break
    return tuple(kept)
