"""The ground of a picture as a smooth field of colour: a quadratic in x and y for each channel,
fitted to what most of the picture's rim agrees on. Uneven light, a tint or a gradient belong to it;
lines, fills and shade do not."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Pixels = NDArray[np.uint8]

#: The field is fitted at about this size.
_WORK_PX = 160
#: How wide the rim is that the ground is first looked for at, as a share of the side.
_RIM = 0.06
#: Colours that differ by less, of 255, may be one ground; the grain of paper is at least this.
_NEAR, _GRAIN, _RIM_NEAR = 24.0, 1.5, 40.0
_ROUNDS = 6
#: A colour is as common as another if it is so this share as often.
_AS_COMMON = 0.75
#: The field is smooth: it is worked out on so many points a side.
_FIELD_PX = 64
#: Points a side at which one picture's ground is taken over for another.
_SAMPLES = 9
#: What is drawn differs from its ground by this at least, and by so many times the grain.
_LEAST, _CLEAR = 14.0, 5.0
#: What differs by less than this share of what most that is drawn does is faint: a watermark.
_FAINT, _FULL = 0.18, 70


@dataclass(frozen=True, slots=True, eq=False)
class Ground:
    """coefficients (6, 3): of 1, x, y, x², xy, y² for each channel, x and y from -1 to 1 across the
    picture. share: how much of the picture it is. least: by how much of 255 something differs from
    it that is drawn: more than its grain, and than what is only faintly on it. agreed: how much of
    the picture's rim is near to it."""

    coefficients: Floats
    share: float
    least: float
    agreed: float

    def field(self, size: tuple[int, int]) -> NDArray[np.float32]:
        """(h, w, 3) the ground's colour over a picture of ``size`` (width, height)."""
        small = min(size[0], _FIELD_PX), min(size[1], _FIELD_PX)
        coarse = (_design(small) @ self.coefficients).reshape(small[1], small[0], 3)
        return np.asarray(cv2.resize(coarse.astype(np.float32), size))

    @property
    def lightness(self) -> float:
        """How light it is in its middle, 0 to 1."""
        return float(np.clip(self.coefficients[0] @ (0.299, 0.587, 0.114) / 255.0, 0.0, 1.0))

    def seen(self, whole: Floats, size: tuple[int, int]) -> Ground:
        """The same for another picture of it, ``size`` (width, height): ``whole`` (3, 3) takes that
        one's pixels to shares of this one's sides, 0 to 1."""
        w, h = size
        x, y = np.meshgrid(np.linspace(0, w, _SAMPLES), np.linspace(0, h, _SAMPLES))
        at = np.stack([x.ravel(), y.ravel(), np.ones(x.size)]).T @ whole.T
        # Beyond the picture the ground is as at its edge; a curve would run away there.
        share = np.clip(at[:, :2] / at[:, 2:], 0.0, 1.0) * 2 - 1
        values = _terms(*share.T) @ self.coefficients
        own = _terms(x.ravel() / w * 2 - 1, y.ravel() / h * 2 - 1)
        coefficients = np.asarray(np.linalg.lstsq(own, values, rcond=None)[0], np.float64)
        return replace(self, coefficients=coefficients)


def ground_of(pixels: Pixels) -> Ground:
    """The ground of a picture (h, w, 3)."""
    h, w = pixels.shape[:2]
    scale = min(1.0, _WORK_PX / max(h, w))
    size = max(4, round(w * scale)), max(4, round(h * scale))
    # The middle of each patch: lines are no part of it.
    small = cv2.resize(cv2.medianBlur(pixels, 5) if min(h, w) > 5 else pixels, size,
                       interpolation=cv2.INTER_AREA).astype(np.float64)  # fmt: skip
    values = small.reshape(-1, 3)
    design = _design(size)
    rim = _rim(size)
    start = _commonest(values[rim])
    near = np.abs(values - start).max(axis=1) <= _NEAR
    inliers = near & rim
    coefficients = np.zeros((6, 3))
    coefficients[0] = start
    grain = _NEAR / 3
    for turn in range(_ROUNDS):
        # At first only level: few pixels of a rim bear no curve.
        terms = 3 if turn < 2 else 6
        if inliers.sum() < 4 * terms:
            break
        coefficients = np.zeros((6, 3))
        coefficients[:terms] = np.linalg.lstsq(
            design[inliers][:, :terms], values[inliers], rcond=None
        )[0]
        off = np.abs(values - design @ coefficients).max(axis=1)
        grain = max(_GRAIN, 1.4826 * float(np.median(off[inliers])))
        inliers = off <= max(3.5 * grain, 6.0) if turn else (off <= _NEAR)
    off = np.abs(values - design @ coefficients).max(axis=1)
    least = max(_LEAST, _CLEAR * grain)
    drawn = off[off > least]
    if drawn.size:
        least = max(least, _FAINT * float(np.percentile(drawn, _FULL)))
    agreed = float((off[rim] <= min(least, _RIM_NEAR)).mean())
    return Ground(coefficients, float(inliers.mean()), least, agreed)


def commonest(pixels: Pixels) -> tuple[float, float]:
    """How light the commonest colour of a picture (h, w, 3) is, 0 to 255, and how much of it has
    that colour or one that is near to it."""
    h, w = pixels.shape[:2]
    scale = min(1.0, _WORK_PX / max(h, w))
    size = max(4, round(w * scale)), max(4, round(h * scale))
    small = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA).reshape(-1, 3).astype(np.float64)
    colour = _commonest(small)
    return float(colour.mean()), float(np.mean(np.abs(small - colour).max(axis=1) <= _NEAR))


def _design(size: tuple[int, int]) -> Floats:
    w, h = size
    x, y = np.meshgrid((np.arange(w) + 0.5) / w * 2 - 1, (np.arange(h) + 0.5) / h * 2 - 1)
    return _terms(x.ravel(), y.ravel())


def _terms(x: Floats, y: Floats) -> Floats:
    return np.stack([np.ones_like(x), x, y, x * x, x * y, y * y], axis=1)


def _rim(size: tuple[int, int]) -> NDArray[np.bool_]:
    w, h = size
    wide = max(1, round(_RIM * min(w, h)))
    rim = np.ones((h, w), bool)
    rim[wide:-wide, wide:-wide] = False
    return rim.ravel()


def _commonest(colours: Floats) -> Floats:
    """(3,) the middle of the colours that most are near to."""
    cells = np.round(colours / 16).astype(int)
    _, first, counts = np.unique(cells, axis=0, return_index=True, return_counts=True)
    # Of two that are as common the lighter one: drawings are mostly darker than their paper.
    often = colours[first[counts >= _AS_COMMON * counts.max()]]
    at = often[int(np.argmax(often.sum(axis=1)))]
    near = np.abs(colours - at).max(axis=1) <= _NEAR
    return np.asarray(np.median(colours[near], axis=0))
