"""A drawing's ink set straight: where it lies, what it encloses, about which line it is even."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import ArrayLike, NDArray

from dimetron.imaging.ink import Darkness, drawn, ink_level
from dimetron.imaging.medium import Medium
from dimetron.imaging.pyramid import Pyramid
from dimetron.imaging.skew import skew_of

Mask = NDArray[np.bool_]
Points = NDArray[np.float64]

#: Shapes are read at about this size; a hundredth of a per cent of the extent is a tenth of it.
_WORK_PX = 2000
#: Patches of ink of fewer pixels than this are specks; words stand apart and are small.
_SPECK_PX, _WORDS = 12, 0.12
#: Gaps of outlines are closed over this share of the larger side.
_GAP = 0.008
#: Wider strokes than this share of the side are surfaces; strokes so many cells from the edge are
#: outermost: a hand is no steadier.
_STROKE_MOST, _AT_EDGE = 0.02, 2
#: Symmetry is looked for at this size, and within this turn.
_EVEN_PX, _EVEN_DEG = 240, 4.0
#: Drawings lie no farther askew than this if they are not turned by quarters.
_ASKEW_DEG = 5.0
#: What is at least so even tells the turn if lines do not.
_TELLING = 0.75
#: A turn that is taken without more ado.
_SLIGHT_DEG = 1.0
#: What is covered by so much of a line after turning is line.
_LINE = 0.35
#: Lines and evenness that differ by less tell the same turn.
_AGREE_DEG = 0.15


@dataclass(frozen=True, slots=True, eq=False)
class Shape:
    """Straightened pixels are the picture's, turned back about its middle: x right and y down from
    there.

    turn_deg: how far the drawing's right lies counter-clockwise in the picture, within 45 degrees.
    box: left, top, right and bottom of the outermost strokes' middles, straightened.
    ink, filled (h, w): the strokes (of areas the edges) and what they enclose, ``step`` pixels a
    cell, from the straightened pixel ``corner`` on; the box lies half a stroke within.
    even: how much left and right are alike about the line x = centre[0], and top and bottom about
    y = centre[1], 0 to 1. told: whether its parts tell how far it is turned; else it is taken as
    level.
    """

    size_px: tuple[int, int]
    turn_deg: float
    box: tuple[float, float, float, float]
    ink: Mask
    filled: Mask
    step: float
    corner: tuple[float, float]
    even: tuple[float, float]
    centre: tuple[float, float]
    told: bool = True

    def cells_to_picture(self, cells: ArrayLike) -> Points:
        """Places in ``ink`` (..., 2), (column, row) with cell centres at .5, to pixels of the
        picture."""
        return self.to_picture(np.array(self.corner) + np.asarray(cells, np.float64) * self.step)

    def to_picture(self, straight: ArrayLike) -> Points:
        """Straightened pixels (..., 2) to the picture's (..., 2)."""
        at = np.asarray(straight, np.float64)
        c, s = _turn(self.turn_deg)
        x, y = at[..., 0], at[..., 1]
        return np.stack([c * x + s * y, c * y - s * x], axis=-1) + np.array(self.size_px) / 2


def _turn(deg: float) -> tuple[float, float]:
    return math.cos(math.radians(deg)), math.sin(math.radians(deg))


def shape_of(pyramid: Pyramid) -> Shape | None:
    """Read a drawing's shape; None if it holds no ink."""
    level = 0
    while max(pyramid.levels[level].size) > _WORK_PX and level + 1 < len(pyramid.levels):
        level += 1
    dark = drawn(pyramid.levels[level], pyramid.medium)
    threshold = ink_level(dark, pyramid.medium)
    ink = without_specks(dark > threshold)
    if not ink.any():
        return None
    inked = np.where(ink, dark, 0.0).astype(np.float32)
    strokes = pyramid.medium.strokes(pyramid.levels[level], ink)
    deg, told = _askew(inked, strokes, threshold, pyramid.medium)
    straight = _straightened(inked, deg) > threshold
    step = max(pyramid.size_px) / max(dark.shape)
    lines = None
    if pyramid.medium.kind.areas:
        lines = _straightened(strokes.astype(np.float32), deg) > _LINE
    return shape_from(straight, pyramid.size_px, deg, told, step, lines)


def shape_from(
    straight: Mask,
    size_px: tuple[int, int],
    deg: float,
    told: bool,
    step: float,
    strokes: Mask | None = None,
) -> Shape | None:
    """The shape of ink (h, w) that was turned back by ``deg`` about the middle of a picture of
    ``size_px``, ``step`` of its pixels a cell; None if it is next to nothing. ``strokes`` (h, w):
    the edges of it where it is areas."""
    rows, columns = (np.flatnonzero(straight.sum(axis=axis) > 1) for axis in (1, 0))
    if len(rows) < 8 or len(columns) < 8:
        return None
    top, bottom, left, right = rows[0], rows[-1] + 1, columns[0], columns[-1] + 1
    cut = straight[top:bottom, left:right]
    middle = np.array(straight.shape[::-1]) / 2
    sides = [cut.T, cut, cut.T[::-1], cut[::-1]]
    wide = _stroke(sides)
    inset = [_inset(ink, wide) for ink in sides]
    inner = np.array(inset) * (1, 1, -1, -1)
    box = (np.array([left, top, right, bottom]) + inner - np.tile(middle, 2)) * step
    corner = float((left - middle[0]) * step), float((top - middle[1]) * step)
    lines = cut if strokes is None else strokes[top:bottom, left:right]
    small = _small(lines)
    across, along = _evenness(small), _evenness(small.T)
    even = across[0], along[0]
    centre = (
        corner[0] + across[1] * cut.shape[1] * step,
        corner[1] + along[1] * cut.shape[0] * step,
    )
    edges = float(box[0]), float(box[1]), float(box[2]), float(box[3])
    return Shape(size_px, deg, edges, lines, _filled(cut), float(step), corner, even, centre, told)


def without_specks(ink: Mask) -> Mask:
    """Ink without specks, and without small patches beside the largest thing: words."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats(ink.astype(np.uint8), connectivity=8)
    if count < 2:
        return ink
    size = stats[1:, cv2.CC_STAT_AREA]
    low = stats[1:, [cv2.CC_STAT_LEFT, cv2.CC_STAT_TOP]]
    wide = stats[1:, [cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT]]
    main = int(np.argmax(wide.sum(axis=1)))
    apart = ((low > low[main] + wide[main]) | (low + wide < low[main])).any(axis=1)
    small = (wide < _WORDS * wide[main].max()).all(axis=1)
    kept = (size >= _SPECK_PX) & ~(apart & small)
    return np.asarray(np.concatenate([[False], kept])[labels])


def _askew(dark: Darkness, strokes: Mask, threshold: float, medium: Medium) -> tuple[float, bool]:
    """How far a drawing lies askew, and whether several of its parts agree on that. What is even
    about a line is so as a whole, whatever slopes on both sides of it; else several lines must say
    so, unless it is no more than paper lies askew."""
    found = skew_of(dark, threshold, medium, _ASKEW_DEG)
    even, turn = _even_turn(strokes if medium.kind.areas else dark > threshold)
    if even >= _TELLING:
        return (found.deg if found.sure and abs(found.deg - turn) < _AGREE_DEG else turn), True
    slight = abs(found.deg) <= _SLIGHT_DEG
    believed = (found.shared or slight) and (found.sure or not medium.kind.areas)
    return (found.deg, True) if believed else (0.0, False)


def _even_turn(ink: Mask) -> tuple[float, float]:
    """How even a drawing is about an upright line at best, and at which turn."""
    small = _small(ink, square=True)
    turns = np.arange(-_EVEN_DEG, _EVEN_DEG + 0.1, 0.5)
    even = [_evenness(_straightened(small, deg))[0] for deg in turns]
    best = int(np.argmax(even))
    if even[best] < _TELLING:
        return even[best], float(turns[best])
    near = np.arange(turns[best] - 0.5, turns[best] + 0.55, 0.1)
    finely = [_evenness(_straightened(small, deg))[0] for deg in near]
    return even[best], float(near[int(np.argmax(finely))])


def _straightened(dark: Darkness, deg: float) -> Darkness:
    """Turned back about the middle, on as large a canvas as that takes."""
    h, w = dark.shape
    c, s = (abs(v) for v in _turn(deg))
    size = int(h * s + w * c) + 4, int(h * c + w * s) + 4
    turn = cv2.getRotationMatrix2D((w / 2, h / 2), -deg, 1.0)
    turn[:, 2] += (np.array(size) - (w, h)) / 2
    return np.asarray(cv2.warpAffine(dark, turn, size, flags=cv2.INTER_LINEAR), np.float32)


def _small(ink: Mask, square: bool = False) -> Darkness:
    """Ink reduced and softened, so that what is nearly the same is much alike."""
    scale = min(1.0, _EVEN_PX / max(ink.shape))
    size = max(8, round(ink.shape[1] * scale)), max(8, round(ink.shape[0] * scale))
    small = cv2.resize(ink.astype(np.float32), size, interpolation=cv2.INTER_AREA)
    if square:
        margin = max(size) // 16
        small = cv2.copyMakeBorder(small, *[margin] * 4, cv2.BORDER_CONSTANT)
    return np.asarray(cv2.GaussianBlur(small, (0, 0), 1.5), np.float32)


def _evenness(soft: Darkness) -> tuple[float, float]:
    """How much a picture is like its mirror image about the best upright line, 0 to 1, and where
    that line stands as a share of the width. By the autocorrelation of mirrored rows."""
    w = soft.shape[1]
    total = float((soft.astype(np.float64) ** 2).sum())
    if total <= 0:
        return 0.0, 0.5
    waves = np.fft.rfft(soft, 2 * w, axis=1)
    alike = np.fft.irfft((waves**2).sum(axis=0), 2 * w)
    at = int(np.argmax(alike))
    # Pixels i and at - i are mirrored: the line stands in the middle between their centres.
    return float(min(1.0, alike[at] / total)), (at / 2 + 0.5) / w


def _stroke(sides: list[Mask]) -> float:
    """How wide the outline's strokes are, in cells, from the ink seen from its four sides: where
    they run square to the sight they are crossed the shortest. 0 for surfaces."""
    runs = np.concatenate([_first_runs(ink)[1] for ink in sides])
    wide = float(np.percentile(runs[runs > 1], 25)) if (runs > 1).any() else 1.0
    return wide if wide < _STROKE_MOST * max(sides[0].shape) else 0.0


def _first_runs(ink: Mask) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Where ink begins below the top edge in each column that holds any, and how far it runs."""
    ink = ink[:, ink.any(axis=0)]
    first = ink.argmax(axis=0)
    gone = ~ink & (np.arange(len(ink))[:, None] > first)
    return first, np.where(gone.any(axis=0), gone.argmax(axis=0), len(ink)) - first


def _inset(ink: Mask, stroke: float) -> float:
    """How far from the top edge of ink that begins there the middle of its outermost strokes lies,
    in cells; ``stroke``: how wide strokes are."""
    first, run = _first_runs(ink)
    outermost = first <= _AT_EDGE
    # Where strokes meet, or a slanted one ends, a run is longer than a stroke is wide.
    wide = min(float(np.percentile(run[outermost], 25)), stroke)
    return float(np.percentile(first[outermost], 25)) + wide / 2


def _filled(ink: Mask) -> Mask:
    """What strokes enclose, small gaps of the outline closed."""
    reach = max(2, round(max(ink.shape) * _GAP))
    room = 2 * reach
    padded = cv2.copyMakeBorder(ink.astype(np.uint8), *[room] * 4, cv2.BORDER_CONSTANT)
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
    closed = cv2.morphologyEx(padded, cv2.MORPH_CLOSE, disc)
    cv2.floodFill(closed, None, (0, 0), (2,))
    return np.asarray(closed != 2)[room:-room, room:-room]
