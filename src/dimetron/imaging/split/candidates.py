"""Several readings of the same ink, and where they agree that there is something.

No single threshold suits every hand: outlines have gaps, dimension lines touch the object or are
as heavy as it. So the ink is read with and without its thin straight lines and with small to large
gaps closed; each reading gives boxes, and boxes at the same spot are candidates for one view.
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dimetron.imaging.split import furniture
from dimetron.imaging.split.level import Bits, LevelSheet
from dimetron.imaging.split.regions import Boxes, boxes_of

_CLOSINGS = (3, 5, 9)
#: A smaller box inside a larger one is a part of it, not another reading, below this share.
_PART = 0.35
#: Strips narrower than this share of the largest view's side are no views.
_SLIVER = 0.06
#: What is smaller against the whole than this is a part of a view and not a view beside it.
_SMALL_VIEW = 0.05
#: Boxes that share less are neighbours that touch, not readings of one thing.
_LINKED = 0.25
#: Fewer readings than this are a chance.
_ENOUGH = 2


@dataclass(frozen=True, slots=True, eq=False)
class Spot:
    """boxes (k, 4): the readings of one thing, in working pixels; of ``readings`` in all."""

    boxes: Boxes
    readings: int

    @property
    def typical(self) -> Boxes:
        """(4,) the median reading."""
        return np.asarray(np.median(self.boxes, axis=0))


@dataclass(frozen=True, slots=True, eq=False)
class Readings:
    """The spots, and what they were read from: the ink (h, w) without frame, and that without its
    thin straight lines too."""

    spots: list[Spot]
    ink: Bits
    bare: Bits


def readings(level: LevelSheet) -> Readings:
    """Boxes of what may be views, by each way of reading the sheet."""
    framed_out = furniture.without_frame(level.ink)
    with ThreadPoolExecutor(2) as pool:
        # OpenCV works outside the interpreter's lock: the ink as it is, while thin lines go.
        whole = pool.submit(lambda: _boxes(framed_out))
        bare = furniture.without_thin_lines(framed_out, level.dark)
        sets = [*_boxes(bare), *whole.result()]
    return Readings(_clustered(sets), framed_out, bare)


def _boxes(ink: Bits) -> list[Boxes]:
    clean = _clean(ink)
    return [boxes_of(clean, closing) for closing in _CLOSINGS]


def _clean(ink: Bits) -> Bits:
    return furniture.without_tables(furniture.without_writing(ink))


def _clustered(sets: list[Boxes]) -> list[Spot]:
    everything = np.concatenate(sets)
    if not len(everything):
        return []
    everything = everything[~_unions(everything)]
    order = np.argsort(-areas(everything))
    left = list(everything[order])
    found = []
    while left:
        largest = left[0]
        inside = [b for b in left if overlap(largest, b) > 0.6]
        same = np.array([b for b in inside if areas(b[None])[0] > _PART * areas(largest[None])[0]])
        left = [b for b in left if overlap(largest, b) <= 0.6]
        if len(same) >= _ENOUGH:
            found.append(Spot(same, len(sets)))
    return _no_slivers(found)


def _no_slivers(spots: list[Spot]) -> list[Spot]:
    """Without strips that two dimension lines enclose: next to the views they are but slivers."""
    if not spots:
        return []
    sides = np.array([s.typical[2:] - s.typical[:2] for s in spots])
    keep = sides.min(axis=1) > _SLIVER * sides.max()
    return [s for s, kept in zip(spots, keep, strict=True) if kept]


def areas(boxes: Boxes) -> Boxes:
    """(n,) areas of boxes."""
    return np.asarray((boxes[:, 2] - boxes[:, 0]) * (boxes[:, 3] - boxes[:, 1]))


def overlap(a: Boxes, b: Boxes) -> float:
    """The share of box ``b`` (4,) that lies in ``a`` (4,)."""
    size = np.minimum(a[2:], b[2:]) - np.maximum(a[:2], b[:2])
    return float(np.prod(np.maximum(size, 0)) / np.prod(b[2:] - b[:2]))


def _unions(boxes: Boxes) -> NDArray[np.bool_]:
    """Boxes that are no more than two or more others taken together: views read as one."""
    found = np.zeros(len(boxes), dtype=bool)
    sizes = areas(boxes)
    often = np.array([sum(_alike(a, b) for b in boxes) for a in boxes])
    for i, box in enumerate(boxes):
        parts = np.array(
            [overlap(box, b) > 0.97 and sizes[j] < 0.85 * sizes[i] for j, b in enumerate(boxes)]
        )
        # As often read as the whole; or, where they nearly fill it, read more than once.
        for enough, filled in ((often[i], 0.0), (_ENOUGH, 0.75)):
            inner = boxes[parts & (often >= enough)]
            if len(inner) > 1 and _are_views(inner, box, filled):
                found[i] = not (often[i] > _ENOUGH and _strips(inner))
    return found


def _are_views(inner: Boxes, whole: Boxes, filled: float) -> bool:
    """Whether boxes stand apart and together reach as far as ``whole``, filling a share of it."""
    if _all_touch(inner):
        return False
    reach = np.concatenate([inner[:, :2].min(axis=0), inner[:, 2:].max(axis=0)])
    if overlap(reach, whole) <= 0.9:
        return False
    # Readings of one thing count once, as the largest of them.
    order = np.argsort(-areas(inner))
    apart: list[Boxes] = []
    for box in inner[order]:
        large = areas(box[None])[0] > _SMALL_VIEW * areas(whole[None])[0]
        if large and all(overlap(box, other) == 0 and overlap(other, box) == 0 for other in apart):
            apart.append(box)
    if len(apart) < 2:
        return False
    return float(areas(np.array(apart)).sum() / areas(whole[None])[0]) > filled


def _strips(boxes: Boxes) -> bool:
    """Whether boxes side by side are hardly wider than the gap between them: the two edges of one
    view, whose other outlines were worn away."""
    for low, high in ((0, 2), (1, 3)):
        order = np.argsort(boxes[:, low])
        first, last = boxes[order[0]], boxes[order[-1]]
        gap = last[low] - first[high]
        widest = max(first[high] - first[low], last[high] - last[low])
        if gap > 0 and widest < 1.5 * gap:
            return True
    return False


def _alike(a: Boxes, b: Boxes) -> bool:
    """Whether two boxes are readings of the same outline, by their intersection over union."""
    shared = overlap(a, b) * areas(b[None])[0]
    return bool(shared > 0.85 * (areas(a[None])[0] + areas(b[None])[0] - shared))


def _all_touch(boxes: Boxes) -> bool:
    """Whether the boxes overlap in a chain, as the readings of one thing do."""
    reached = {0}
    while True:
        more = {
            j
            for i in reached
            for j in range(len(boxes))
            if j not in reached and overlap(boxes[i], boxes[j]) > _LINKED
        }
        if not more:
            return len(reached) == len(boxes)
        reached |= more
