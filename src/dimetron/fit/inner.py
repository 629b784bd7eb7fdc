"""How far lines within the outline lie off the lines that are drawn: one way, from the mesh's to
the nearest drawn ones."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.spatial import cKDTree

from dimetron.fit.figures import kept_within, mean_of
from dimetron.fit.miss import Drawn
from dimetron.geometry.segments import nearest_on
from dimetron.mesh.arrays import Floats, MeshError

#: Lines are looked at in so many places along the extent of what is drawn.
_FINE = 800


class Strokes:
    """All lines that are drawn, open ones (n, 2), of which what is nearest to a place is found."""

    def __init__(self, lines: Sequence[Floats], step: float) -> None:
        parts = [_dense(line, step)[0] for line in lines if len(line) > 1]
        self.points = np.concatenate([np.zeros((0, 2)), *parts])
        sizes = np.array([len(part) for part in parts], np.intp)
        #: (n,) whether another place of the same line follows.
        self._goes_on = np.ones(len(self.points), bool)
        self._goes_on[np.cumsum(sizes) - 1] = False

    @cached_property
    def _tree(self) -> cKDTree:
        return cKDTree(self.points)

    def nearest(self, places: Floats) -> tuple[Floats, Floats]:
        """(m, 2) what of the lines is nearest to places (m, 2), and (m,) how far off it is."""
        near = self._tree.query(places)[1]
        best, away = self.points[near].copy(), np.full(len(places), np.inf)
        last = len(self.points) - 1
        for begin in (near, np.maximum(near - 1, 0)):
            there = self._goes_on[begin]
            a, b = (
                self.points[begin],
                self.points[np.where(there, np.minimum(begin + 1, last), begin)],
            )
            share, off = nearest_on(places, a, b)
            closer = off < away
            best[closer] = (a + share[:, None] * (b - a))[closer]
            away[closer] = off[closer]
        return best, away


@dataclass(frozen=True, eq=False)
class InnerMiss:
    """Places (n, 2) along the mesh's lines, what of the drawn ones is nearest (n, 2), how far off
    it is (n,) mm, and weights (n,): mm of line that each speaks for."""

    places: Floats
    nearest: Floats
    off: Floats
    weights: Floats

    @property
    def mean(self) -> float:
        """mm, by length."""
        return mean_of(self.off, self.weights)

    @property
    def p95(self) -> float:
        """mm that 95 % of the lines keep within."""
        return kept_within(self.off, self.weights, 0.95)

    @property
    def largest(self) -> float:
        """mm."""
        return float(self.off.max())

    @property
    def at(self) -> Floats:
        """(2,) where the mesh's lines lie farthest from what is drawn."""
        return np.asarray(self.places[int(self.off.argmax())])


def inner_missed(modelled: Sequence[Floats], strokes: Sequence[Floats], drawn: Drawn) -> InnerMiss:
    """modelled: the mesh's lines (n, 2) in the view's plane; strokes: all that are drawn (n, 2);
    drawn: of what is within them, and what is left out. Raises MeshError if there are none of
    either, or all are left out."""
    if not strokes:
        raise MeshError("No line is drawn here; go by its outline.")
    step = drawn.size / _FINE
    parts = [_dense(line, step) for line in modelled if len(line) > 1]
    places = np.concatenate([np.zeros((0, 2)), *(part[0] for part in parts)])
    weights = np.concatenate([np.zeros(0), *(part[1] for part in parts)])
    kept = drawn.counts(places)
    if not kept.any() or not weights[kept].sum() > 0:
        raise MeshError("The meshes have no creases, borders or sharp edges that are seen here.")
    places, weights = places[kept], weights[kept]
    nearest, off = Strokes(strokes, step).nearest(places)
    return InnerMiss(places, nearest, off, weights)


def _dense(line: Floats, step: float) -> tuple[Floats, Floats]:
    """An open line by places no farther apart than ``step``, and how much of it each speaks for."""
    way = line[1:] - line[:-1]
    long = np.hypot(*way.T)
    counts = np.maximum(1, np.ceil(long / step)).astype(np.intp)
    which = np.repeat(np.arange(len(way)), counts)
    first = np.repeat(np.cumsum(counts) - counts, counts)
    t = (np.arange(len(which)) - first) / counts[which]
    places = np.concatenate([line[which] + t[:, None] * way[which], line[-1:]])
    each = np.concatenate([(long / counts)[which], [0.0]])
    return places, (each + np.concatenate([[0.0], each[:-1]])) / 2
