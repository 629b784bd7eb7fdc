"""Views of one object share their extents: all in a row begin and end at the same heights, all in
a column at the same widths. The candidates' edges are chosen so that they agree."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from dimetron.imaging.split.candidates import Readings, Spot
from dimetron.imaging.split.level import Bits, Points
from dimetron.imaging.split.regions import Boxes

#: Edges nearer than this are the same, in working pixels, and as a share of the extent.
_SAME_PX = 3.0
_SAME_SHARE = 0.012
#: A stroke along an edge is at least this long; a line that ends there is thinner.
_TOUCH = 6


@dataclass(frozen=True, slots=True, eq=False)
class Agreed:
    """box (4,) in working pixels; row and column by number; support 0..1: how many of the
    readings, the row's and the column's other views stand behind the weakest edge."""

    box: Boxes
    row: int
    column: int
    support: float
    level: bool


@dataclass(frozen=True, slots=True, eq=False)
class InkRuns:
    """All ink, and the ink that can be an edge, upright and level: ``_TOUCH`` long that way."""

    all: Bits
    upright: Bits
    level: Bits


def ink_runs(ink: Bits) -> InkRuns:
    """The ink, and what of it runs on across and up."""

    def longer(shape: tuple[int, int]) -> Bits:
        return np.asarray(cv2.morphologyEx(ink, cv2.MORPH_OPEN, np.ones(shape, np.uint8)))

    return InkRuns(ink, longer((_TOUCH, 1)), longer((1, _TOUCH)))


def agreed(found: Readings, strokes: InkRuns) -> list[Agreed]:
    """The boxes on which several readings of the sheet agree."""
    spots = found.spots
    if not spots:
        return []
    typical = np.array([s.typical for s in spots])
    rows, columns = lanes(typical[:, [1, 3]]), lanes(typical[:, [0, 2]])
    boxes = np.empty((len(spots), 4))
    support = np.zeros((len(spots), 4))
    shared = np.zeros((len(spots), 4), dtype=bool)
    for edge in range(4):
        lane = columns if edge % 2 == 0 else rows
        for number in set(lane.tolist()):
            members = np.flatnonzero(lane == number)
            chosen = _common_edge([spots[i] for i in members], edge, strokes)
            for i, (value, weight, common) in zip(members, chosen, strict=True):
                boxes[i, edge], support[i, edge], shared[i, edge] = value, weight, common
    return [
        Agreed(
            boxes[i],
            int(rows[i]),
            int(columns[i]),
            float(support[i].min()),
            bool(shared[i].all()),
        )
        for i in range(len(spots))
    ]


def lanes(intervals: Points) -> np.ndarray:
    """(n,) lane numbers from the first on: intervals (n, 2) that overlap by most of the smaller
    and are of about the same middle share one."""
    order = np.argsort(intervals.mean(axis=1))
    lane = np.zeros(len(intervals), dtype=int)
    number, seed = -1, None
    for i in order:
        if seed is None or not _same_lane(intervals[seed], intervals[i]):
            number, seed = number + 1, i
        lane[i] = number
    return lane


def _same_lane(a: Points, b: Points) -> bool:
    size = min(a[1] - a[0], b[1] - b[0])
    inside = min(a[1], b[1]) - max(a[0], b[0])
    return bool(inside > 0.8 * size and abs(a.mean() - b.mean()) < 0.25 * size)


def _common_edge(spots: list[Spot], edge: int, strokes: InkRuns) -> list[tuple[float, float, bool]]:
    """The edge of each spot of a lane: the value most of them can agree on, each by its own
    nearest reading, or by the ink that stands there. Returns (value, support 0..1, whether it
    agrees with the lane)."""
    values = [s.boxes[:, edge] for s in spots]
    extent = float(np.median([s.typical[2 + edge % 2] - s.typical[edge % 2] for s in spots]))
    same = max(_SAME_PX, _SAME_SHARE * extent)
    everything = np.unique(np.round(np.concatenate(values)))
    # Each spot counts once for a value, by the share of its readings that have it.
    shares = np.array([[np.mean(np.abs(v - at) <= same) for v in values] for at in everything])
    seen = np.array([[inked(strokes, s, edge, at, same) for s in spots] for at in everything])
    score = np.maximum(shares + 0.25 * (shares > 0), 0.5 * seen).sum(axis=1)
    best = int(score.argmax())
    at = float(everything[best])
    chosen = []
    for i, own in enumerate(values):
        share = float(shares[best, i])
        others = float(np.maximum(shares[best], 0.3 * seen[best]).sum()) - share
        if share > 0:
            near = own[np.abs(own - at) <= same]
            chosen.append((float(np.median(near)), min(1.0, share + 0.5 * others), True))
        elif seen[best, i] and others > 0.5:
            chosen.append((at, 0.6, True))
        else:
            counts = [np.mean(np.abs(own - v) <= same) for v in own]
            pick = int(np.argmax(counts))
            chosen.append((float(own[pick]), 0.4 * float(counts[pick]), False))
    return chosen


def inked(strokes: InkRuns, spot: Spot, edge: int, at: float, same: float) -> bool:
    """Whether there are strokes along an edge value of a spot that could be its outermost."""
    x0, y0, x1, y1 = np.round(spot.typical).astype(int)
    low, high = max(0, round(at - same)), max(1, round(at + same + 1))
    if edge % 2 == 0:
        return bool(strokes.upright[y0:y1, low:high].any())
    return bool(strokes.level[low:high, x0:x1].any())
