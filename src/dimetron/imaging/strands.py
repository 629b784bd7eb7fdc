"""Thin lines of pixels taken apart into strands: runs between ends and crossings, in order."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array, csr_array
from scipy.sparse.csgraph import connected_components, dijkstra

Mask = NDArray[np.bool_]
Points = NDArray[np.float64]
Ints = NDArray[np.intp]
#: Neighbours to the right and below, those beside before those across.
_STEPS = ((1, 0), (0, 1), (1, 1), (-1, 1))


@dataclass(frozen=True, slots=True, eq=False)
class Strand:
    """pixels (n, 2): (column, row), in order. ends: the knot at either end, -1 where it is free;
    a ring has none and closes on itself."""

    pixels: Ints
    ends: tuple[int, int]
    ring: bool = False


@dataclass(frozen=True, slots=True, eq=False)
class Strands:
    """knots (k, 2): where strands meet, (column, row), pixel centres at whole numbers."""

    strands: tuple[Strand, ...]
    knots: Points


def strands_of(lines: Mask) -> Strands:
    """Take lines (h, w) one pixel wide apart."""
    pixels, links = linked(lines)
    if not len(pixels):
        return Strands((), np.zeros((0, 2)))
    degree = np.bincount(links.ravel(), minlength=len(pixels))
    crossing = degree > 2
    labels = _together(len(pixels), links[crossing[links].all(axis=1)])
    knot = np.where(crossing, np.unique(np.where(crossing, labels, -1), return_inverse=True)[1], -1)
    knot -= knot[crossing].min() if crossing.any() else 0
    knot[~crossing] = -1
    counts = np.bincount(knot[crossing]) if crossing.any() else np.zeros(0, np.intp)
    knots = np.stack(
        [
            np.bincount(knot[crossing], pixels[crossing, axis]) / np.maximum(counts, 1)
            for axis in (0, 1)
        ],
        axis=1,
    ) if crossing.any() else np.zeros((0, 2))  # fmt: skip
    return Strands(tuple(_runs(pixels, links, knot)), knots)


def linked(lines: Mask) -> tuple[Ints, Ints]:
    """The pixels (n, 2) of thin lines, and which of them follow one another (m, 2). Across a corner
    only where nothing beside both leads there."""
    h, w = lines.shape
    number = np.full((h + 2, w + 2), -1, np.intp)
    rows, columns = np.nonzero(lines)
    number[rows + 1, columns + 1] = np.arange(len(rows))
    found = []
    for dx, dy in _STEPS:
        there = number[rows + 1 + dy, columns + 1 + dx]
        good = there >= 0
        if dx and dy:
            beside = number[rows + 1, columns + 1 + dx] < 0
            good &= beside & (number[rows + 1 + dy, columns + 1] < 0)
        found.append(np.stack([np.flatnonzero(good), there[good]], axis=1))
    return np.stack([columns, rows], axis=1), np.concatenate(found)


def _together(count: int, links: Ints) -> Ints:
    ones = np.ones(len(links), np.int8)
    graph = coo_array((ones, (links[:, 0], links[:, 1])), shape=(count, count))
    return np.asarray(connected_components(graph, directed=False)[1], np.intp)


def _runs(pixels: Ints, links: Ints, knot: Ints) -> list[Strand]:
    """The strands between knots: each in order from one of its ends."""
    count = len(pixels)
    plain = knot < 0
    own = links[plain[links].all(axis=1)]
    labels = _together(count, own)
    degree = np.bincount(own.ravel(), minlength=count)
    starts = np.flatnonzero(plain & (degree < 2))
    # A ring begins anywhere: it is opened there.
    first = np.unique(labels[plain], return_index=True)
    members = np.flatnonzero(plain)[first[1]]
    ringed = ~np.isin(first[0], labels[starts])
    cut = members[ringed]
    starts = np.concatenate([starts, cut])
    opened = _opened(own, cut)
    at = np.unique(labels[starts], return_index=True)[1]
    order = _from_starts(count, opened, starts[at])
    strands = []
    touching = _touching(links, knot)
    inside = np.flatnonzero(plain & np.isfinite(order))
    by = np.lexsort((order[inside], labels[inside]))
    inside = inside[by]
    edges = np.flatnonzero(np.diff(labels[inside])) + 1
    rings = set(labels[cut].tolist())
    for run in np.split(inside, edges):
        ring = int(labels[run[0]]) in rings
        ends = (-1, -1) if ring else _ends(run, touching)
        strands.append(Strand(pixels[run], ends, ring))
    return strands


def _opened(links: Ints, cut: Ints) -> Ints:
    """Links without one of the two at each pixel where a ring is opened."""
    if not len(cut):
        return links
    at = np.full(int(links.max()) + 1, False)
    at[cut] = True
    touches = at[links].any(axis=1)
    who = np.where(at[links[touches, 0]], links[touches, 0], links[touches, 1])
    drop = np.flatnonzero(touches)[np.unique(who, return_index=True)[1]]
    return np.delete(links, drop, axis=0)


def _from_starts(count: int, links: Ints, starts: Ints) -> Points:
    """How many steps every pixel lies from the start of its own run; inf beside all of them."""
    virtual = np.full(len(starts), count)
    a = np.concatenate([links[:, 0], virtual])
    b = np.concatenate([links[:, 1], starts])
    graph = csr_array((np.ones(len(a)), (a, b)), shape=(count + 1, count + 1))
    steps = dijkstra(graph, directed=False, indices=count, unweighted=True)
    return np.asarray(steps[:count], np.float64)


def _touching(links: Ints, knot: Ints) -> dict[int, list[int]]:
    """The knots that a pixel beside a knot touches."""
    found: dict[int, list[int]] = {}
    a, b = knot[links[:, 0]], knot[links[:, 1]]
    for plain, of in ((0, b), (1, a)):
        mixed = (a >= 0) != (b >= 0)
        mixed &= of >= 0
        for pixel, which in zip(links[mixed, plain].tolist(), of[mixed].tolist(), strict=True):
            found.setdefault(pixel, []).append(which)
    return found


def _ends(run: Ints, touching: dict[int, list[int]]) -> tuple[int, int]:
    first = touching.get(int(run[0]), [])
    last = touching.get(int(run[-1]), [])
    if len(run) == 1:
        both = [*first, -1, -1]
        return both[0], both[1]
    return first[0] if first else -1, last[0] if last else -1
