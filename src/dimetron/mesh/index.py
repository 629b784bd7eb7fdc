"""A tree of boxes over the triangles of a mesh, in flat arrays: what a ray meets, what lies near.

The triangles are sorted along a space-filling curve (G. M. Morton, 1966) and packed into leaves;
above them each box holds eight. Built once for a topology and refitted upward where positions move.
Queries go down level by level on arrays of boxes, so that a query costs a handful of array
operations however large the mesh is.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dimetron.mesh.arrays import Floats, Ints, Mask, extent

#: Triangles in a leaf, and boxes in a box.
_LEAF, _FAN = 8, 8
#: Pairs of boxes whose inner ones are looked at together.
_PAIRS = 20_000
#: Steps of the curve along each axis, as a power of two.
_BITS = 10


@dataclass(frozen=True, eq=False)
class Index:
    """triangles (t, 3); order: (leaves * _LEAF,) triangles leaf by leaf, the last one repeated to
    fill; low, high: of each level the boxes (k, 3), leaves first."""

    triangles: Ints
    order: Ints
    low: tuple[Floats, ...]
    high: tuple[Floats, ...]

    @cached_property
    def _leaf_of(self) -> Ints:
        """(t,) the leaf of each triangle."""
        found = np.empty(len(self.triangles), np.int32)
        found[self.order] = np.arange(len(self.order), dtype=np.int32) // _LEAF
        return found

    def meeting(self, keep: Callable[[Floats, Floats], Mask]) -> Ints:
        """Triangles of the leaves whose boxes (k, 3), (k, 3) are kept, as are all above them; the
        last one may be there several times."""
        nodes = np.arange(len(self.low[-1]))
        for level in range(len(self.low) - 1, -1, -1):
            low, high = self.low[level], self.high[level]
            nodes = nodes[keep(low[nodes], high[nodes])]
            if not level or not len(nodes):
                break
            nodes = (nodes[:, None] * _FAN + np.arange(_FAN)).ravel()
            nodes = nodes[nodes < len(self.low[level - 1])]
        if not len(nodes):
            return np.zeros(0, np.int32)
        return self.in_leaves(nodes)

    def on_ray(self, origin: Floats, direction: Floats) -> Ints:
        """Triangles whose leaves a ray runs through, before and behind its origin."""
        return self.in_leaves(self.boxes_on(origin[None], direction[None], -np.inf, np.inf)[1])

    @property
    def leaf_size(self) -> int:
        """Triangles in a leaf."""
        return _LEAF

    def in_leaves(self, leaves: Ints) -> Ints:
        """(k * leaf_size,) the triangles of leaves (k,), leaf by leaf; the last one of all may be
        there several times."""
        return np.asarray(self.order[(leaves[:, None] * _LEAF + np.arange(_LEAF)).ravel()])

    def boxes_on(
        self, origins: Floats, ways: Floats, begin: float, end: float
    ) -> tuple[Ints, Ints]:
        """(k,), (k,) rays, in rising order, and leaves that they run through: from origins (n, 3)
        along ways (n, 3), between so many lengths of them."""
        with np.errstate(divide="ignore"):
            inverse = 1.0 / ways
        top = len(self.low[-1])
        rays = np.repeat(np.arange(len(origins)), top)
        nodes = np.tile(np.arange(top), len(origins))
        for level in range(len(self.low) - 1, -1, -1):
            near, far = np.full(len(rays), begin), np.full(len(rays), end)
            # Axis by axis: that is several times as quick as over rows of three.
            for axis in range(3):
                from_, by = origins[rays, axis], inverse[rays, axis]
                with np.errstate(invalid="ignore"):
                    # Along a side it is 0 times infinity, which says nothing against the box.
                    a = (self.low[level][nodes, axis] - from_) * by
                    b = (self.high[level][nodes, axis] - from_) * by
                np.fmax(near, np.minimum(a, b), out=near)
                np.fmin(far, np.maximum(a, b), out=far)
            with np.errstate(invalid="ignore"):
                kept = near <= far + 1e-9 * np.abs(far)
            rays, nodes = rays[kept], nodes[kept]
            if level:
                rays, nodes = self._below(level, nodes, rays)
        return rays, nodes

    def _below(self, level: int, nodes: Ints, beside: Ints) -> tuple[Ints, Ints]:
        """What stands beside nodes, for each of the boxes in them, and these."""
        inner = (nodes[:, None] * _FAN + np.arange(_FAN)).ravel()
        there = inner < len(self.low[level - 1])
        return np.repeat(beside, _FAN)[there], inner[there]

    def meeting_itself(self, room: float) -> tuple[Ints, Ints]:
        """(k,), (k,) pairs of leaves, each once and each with itself, whose boxes come within
        ``room`` of each other."""
        one, other = np.triu_indices(len(self.low[-1]))
        one, other = self._near(len(self.low) - 1, one, other, room)
        for level in range(len(self.low) - 1, 0, -1):
            parts = [
                self._inner_pairs(level, one[at : at + _PAIRS], other[at : at + _PAIRS], room)
                for at in range(0, max(len(one), 1), _PAIRS)
            ]
            one = np.concatenate([part[0] for part in parts])
            other = np.concatenate([part[1] for part in parts])
        return one, other

    def _near(self, level: int, one: Ints, other: Ints, room: float) -> tuple[Ints, Ints]:
        """Of pairs of boxes those that come within ``room`` of each other."""
        low, high = self.low[level], self.high[level]
        kept = (low[one] <= high[other] + room).all(axis=1)
        kept &= (low[other] <= high[one] + room).all(axis=1)
        return one[kept], other[kept]

    def _inner_pairs(self, level: int, one: Ints, other: Ints, room: float) -> tuple[Ints, Ints]:
        """The pairs of boxes within pairs of a level."""
        other, one = self._below(level, one, other)
        one, other = self._below(level, other, one)
        once = one <= other
        return self._near(level - 1, one[once], other[once], room)

    def near_ray(self, origin: Floats, direction: Floats, radius: float, slope: float) -> Ints:
        """Triangles of leaves that come as near to a ray (direction of length one) as ``radius``
        plus ``slope`` times the way along it."""

        def keep(low: Floats, high: Floats) -> Mask:
            middle = (low + high) / 2 - origin
            half = np.linalg.norm(high - low, axis=1) / 2
            along = middle @ direction
            away = np.sqrt(np.maximum((middle**2).sum(axis=1) - along**2, 0.0))
            return np.asarray(away <= half + radius + slope * np.maximum(along + half, 0.0))

        return self.meeting(keep)

    def refitted(self, positions: Floats, triangles: Ints, touched: Mask | None) -> Index:
        """Triangles elsewhere, and more of them behind those there were. touched (t before,): which
        of those there were are others, or have other places; None: all."""
        count, before = len(triangles), len(self.triangles)
        more = np.arange(before, count, dtype=np.int32)
        order = np.concatenate([self.order, more, np.repeat(more[-1:], -len(more) % _LEAF)])
        if touched is None:
            return _fitted(positions, triangles, order)
        old = len(self.order) // _LEAF
        nodes = np.unique(self._leaf_of[touched])
        nodes = np.concatenate([nodes, np.arange(old, len(order) // _LEAF)])
        low, high = (_lengthened(boxes[0], len(more)) for boxes in (self.low, self.high))
        low[nodes], high[nodes] = _leaf_boxes(positions, triangles, order, nodes)
        if len(more):
            return Index(triangles, order, *_raised(low, high))
        lows, highs = [low], [high]
        for level in range(1, len(self.low)):
            nodes = np.unique(nodes // _FAN)
            below = (nodes[:, None] * _FAN + np.arange(_FAN)).clip(max=len(lows[-1]) - 1)
            low, high = self.low[level].copy(), self.high[level].copy()
            low[nodes], high[nodes] = lows[-1][below].min(axis=1), highs[-1][below].max(axis=1)
            lows.append(low)
            highs.append(high)
        made = Index(triangles, order, tuple(lows), tuple(highs))
        made.__dict__["_leaf_of"] = self._leaf_of
        return made


def _lengthened(boxes: Floats, triangles: int) -> Floats:
    """A copy with room for the leaves of so many more triangles."""
    return np.concatenate([boxes, np.zeros((-(-triangles // _LEAF), 3))])


def indexed(positions: Floats, triangles: Ints) -> Index:
    """The index of triangles (t, 3) of vertices (n, 3)."""
    count = len(triangles)
    if not count:
        empty = np.zeros((0, 3))
        return Index(triangles, np.zeros(0, np.int32), (empty,), (empty,))
    order = np.argsort(_along_curve(positions, triangles), kind="stable").astype(np.int32)
    short = -count % _LEAF
    order = np.concatenate([order, np.repeat(order[-1:], short)])
    return _fitted(positions, triangles, order)


def _along_curve(positions: Floats, triangles: Ints) -> Ints:
    """(t,) where on the curve the middle of each triangle lies."""
    low, high = extent(positions)
    step = np.maximum(high - low, 1e-12) / ((1 << _BITS) - 1)
    key = np.zeros(len(triangles), np.int32)
    for axis in range(3):
        # Three times the middle; what is exact here does not matter.
        column = ((positions[:, axis] - low[axis]) / (3 * step[axis])).astype(np.float32)
        where = column[triangles[:, 0]] + column[triangles[:, 1]] + column[triangles[:, 2]]
        key |= _spread(where.astype(np.int32)) << np.int32(axis)
    return key


def _spread(number: Ints) -> Ints:
    """Ten bits with two empty ones between each and the next."""
    n = number & np.int32(0x3FF)
    for shift, mask in ((16, 0x030000FF), (8, 0x0300F00F), (4, 0x030C30C3), (2, 0x09249249)):
        n = (n | (n << np.int32(shift))) & np.int32(mask)
    return np.asarray(n)


def _fitted(positions: Floats, triangles: Ints, order: Ints) -> Index:
    return Index(triangles, order, *_raised(*_leaf_boxes(positions, triangles, order)))


def _raised(low: Floats, high: Floats) -> tuple[tuple[Floats, ...], tuple[Floats, ...]]:
    """The boxes above boxes, level by level."""
    lows, highs = [low], [high]
    while len(lows[-1]) > _FAN:
        starts = np.arange(0, len(lows[-1]), _FAN)
        lows.append(np.minimum.reduceat(lows[-1], starts))
        highs.append(np.maximum.reduceat(highs[-1], starts))
    return tuple(lows), tuple(highs)


def _leaf_boxes(
    positions: Floats, triangles: Ints, order: Ints, leaves: Ints | None = None
) -> tuple[Floats, Floats]:
    rows = order.reshape(-1, _LEAF) if leaves is None else order.reshape(-1, _LEAF)[leaves]
    corners = triangles[rows.ravel()].reshape(len(rows), -1)
    low, high = np.empty((len(rows), 3)), np.empty((len(rows), 3))
    if leaves is not None:
        near = positions[corners]
        return near.min(axis=1), near.max(axis=1)
    for axis in range(3):
        values = np.ascontiguousarray(positions[:, axis])[corners]
        low[:, axis], high[:, axis] = values.min(axis=1), values.max(axis=1)
    return low, high
