"""Boxes of the solid things on a sheet: outlines filled, thin attachments worn away."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from dimetron.imaging.split.furniture import LETTER, Parts, kept, parts_of
from dimetron.imaging.split.level import Bits

Boxes = NDArray[np.float64]
#: Shares of the sheet's longest side.
_SMALLEST = 0.03
_WORN = 0.0036
_NEAR = 0.006
#: A picture narrower than this shows nothing.
_LEAST_PX = 16


def solid_regions(ink: Bits, closing: int) -> Bits:
    """Outlines closed over gaps of ``closing`` pixels and filled; thin lines worn away."""
    if closing > 1:
        ink = np.asarray(cv2.morphologyEx(ink, cv2.MORPH_CLOSE, _round(closing)))
    h, w = ink.shape
    padded = cv2.copyMakeBorder(ink, 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=0)
    flood = padded.copy()
    cv2.floodFill(flood, np.zeros((h + 4, w + 4), np.uint8), (0, 0), 255)
    filled = cv2.bitwise_or(cv2.bitwise_not(flood), padded)[1:-1, 1:-1]
    size = max(3, round(_WORN * max(h, w)) | 1)
    return np.asarray(cv2.morphologyEx(filled, cv2.MORPH_OPEN, _round(size)))


def _round(size: int) -> Bits:
    return np.asarray(cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size)))


def boxes_of(ink: Bits, closing: int) -> Boxes:
    """(n, 4) boxes (left, top, right, bottom) of the objects in ``ink``, in its pixels."""
    longest = max(ink.shape)
    if min(ink.shape) < _LEAST_PX:
        return np.empty((0, 4))
    solid = solid_regions(ink, closing)
    parts = parts_of(solid)
    solid = kept(parts, ~_scraps(parts, longest))
    # What was worn away near the solid comes back, a pointed end for instance.
    reach = max(3, round(_WORN * longest))
    around = cv2.dilate(solid, np.ones((2 * reach + 1, 2 * reach + 1), np.uint8))
    whole = cv2.bitwise_or(solid, cv2.bitwise_and(ink, around))
    near = max(3, round(_NEAR * longest)) | 1
    # What belongs together is looked for at half the size, which takes a quarter of the time.
    half = cv2.resize(whole, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
    joined = cv2.dilate((half > 0).astype(np.uint8), np.ones((near // 2 | 1,) * 2, np.uint8))
    groups = parts_of(joined)
    found = []
    for label in range(1, len(groups.boxes)):
        x, y, w, h, _ = (int(2 * v) for v in groups.boxes[label])
        own = whole[y : y + h, x : x + w]
        same = groups.labels[y // 2 : (y + h) // 2, x // 2 : (x + w) // 2] == label
        mask = np.repeat(np.repeat(same, 2, axis=0), 2, axis=1)[: own.shape[0], : own.shape[1]]
        own = own[: mask.shape[0], : mask.shape[1]] * mask
        box = _extent(own, reach)
        if box is not None and max(box[2] - box[0], box[3] - box[1]) > _SMALLEST * longest:
            found.append((x + box[0], y + box[1], x + box[2], y + box[3]))
    return merged(np.array(found, dtype=np.float64).reshape(-1, 4))


def _extent(own: Bits, reach: int) -> tuple[int, int, int, int] | None:
    """Left, top, right, bottom; a thin line that sticks out (a centreline) does not count."""
    rows = np.flatnonzero(cv2.morphologyEx(own, cv2.MORPH_OPEN, np.ones((1, reach))).any(axis=1))
    columns = np.flatnonzero(cv2.morphologyEx(own, cv2.MORPH_OPEN, np.ones((reach, 1))).any(axis=0))
    if not len(rows) or not len(columns):
        return None
    return int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1


def _scraps(parts: Parts, longest: int) -> NDArray[np.bool_]:
    """Solids no larger than a letter that lie apart from every larger one."""
    x, y, w, h = parts.boxes[:, :4].T
    size = np.maximum(w, h)
    large = size > 2 * LETTER * longest
    large[0] = False
    apart = np.ones(len(size), dtype=bool)
    for lx, ly, lw, lh in parts.boxes[large, :4]:
        apart &= (x > lx + lw) | (x + w < lx) | (y > ly + lh) | (y + h < ly)
    return np.asarray((size < 0.008 * longest) | (~large & apart))


def merged(boxes: Boxes) -> Boxes:
    """Boxes that overlap by more than a sliver become one."""
    boxes = boxes.copy()
    i = 0
    while i < len(boxes):
        a = boxes[i]
        across = np.minimum(a[2], boxes[:, 2]) - np.maximum(a[0], boxes[:, 0])
        down = np.minimum(a[3], boxes[:, 3]) - np.maximum(a[1], boxes[:, 1])
        over = (across > 2) & (down > 2)
        over[i] = False
        if over.any():
            j = int(np.flatnonzero(over)[0])
            boxes[i] = [*np.minimum(a[:2], boxes[j, :2]), *np.maximum(a[2:], boxes[j, 2:])]
            boxes = np.delete(boxes, j, axis=0)
            i = 0
        else:
            i += 1
    return boxes
