"""What is drawn in a picture, ready to be traced: how far each pixel is ink, strokes and areas."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from dimetron.imaging.ink import Darkness, drawn, ink_level
from dimetron.imaging.medium import Medium
from dimetron.imaging.thin import thinned
from dimetron.outlines.path import Floats

Mask = NDArray[np.bool_]

#: Strokes are at most so wide, in pixels or as a share of the larger side; nor wider than so many
#: times the usual pen.
_WIDEST_PX, _WIDEST, _OF_PEN = 12.0, 0.006, 1.9
#: What is thin at an area and no longer than so many times that is one of its corners.
_CORNER = 3.5
#: A thick part smaller than so many squares of that, with strokes at it, is where they meet.
_BLOT = 4.0
#: Specks of fewer pixels tell of no pen.
_SPECK_PX = 6.0
#: With fewer soft pixels along its edges than this share ink is of hard steps, which are softened
#: by so many pixels; where half of it covers, it is.
_SOFT_SHARE, _STEPS_SOFT, _HALF = 0.1, 1.3, 0.42
#: Ink is surely ink where it is so many times as dark as it must be; of a part at least so much.
_SURE, _SURE_SHARE = 1.4, 0.15
#: Whether ink is soft is told by a part of this size.
_TELLING_PX = 1600
#: Fewer thin pixels than this tell of no pen.
_FEW = 30


@dataclass(frozen=True, slots=True, eq=False)
class Inked:
    """dark (h, w) 0..1; level: above which it is ink. thin, thick (h, w): strokes, and areas.
    wide (h, w): how far from the nearest ground ink lies; pen: how wide strokes are, in pixels."""

    dark: Darkness
    level: float
    thin: Mask
    thick: Mask
    wide: NDArray[np.float32]
    pen: float


def inked(image: Image.Image, medium: Medium, line: str = "auto") -> Inked:
    """Read a picture. line: "centre" takes everything for strokes, "edge" for areas, "auto" tells
    them apart by how wide they are."""
    dark = drawn(image, medium)
    return softened(dark, ink_level(dark, medium), line)


def softened(dark: Darkness, level: float, line: str = "auto") -> Inked:
    """The same of a picture that was read, of which ink in hard steps is made soft."""
    if _hard(dark, level):
        # Steps of whole pixels tell no more than their mean does.
        dark = np.asarray(cv2.GaussianBlur(dark, (0, 0), _STEPS_SOFT), np.float32)
        usual = dark[dark > level]
        # Thin lines are less dark now than areas are.
        level = _HALF * float(np.percentile(usual, 80)) if len(usual) else level
        return inked_of(dark, level, line, level)
    return inked_of(dark, level, line)


def _hard(dark: Darkness, level: float) -> bool:
    """Whether ink has no soft edges: a picture of two colours."""
    dark = _middle(dark, level)
    mask = (dark > level).astype(np.uint8)
    ground = float(np.median(dark))
    peak = float(np.percentile(dark[mask > 0], 80)) if mask.any() else 0.0
    around = np.ones((3, 3), np.uint8)
    rim = cv2.dilate(mask, around) != cv2.erode(mask, around)
    if peak <= ground or not rim.any():
        return False
    share = (dark[rim] - ground) / (peak - ground)
    return float(((share > 0.2) & (share < 0.8)).mean()) < _SOFT_SHARE


def _middle(dark: Darkness, level: float) -> Darkness:
    """A part that tells of the whole: its middle, if anything is drawn there."""
    h, w = dark.shape
    if h * w <= 2 * _TELLING_PX**2:
        return dark
    top, left = max(0, (h - _TELLING_PX) // 2), max(0, (w - _TELLING_PX) // 2)
    part = dark[top : top + _TELLING_PX, left : left + _TELLING_PX]
    return part if int((part > level).sum()) > _FEW * _FEW else dark


def inked_of(dark: Darkness, level: float, line: str = "auto", sure: float | None = None) -> Inked:
    """The same of a picture that was read. sure: above which it is surely ink."""
    sure = _SURE * level if sure is None else sure
    mask = dark > level
    wide = cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 5)
    if line == "edge":
        return Inked(dark, level, np.zeros_like(mask), mask, wide, 0.0)
    parts = _Parts.of(mask).surely(dark > sure)
    pen = _pen(mask, wide, parts)
    nothing = np.zeros_like(mask)
    if line == "centre":
        return Inked(dark, level, parts.larger(1.5 * pen), nothing, wide, pen)
    usual = max(_WIDEST_PX, _WIDEST * max(mask.shape))
    limit = max(_WIDEST_PX, _OF_PEN * pen) if pen else usual
    thick = _opened(mask, wide, limit / 2)
    if not thick.any():
        return Inked(dark, level, parts.larger(1.5 * max(pen, 1.0)), nothing, wide, pen)
    thick |= _corners(mask & ~thick, thick, _CORNER * limit)
    thick &= ~_blots(mask & ~thick, thick, _BLOT * limit * limit)
    parts = _Parts.of(mask & ~thick).surely(dark > sure)
    thin = parts.larger(1.5 * max(pen, 1.0))
    return Inked(dark, level, thin, _Parts.of(thick).larger(1.5 * pen), wide, pen)


@dataclass(frozen=True, slots=True, eq=False)
class _Parts:
    """labels (h, w): which part each pixel belongs to, 0 for none; sides (k,): the larger side of
    each part."""

    labels: NDArray[np.int32]
    sides: NDArray[np.int32]

    @classmethod
    def of(cls, mask: Mask) -> _Parts:
        """What hangs together."""
        _, labels, stats, _ = cv2.connectedComponentsWithStats(
            mask.astype(np.uint8), connectivity=8
        )
        sides = stats[:, [cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT]].max(axis=1)
        sides[0] = 0
        return cls(np.asarray(labels, np.int32), np.asarray(sides, np.int32))

    def surely(self, sure: Mask) -> _Parts:
        """Without parts of which too little is surely ink: what is left of lines so faint that they
        come through here and there."""
        count = len(self.sides)
        size = np.bincount(self.labels.ravel(), minlength=count)
        strong = np.bincount(self.labels[sure], minlength=count)
        faint = strong < _SURE_SHARE * size
        return _Parts(self.labels, np.where(faint, 0, self.sides).astype(np.int32))

    def larger(self, than: float) -> Mask:
        """(h, w) the parts that are larger, and no specks."""
        return np.asarray((self.sides > max(2.0, than))[self.labels])


def _blots(thin: Mask, thick: Mask, largest: float) -> Mask:
    """What of the thick parts is only where strokes meet."""
    if not thick.any():
        return thick
    count, labels, stats, _ = cv2.connectedComponentsWithStats(
        thick.astype(np.uint8), connectivity=8
    )
    hem = cv2.dilate(thin.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    touching = np.zeros(count, bool)
    touching[np.unique(labels[hem & thick])] = True
    blot = touching & (stats[:, cv2.CC_STAT_AREA] < largest)
    blot[0] = False
    return np.asarray(blot[labels])


def _corners(thin: Mask, thick: Mask, longest: float) -> Mask:
    """What of the thin parts is only where an area comes to a point."""
    if not thick.any():
        return thick
    count, labels, stats, _ = cv2.connectedComponentsWithStats(
        thin.astype(np.uint8), connectivity=8
    )
    sides = stats[:, [cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT]].max(axis=1)
    hem = cv2.dilate(thick.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    touching = np.zeros(count, bool)
    touching[np.unique(labels[hem & thin])] = True
    pointed = touching & (sides <= longest)
    pointed[0] = False
    return np.asarray(pointed[labels])


def _pen(mask: Mask, wide: NDArray[np.float32], parts: _Parts) -> float:
    """How wide strokes are: in the middle of what is thin. 0 if nothing is."""
    # The middle of a stroke is where nothing beside lies farther within.
    most = cv2.dilate(wide, np.ones((7, 7), np.uint8))
    usual = max(_WIDEST_PX, _WIDEST * max(mask.shape))
    ridge = np.flatnonzero(mask & (wide >= most) & (wide <= usual / 2))
    ridge = ridge[parts.sides[parts.labels.ravel()[ridge]] > 1.5 * _SPECK_PX]
    if len(ridge) < _FEW:
        return 0.0
    # Half a pixel at either side is covered in part.
    return float(2 * np.median(wide.ravel()[ridge]) - 1 + 0.5)


def _opened(mask: Mask, wide: NDArray[np.float32], radius: float) -> Mask:
    """What a disc of a radius fits into."""
    core = wide > radius
    if not core.any():
        return np.zeros_like(mask)
    away = cv2.distanceTransform((~core).astype(np.uint8), cv2.DIST_L2, 5)
    return np.asarray(mask & (away <= radius + 1.5))


def thin_lines(ink: Inked) -> Mask:
    """(h, w) the middle lines of the strokes."""
    return thinned(ink.thin)


def seen(dark: Darkness, places: Floats) -> NDArray[np.float32]:
    """How dark it is at places (..., 2), pixel centres at .5, between pixels by their mean."""
    flat = places.reshape(-1, 2).astype(np.float32) - 0.5
    # A picture to be looked up in may have no more rows than this at a time.
    rows = 16_000
    parts = [
        cv2.remap(
            dark, flat[k : k + rows, 0][None], flat[k : k + rows, 1][None], cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REPLICATE,
        )[0]
        for k in range(0, len(flat), rows)
    ]  # fmt: skip
    found = np.concatenate(parts) if parts else np.zeros(0, np.float32)
    return found.reshape(places.shape[:-1])
