"""Extents that rows and columns do not share: depth runs across the side views and up the top and
bottom views; the back view is as wide as the front. Edges that disagree are chosen again."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from dimetron.geometry.views import View
from dimetron.imaging.split.agree import Agreed, InkRuns, inked
from dimetron.imaging.split.candidates import Spot
from dimetron.imaging.split.level import Points

#: World axis that a group shares: view to the index of its lower edge (0 across, 1 down).
_DEPTH = {View.TOP: 1, View.BOTTOM: 1, View.LEFT: 0, View.RIGHT: 0}
_WIDTH = {View.FRONT: 0, View.BACK: 0}
_CLOSE_PX = 3.0
_CLOSE = 0.012
#: A size that is off by less is left as it was read.
_FINE = 0.025
#: A size that is off by more, and could be mended at either end, is left to the person.
_FAR = 0.1
#: What counts as much as a share of the readings: an edge that only its ink speaks for.
_INK = 0.35


@dataclass(frozen=True, slots=True)
class _Choice:
    low: float
    high: float
    worth: float
    #: Whether another pair of edges would do as well.
    unclear: bool = False

    @property
    def size(self) -> float:
        return self.high - self.low


def reconciled(
    boxes: list[Agreed], spots: list[Spot], names: dict[int, View], strokes: InkRuns
) -> list[Agreed]:
    """The boxes with edges chosen so that shared extents agree, where there is ink for it."""
    for shared in (_DEPTH, _WIDTH):
        members = {i: shared[v] for i, v in names.items() if v in shared}
        if len(members) > 1:
            boxes = _group(boxes, spots, members, strokes)
    return boxes


def _group(
    boxes: list[Agreed], spots: list[Spot], members: dict[int, int], strokes: InkRuns
) -> list[Agreed]:
    choices = {i: _read(boxes[i], spots[i], edge) for i, edge in members.items()}
    sizes = sorted({c.size for found in choices.values() for c in found})

    def best(i: int, size: float) -> _Choice | None:
        close = [c for c in choices[i] if abs(c.size - size) <= _tolerance(size)]
        if close:
            return max(close, key=lambda c: (c.worth, -abs(c.size - size)))
        return _by_ink(boxes[i], spots[i], members[i], size, strokes)

    def worth(size: float) -> float:
        return sum(c.worth for c in (best(i, size) for i in members) if c is not None)

    size = max(sizes, key=worth)
    result = list(boxes)
    for i, edge in members.items():
        choice = best(i, size)
        own = float(boxes[i].box[edge + 2] - boxes[i].box[edge])
        if choice is not None and abs(own - size) > _FINE * size:
            box = boxes[i].box.copy()
            box[edge], box[edge + 2] = choice.low, choice.high
            moved = np.abs(box - boxes[i].box).max() > _CLOSE_PX
            support = boxes[i].support
            if moved:
                far = abs(own - size) > _FAR * size
                support = 0.45 if choice.unclear and far else max(support, 0.55)
            result[i] = replace(boxes[i], box=box, support=support)
    return result


def _tolerance(size: float) -> float:
    return max(_CLOSE_PX, _CLOSE * size)


def _read(box: Agreed, spot: Spot, edge: int) -> list[_Choice]:
    """The chosen edges, and each pair that readings have, by how many have it."""
    pairs = spot.boxes[:, [edge, edge + 2]]
    found = [
        _Choice(box.box[edge], box.box[edge + 2], 0.3 + _share(pairs, box.box[[edge, edge + 2]]))
    ]
    return found + [_Choice(float(p[0]), float(p[1]), _share(pairs, p)) for p in pairs]


def _share(pairs: Points, pair: Points) -> float:
    return float((np.abs(pairs - pair).max(axis=1) <= _CLOSE_PX).mean())


def _by_ink(box: Agreed, spot: Spot, edge: int, size: float, strokes: InkRuns) -> _Choice | None:
    """Keep one edge and put the other where the size wants it, if strokes stand there."""
    low, high = float(box.box[edge]), float(box.box[edge + 2])
    if not 0.6 < size / max(high - low, 1.0) < 1.6:
        return None
    found = []
    for a, b, moved, at, strip in (
        (high - size, high, edge, high - size, (low, high - size)),
        (low, low + size, edge + 2, low + size, (low + size, high)),
    ):
        if inked(strokes, spot, moved, at, _CLOSE_PX):
            found.append((_ink_in(strokes, spot, edge, strip), _Choice(a, b, _INK)))
    # The side where less is cut off is the one that clutter had pushed out.
    if not found:
        return None
    least = min(found, key=lambda f: f[0])[1]
    return replace(least, unclear=len(found) > 1)


def _ink_in(strokes: InkRuns, spot: Spot, edge: int, strip: tuple[float, float]) -> int:
    """Ink between two values across a spot's box, whichever is the lower."""
    x0, y0, x1, y1 = np.round(spot.typical).astype(int)
    a, b = sorted(round(v) for v in strip)
    ink = strokes.all
    part = ink[y0:y1, max(0, a) : max(0, b)] if edge == 0 else ink[max(0, a) : max(0, b), x0:x1]
    return int(np.count_nonzero(part))
