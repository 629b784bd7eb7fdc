"""Which ways all drawings together lie, most likely first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations, product

import numpy as np
from numpy.typing import NDArray

from dimetron.registration.byink.coherence import Mask, uncovered, unlike
from dimetron.registration.byink.signature import Signature, odds
from dimetron.registration.byink.ways import EXCHANGED, WAYS, Reading, Way, cost, number_of

Floats = NDArray[np.float64]
Ways = tuple[int, ...]

#: Pairs of sides of the same drawings are not independent of each other: each counts for so much.
_PAIR = 0.7
#: How exactly extents agree in good drawings, as a logarithm, and how much at most one counts.
_EXTENT_SIGMA, _EXTENT_MOST = 0.012, 6.0
#: How exactly drawings of one body are of one scale, as a logarithm: extents of two others outvote
#: it.
_BODY_SIGMA = 0.02
#: Beyond so many of that they are not of one.
_NO_BODY = 3.0
#: Against what other drawings do not allow, and against opposite views that differ, per share.
_INCOHERENT, _UNLIKE, _UNLIKE_MOST = 45.0, 40.0, 8.0
#: Opposite views differ by this share in good drawings.
_DRAWN = 0.03
#: For drawings that are even along X, per share beyond what anything is.
_EVEN, _HARDLY = 6.0, 0.5
#: Against two drawings of the very same view.
_TWICE = 3.0
#: So many are looked at closely.
_CLOSELY = 60
#: When nothing is known, so many ways are followed from drawing to drawing, and so many kept.
_FOLLOWED, _KEPT = 1200, 150


@dataclass(frozen=True, slots=True)
class Found:
    """ways: a number of ``WAYS`` for each drawing; score: logarithm of how likely; extents (3,):
    the logarithm of the object's size along each axis, and scales (n,) of a pixel's, up to one
    common number."""

    ways: Ways
    score: float
    extents: tuple[float, ...]
    scales: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class Alike:
    """Two drawings of one body: a pixel of the one is so many times as large as of the other, as a
    logarithm."""

    one: int
    other: int
    ratio: float


def search(
    signatures: Sequence[Signature], now: Sequence[Reading], alike: Sequence[Alike] = ()
) -> list[Found]:
    """Ways in which the drawings can lie, the likeliest first. As they lie now is among them."""
    table = Table(signatures, [np.array([cost(way, lies) for way in WAYS]) for lies in now], alike)
    table.said(now)
    rough = table.rough()
    best = sorted(rough, key=lambda ways: -rough[ways])[:_CLOSELY]
    if table.named not in best:
        best.append(table.named)
    found = [table.closely(ways, rough[ways]) for ways in best]
    return sorted(found, key=lambda f: -f.score)


class Table:
    """What every pair of drawings says of every pair of ways, worked out once."""

    def __init__(
        self,
        signatures: Sequence[Signature],
        costs: Sequence[Floats],
        alike: Sequence[Alike],
        further: Floats | None = None,
    ) -> None:
        """costs (n, 24): of every way for each drawing, in logarithms of odds; further
        (n, n, 24, 24): what else speaks for every pair of ways of two drawings."""
        self._signatures = signatures
        self._pairs = tuple((a.one, a.other) for a in alike)
        self._ratios = np.array([a.ratio for a in alike]) * (_EXTENT_SIGMA / _BODY_SIGMA)
        self._costs = np.array(costs) - [
            [_EVEN * _evenly(s, way) for way in WAYS] for s in signatures
        ]
        self.named: Ways = ()
        count = len(signatures)
        self._pair = np.zeros((count, count, len(WAYS), len(WAYS)))
        for i, j in combinations(range(count), 2):
            self._pair[i, j] = self._paired(i, j)
            self._pair[j, i] = self._pair[i, j].T
        if further is not None:
            self._pair += further
        self._sides = np.log([s.sides_px for s in signatures])
        self._known: dict[tuple[int, ...], tuple[float, Floats, Floats]] = {}
        self._laid: dict[tuple[int, int], Mask] = {}

    def _paired(self, i: int, j: int) -> Floats:
        told = odds(self._signatures[i].channels, self._signatures[j].channels)
        found = np.zeros((len(WAYS), len(WAYS)))
        for a, one in enumerate(WAYS):
            for b, other in enumerate(WAYS):
                if one.depth_axis == other.depth_axis:
                    twice = _TWICE if one == other else 0.0
                    found[a, b] = -twice
                    continue
                axis = next(x for x in one.axes if x in other.axes)
                s, t = one.axes.index(axis), other.axes.index(axis)
                opposite = int(one.signs[s] != other.signs[t])
                found[a, b] = _PAIR * told[s, t, opposite]
        return found

    def said(self, now: Sequence[Reading]) -> None:
        """How the drawings are said to lie: two that bear each other's names are one mistake."""
        self.named = tuple(number_of(lies) for lies in now)
        for i, j in combinations(range(len(now)), 2):
            mine, yours = self.named[i], self.named[j]
            if WAYS[mine].depth_axis != WAYS[yours].depth_axis:
                self._pair[i, j, yours, mine] += EXCHANGED
                self._pair[j, i, mine, yours] += EXCHANGED

    def rough(self) -> dict[Ways, float]:
        """Scores without a look at outlines: of the best ways in which up to two drawings lie
        otherwise than they are called, and of that none does."""
        found: dict[Ways, float] = {}
        for i, j in combinations(range(len(self.named)), 2):
            scores = self._rough_of(i, j)
            best = np.argsort(-scores, axis=None)[:_CLOSELY]
            as_named = np.ravel_multi_index((self.named[i], self.named[j]), scores.shape)
            for at in (*best, as_named):
                a, b = (int(v) for v in np.unravel_index(at, scores.shape))
                ways = list(self.named)
                ways[i], ways[j] = a, b
                found[tuple(ways)] = float(scores[a, b])
        return found

    def _rough_of(self, i: int, j: int) -> Floats:
        """(WAYS, WAYS) scores for every way of two drawings while the others lie as called."""
        others = [(k, way) for k, way in enumerate(self.named) if k not in (i, j)]
        scores = self._pair[i, j] - self._costs[i][:, None] - self._costs[j][None, :]
        for k, way in others:
            scores += self._pair[i, k][:, way, None] + self._pair[j, k][:, way]
        scores += sum(self._pair[k, m][a, b] for (k, a), (m, b) in combinations(others, 2))
        scores -= sum(self._costs[k, way] for k, way in others)
        # Extents do not depend on which way round an axis runs: four ways each are alike in them.
        ways, against = list(self.named), np.zeros((len(WAYS), len(WAYS)))
        for a, b in product(range(0, len(WAYS), 4), repeat=2):
            ways[i], ways[j] = a, b
            against[a : a + 4, b : b + 4] = self._disagreement(tuple(ways))[0]
        return np.asarray(scores - against)

    def _disagreement(self, ways: Ways) -> tuple[float, Floats, Floats]:
        """Against extents that differ, and the extents and scales that fit best; of the first so
        many drawings."""
        pattern = tuple(w // 4 for w in ways)
        if pattern not in self._known:
            among = np.array([max(pair) < len(ways) for pair in self._pairs], bool)
            pairs = tuple(pair for pair, is_in in zip(self._pairs, among, strict=True) if is_in)
            design, solver = _extent_system(pattern, pairs)
            lengths, ratios = self._sides[: len(ways)].ravel(), self._ratios[among]
            sides = np.concatenate([lengths, ratios])
            fitted = _robustly(design, solver, sides)
            # What the ink contradicts is no body, and must not draw the sizes its way.
            one = np.abs(sides - design @ fitted)[lengths.size :] <= _NO_BODY * _EXTENT_SIGMA
            if not one.all():
                kept = tuple(pair for pair, is_one in zip(pairs, one, strict=True) if is_one)
                told = np.concatenate([lengths, ratios[one]])
                fitted = _robustly(*_extent_system(pattern, kept), told)
            off = (sides - design @ fitted) / _EXTENT_SIGMA
            against = float(np.minimum(off**2, _EXTENT_MOST).sum())
            self._known[pattern] = against, fitted[:3], fitted[3:]
        return self._known[pattern]

    def best(self) -> list[Found]:
        """The likeliest ways when nothing is known of how drawings lie, the best first."""
        rough = self._anyhow()
        some = sorted(rough, key=lambda ways: -rough[ways])[:_CLOSELY]
        return sorted((self.closely(ways, rough[ways]) for ways in some), key=lambda f: -f.score)

    def _anyhow(self) -> dict[Ways, float]:
        """Scores without a look at outlines when nothing is known of how drawings lie: they are
        laid one after the other, and of all ways so far the best are followed."""
        ways = np.zeros((1, 0), np.intp)
        rough = np.zeros(1)
        for k in range(len(self._signatures)):
            scores = rough[:, None] - self._costs[k][None, :]
            for j in range(k):
                scores = scores + self._pair[j, k][ways[:, j]]
            best = np.argsort(-scores, axis=None)[:_FOLLOWED]
            before, now = np.unravel_index(best, scores.shape)
            ways = np.column_stack([ways[before], now])
            rough = scores[before, now]
            against = self._against(ways)
            kept = np.argsort(against - rough)[:_KEPT]
            ways, rough = ways[kept], rough[kept]
        scores = rough - self._against(ways)
        return {tuple(row): float(s) for row, s in zip(ways.tolist(), scores, strict=True)}

    def _against(self, ways: NDArray[np.intp]) -> Floats:
        """(n,) against extents that differ, of ways (n, drawings); each pattern is looked at
        once."""
        patterns, which = np.unique(ways // 4, axis=0, return_inverse=True)
        told = [self._disagreement(tuple(4 * p for p in row))[0] for row in patterns.tolist()]
        return np.array(told)[which.ravel()]

    def rough_of(self, ways: Ways) -> float:
        """The score of all drawings lying so, without a look at outlines."""
        pairs = sum(
            float(self._pair[i, j, ways[i], ways[j]]) for i, j in combinations(range(len(ways)), 2)
        )
        costs = sum(float(self._costs[i, way]) for i, way in enumerate(ways))
        return pairs - costs - self._disagreement(ways)[0]

    def closely(self, ways: Ways, rough: float) -> Found:
        """The whole score of all drawings lying so."""
        planes: dict[int, list[Mask]] = {0: [], 1: [], 2: []}
        for i, way in enumerate(ways):
            planes[WAYS[way].depth_axis].append(self._world(i, way))
        score = rough
        for masks in planes.values():
            for a, b in combinations(masks, 2):
                score -= min(_UNLIKE * max(0.0, unlike(a, b) - _DRAWN), _UNLIKE_MOST)
        triples = [_incoherent(*three) for three in product(planes[0], planes[1], planes[2])]
        if triples:
            score -= _INCOHERENT * float(np.mean(triples))
        _, extents, scales = self._disagreement(ways)
        return Found(ways, score, tuple(extents), tuple(-scales))

    def _world(self, i: int, number: int) -> Mask:
        """A drawing's outline by its two world axes, the lower one first, both growing."""
        if (i, number) not in self._laid:
            way = WAYS[number]
            mask = self._signatures[i].outline.T[:: way.signs[0], :: way.signs[1]]
            self._laid[i, number] = mask if way.axes[0] < way.axes[1] else mask.T
        return self._laid[i, number]


def _evenly(signature: Signature, way: Way) -> float:
    """How much a drawing is even along X rather than along its other axis: most things are, and
    few are along Y or Z."""
    even = signature.shape.even
    if 0 not in way.axes:
        return -max(0.0, max(even) - _HARDLY)
    side = way.axes.index(0)
    return max(0.0, even[side] - _HARDLY) - max(0.0, even[1 - side] - _HARDLY)


def _incoherent(by_yz: Mask, by_xz: Mask, by_xy: Mask) -> float:
    return (
        uncovered(by_xy, by_yz, by_xz)
        + uncovered(by_xy.T, by_xz, by_yz)
        + uncovered(by_xz, by_yz.T, by_xy)
    )


@lru_cache(maxsize=4096)
def _extent_system(
    pattern: tuple[int, ...], alike: tuple[tuple[int, int], ...]
) -> tuple[Floats, Floats]:
    """Rows (2n + m, 3 + n): side of drawing i = extent of its axis + pixels per mm of i, and how
    much larger a pixel of one drawing of a body is, in logarithms, so that each is as exact as a
    side; and what solves them."""
    count = len(pattern)
    design = np.zeros((2 * count + len(alike), 3 + count))
    for row, (one, other) in enumerate(alike, 2 * count):
        design[row, 3 + one], design[row, 3 + other] = -1.0, 1.0
    design[2 * count :] *= _EXTENT_SIGMA / _BODY_SIGMA
    for i, number in enumerate(pattern):
        for side, axis in enumerate(WAYS[4 * number].axes):
            design[2 * i + side, axis] = 1.0
            design[2 * i + side, 3 + i] = 1.0
    return design, np.asarray(np.linalg.pinv(design))


def _robustly(design: Floats, solver: Floats, sides: Floats) -> Floats:
    """Least squares, then with less weight for what is far off."""
    fitted = np.asarray(solver @ sides)
    off = np.abs(sides - design @ fitted) / _EXTENT_SIGMA
    if (off < 2.0).all():
        return fitted
    weight = np.sqrt(1 / np.maximum(1.0, off / 2.0))
    return np.asarray(np.linalg.pinv(design * weight[:, None]) @ (sides * weight))
