"""Whole things on a sheet, wherever they stand: what hangs together, with the parts that belong to
it, and without what is written."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from dimetron.imaging.split.furniture import LETTER, parts_of
from dimetron.imaging.split.level import Bits
from dimetron.imaging.split.regions import Boxes, merged

#: What is no farther apart than this share of the longest side belongs together.
_NEAR = 0.006
#: What is no longer than this share of it is nothing to speak of.
_LEAST = 0.03
#: Letters are no larger than this both ways, words that hang together no higher and no longer, in
#: heights of a letter.
_LETTERS, _WORD = 1.7, (1.2, 8.0)


def bodies(ink: Bits) -> Boxes:
    """(n, 4) boxes of the things that may be views, the largest first."""
    longest = max(ink.shape)
    parts = parts_of(ink)
    small = _letters(parts.boxes, LETTER * longest)
    groups = _groups(ink, max(1, round(_NEAR * longest)))
    # A part lies in one group as a whole: any of its pixels tells which.
    group_of = np.zeros(len(parts.boxes), np.int32)
    group_of[parts.labels.ravel()] = groups.ravel()
    found = []
    for group in np.unique(group_of[1:][~small[1:]]):
        x, y, w, h = parts.boxes[np.flatnonzero(group_of == group), :4].T
        found.append((x.min(), y.min(), (x + w).max(), (y + h).max()))
    boxes = merged(np.array(found, np.float64).reshape(-1, 4))
    if not len(boxes):
        return boxes
    boxes = boxes[(boxes[:, 2:] - boxes[:, :2]).max(axis=1) > _LEAST * longest]
    return np.asarray(boxes[np.argsort(-np.prod(boxes[:, 2:] - boxes[:, :2], axis=1))])


def _letters(boxes: NDArray[np.int32], letter: float) -> NDArray[np.bool_]:
    _, _, w, h, _ = boxes.T
    long, across = np.maximum(w, h), np.minimum(w, h)
    high, wide = _WORD
    words = (across <= high * letter) & (long <= wide * letter)
    return np.asarray((long <= _LETTERS * letter) | words)


def _groups(ink: Bits, near: int) -> NDArray[np.int32]:
    """Labels (h, w) of what hangs together when gaps are bridged."""
    joined = cv2.dilate(ink, np.ones((2 * (near // 2) + 1,) * 2, np.uint8))
    return parts_of(joined).labels
