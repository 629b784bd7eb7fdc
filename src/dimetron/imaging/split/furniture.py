"""Setting aside what is not the object: frame, title block, writing, thin straight lines."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from dimetron.imaging.ink import Darkness
from dimetron.imaging.split.level import Bits

#: All sizes as shares of the sheet's longest side.
LETTER = 0.017
RUN = 0.014
_FRAME_RUN = 0.75
_MARGIN = 0.14
_SIDES = 3
#: A straight line is thin, that is a dimension line, below this share of the object's weight.
_THIN = 0.78


@dataclass(frozen=True, slots=True, eq=False)
class Parts:
    """Connected components: labels (h, w), and boxes (n, 5) of x, y, w, h, area; 0 is paper."""

    labels: NDArray[np.int32]
    boxes: NDArray[np.int32]


def parts_of(bits: Bits) -> Parts:
    """What hangs together, part by part."""
    _, labels, stats, _ = cv2.connectedComponentsWithStats(bits, connectivity=8)
    return Parts(labels, stats)


def kept(parts: Parts, keep: NDArray[np.bool_]) -> Bits:
    """The mask of the components that are kept; ``keep`` (n,) by label."""
    keep = keep.copy()
    keep[0] = False
    return np.asarray(np.where(keep, 255, 0).astype(np.uint8)[parts.labels])


def runs(ink: Bits, length: int, upright: bool) -> Bits:
    """Straight level (or upright) runs of at least ``length`` pixels, as wide as they are."""
    across, along = np.ones((3, 1), np.uint8), np.ones((1, length), np.uint8)
    if upright:
        across, along = across.T, along.T
    # A hand's wobble steps by a pixel; thickened across, the run goes on.
    found = cv2.morphologyEx(cv2.dilate(ink, across), cv2.MORPH_OPEN, along)
    return np.asarray(cv2.bitwise_and(found, ink))


def without_frame(ink: Bits) -> Bits:
    """Blank the border frame, everything beyond it, and what hangs on it (the title block)."""
    h, w = ink.shape
    longest = max(h, w)
    out = ink.copy()
    inner = _inner(ink)
    x0, y0, x1, y1 = inner
    framed = (x0, y0, x1, y1) != (0, 0, w, h)
    out[:y0], out[y1:], out[:, :x0], out[:, x1:] = 0, 0, 0, 0
    edge = max(4, longest // 250)
    if framed:
        # The frame line's own wobble, on the sides that have one.
        for side, band in _bands(inner, (w, h), edge):
            if side:
                out[band] = 0
    return _unhung(out, inner, edge)


def has_frame(ink: Bits) -> bool:
    """Whether there is a border on three sides at least: one or two long lines are anything."""
    h, w = ink.shape
    sides = [a != b for a, b in zip(_inner(ink), (0, 0, w, h), strict=True)]
    return bool(sum(sides) >= _SIDES)


def _inner(ink: Bits) -> list[int]:
    """Left, top, right and bottom of what border lines enclose; the picture's own where there is
    none."""
    h, w = ink.shape
    longest = max(h, w)
    level, upright = runs(ink, longest // 12, False), runs(ink, longest // 12, True)
    inner = [0, 0, w, h]
    for lines, size, other, (first, last) in (
        (_covered(upright.T), w, h, (0, 2)),
        (_covered(level), h, w, (1, 3)),
    ):
        margin = int(_MARGIN * size)
        strong = np.flatnonzero(lines > _FRAME_RUN * other)
        near, far = strong[strong < margin], strong[strong > size - margin]
        inner[first] = int(near.max()) + 1 if near.size else 0
        inner[last] = int(far.min()) if far.size else size
    return inner


def _covered(lines: Bits) -> NDArray[np.int64]:
    """How much of the length is covered around each row; a line may wander over seven rows."""
    thick = cv2.dilate(lines, np.ones((7, 1), np.uint8))
    return np.asarray((thick > 0).sum(axis=1), np.int64)


def _bands(
    inner: list[int], size: tuple[int, int], edge: int
) -> list[tuple[bool, tuple[slice, slice]]]:
    x0, y0, x1, y1 = inner
    every = slice(None)
    return [
        (x0 > 0, (every, slice(x0, x0 + edge))),
        (y0 > 0, (slice(y0, y0 + edge), every)),
        (x1 < size[0], (every, slice(x1 - edge, x1))),
        (y1 < size[1], (slice(y1 - edge, y1), every)),
    ]


def _unhung(ink: Bits, inner: list[int], edge: int) -> Bits:
    """Drop components that reach the frame (or, without one, the picture's edge)."""
    parts = parts_of(ink)
    x, y, w, h = parts.boxes[:, :4].T
    x0, y0, x1, y1 = inner
    reach = edge + 3
    touching = (x <= x0 + reach) | (y <= y0 + reach) | (x + w >= x1 - reach) | (y + h >= y1 - reach)
    return kept(parts, ~touching)


def without_writing(ink: Bits) -> Bits:
    """Drop components no larger than letters, and rows of joined letters."""
    letter = LETTER * max(ink.shape)
    parts = parts_of(ink)
    _, _, w, h, _ = parts.boxes.T
    small = (w < letter * 1.6) & (h < letter * 1.6)
    row = ((h < letter) & (w < 6 * letter)) | ((w < letter) & (h < 6 * letter))
    # Straight lines are not writing: they fill hardly more than a row of their box.
    straight = np.minimum(w, h) <= 4
    return kept(parts, ~(small | (row & ~straight)))


def without_tables(ink: Bits) -> Bits:
    """Drop title blocks that stand free: ruled rectangles, nearly all of it level and upright."""
    longest = max(ink.shape)
    length = int(RUN * longest)
    ruled = cv2.bitwise_or(runs(ink, length, False), runs(ink, length, True))
    parts = parts_of(ink)
    straight = np.bincount(
        parts.labels[ruled > 0].ravel(), minlength=len(parts.boxes)
    ) / np.maximum(parts.boxes[:, 4], 1)
    h, w = ink.shape
    x, y, bw, bh = parts.boxes[:, :4].T
    corner = (x + bw > 0.9 * w) & (y + bh > 0.88 * h)
    table = (straight > 0.9) & corner & (bw > 1.8 * bh)
    return kept(parts, ~table)


def without_thin_lines(ink: Bits, dark: Darkness) -> Bits:
    """Erase straight level and upright lines that are clearly lighter than the object's own."""
    weight = np.asarray(cv2.blur(dark, (7, 7)) * 7.0, np.float32)
    length = int(RUN * max(ink.shape))
    level, upright = runs(ink, length, False), runs(ink, length, True)
    own = _own_weight(ink, cv2.bitwise_or(level, upright), weight)
    out = ink.copy()
    for found, lies in ((level, True), (upright, False)):
        parts = parts_of(found)
        sums = _across(dark, lies)
        for label, (x, y, w, h, _) in enumerate(parts.boxes):
            if label == 0:
                continue
            box = slice(y, y + h), slice(x, x + w)
            inside = parts.labels[box] == label
            mean = float(np.median(sums[box][inside]))
            if mean < _THIN * own:
                out[box][inside] = 0
    return out


def _across(dark: Darkness, level: bool) -> Darkness:
    """Darkness summed across a level (or upright) line: its width times its strength."""
    kernel = (1, 9) if level else (9, 1)
    return np.asarray(cv2.blur(dark, kernel) * 9.0, np.float32)


def _own_weight(ink: Bits, straight: Bits, weight: Darkness) -> float:
    """The line weight of the object's own strokes: the upper part of those that curve or slant."""
    parts = parts_of(ink)
    large = np.maximum(parts.boxes[:, 2], parts.boxes[:, 3]) > 0.05 * max(ink.shape)
    of_large = kept(parts, large) > 0
    curved = of_large & (cv2.dilate(straight, np.ones((5, 5), np.uint8)) == 0)
    sample = curved if np.count_nonzero(curved) > 2000 else of_large
    ridge = sample & (weight >= cv2.dilate(weight, np.ones((3, 3), np.uint8)) * 0.97)
    values = weight[ridge]
    return float(np.percentile(values, 50)) if values.size else 0.0
