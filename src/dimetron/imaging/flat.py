"""What is known to be flat in a photo, and the maps between its pixels and flat ones."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

Matrix = NDArray[np.float64]
Points = NDArray[np.float64]
Pair = tuple[float, float]


class FrameError(ValueError):
    """The wanted preparation has no meaning; the message says why in one sentence."""


@dataclass(frozen=True, slots=True)
class Rectangle:
    """Four corners in a photo (top-left, top-right, bottom-right, bottom-left; pixels) that are a
    rectangle in truth. ``sides`` is its width and height: in mm if ``measured``, else a ratio."""

    corners: tuple[Pair, Pair, Pair, Pair]
    sides: Pair
    measured: bool = False


@dataclass(frozen=True, slots=True)
class Circle:
    """Points on the rim (five or more) and the centre of a circle in a photo, pixels.
    ``diameter_mm`` is 0 if only its being round is known."""

    rim: tuple[Pair, ...]
    centre: Pair
    diameter_mm: float = 0.0


def inverse(matrix: Matrix) -> Matrix:
    """The map (3, 3) the other way."""
    return np.asarray(np.linalg.inv(matrix), dtype=np.float64)


def projected(matrix: Matrix, points: ArrayLike) -> Points:
    """Points (..., 2) through a homography (3, 3)."""
    p = np.asarray(points, dtype=np.float64)
    q = p @ matrix[:, :2].T + matrix[:, 2]
    return np.asarray(q[..., :2] / q[..., 2:])


def between_centres(matrix: Matrix) -> Matrix:
    """A map (3, 3) between pixels as OpenCV counts them, from the middle of the first one; we count
    from its corner."""
    half = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1.0]])
    return np.asarray(inverse(half) @ matrix @ half, np.float64)


def unbulged(points: ArrayLike, size_px: tuple[int, int], bulge: float) -> Points:
    """Where pixels (..., 2) lie without the lens's bulge.

    The division model of Fitzgibbon, "Simultaneous linear estimation of multiple view geometry and
    lens distortion", 2001; radii count from the middle in half diagonals, positive is a barrel.
    """
    p = np.asarray(points, dtype=np.float64)
    if bulge == 0:
        return p
    centre, half = _middle(size_px)
    away = (p - centre) / half
    r2 = np.sum(away**2, axis=-1, keepdims=True)
    return np.asarray(centre + away / np.maximum(1 - bulge * r2, 1e-3) * half)


def bulged(points: ArrayLike, size_px: tuple[int, int], bulge: float) -> Points:
    """The way back from ``unbulged``."""
    p = np.asarray(points, dtype=np.float64)
    if bulge == 0:
        return p
    centre, half = _middle(size_px)
    away = (p - centre) / half
    r2 = np.sum(away**2, axis=-1, keepdims=True)
    # d = u (1 - k d²)  =>  d = (sqrt(1 + 4 k u²) - 1) / (2 k u)
    root = np.sqrt(np.maximum(1 + 4 * bulge * r2, 0.0))
    return np.asarray(centre + away * 2.0 / (1.0 + root) * half)


def _middle(size_px: tuple[int, int]) -> tuple[Points, float]:
    w, h = size_px
    return np.array([w / 2, h / 2]), math.hypot(w, h) / 2
