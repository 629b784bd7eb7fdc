"""Closed outlines as lines that know which of their places is nearest, and on which side one is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import manifold3d
import numpy as np
from scipy.spatial import cKDTree

from dimetron.geometry.segments import nearest_on
from dimetron.mesh.arrays import Floats, Ints, Mask
from dimetron.mesh.solids.manifolds import joined_section, section_of
from dimetron.mesh.solids.within import dense, signed_area

#: Corners stay sharp up to so many reaches from where their sides would have ended.
_SHARP = 5.0


@dataclass(frozen=True, eq=False)
class Near:
    """places (m, 2) of a line that are nearest to others, how far off (m,) they are, and which of
    the others lie within (m,) what the line encloses."""

    places: Floats
    off: Floats
    within: Mask


class Line:
    """loops: closed polygons (n, 2), counter-clockwise round what they enclose, the other way round
    holes; step: how far apart its places are at most."""

    def __init__(self, loops: Sequence[Floats], step: float) -> None:
        self.loops = tuple(loops)
        parts = [dense(loop, step) for loop in loops]
        self.points = np.concatenate([np.zeros((0, 2)), *parts])
        sizes = np.array([len(part) for part in parts], np.intp)
        first = np.repeat(np.cumsum(sizes) - sizes, sizes)
        at = np.arange(len(self.points)) - first
        size = np.repeat(sizes, sizes)
        self.after: Ints = first + (at + 1) % np.maximum(size, 1)
        self.before: Ints = first + (at - 1) % np.maximum(size, 1)
        long = np.hypot(*(self.points[self.after] - self.points).T)
        #: (n,) of how much of the line each of its places speaks, mm.
        self.weights = (long + long[self.before]) / 2

    @cached_property
    def _tree(self) -> cKDTree:
        return cKDTree(self.points)

    @cached_property
    def _normals(self) -> Floats:
        """(n, 2) out of what is enclosed, at the edges that begin at each place."""
        way = self.points[self.after] - self.points
        long = np.maximum(np.hypot(*way.T), 1e-30)[:, None]
        return np.asarray(np.stack([way[:, 1], -way[:, 0]], axis=1) / long)

    def nearest(self, others: Floats) -> Near:
        """What of it is nearest to places (m, 2)."""
        near = self._tree.query(others)[1]
        here = self.points[near]
        to, back = self.points[self.after[near]], self.points[self.before[near]]
        share_on, off_on = nearest_on(others, here, to)
        share_back, off_back = nearest_on(others, here, back)
        ahead = off_on <= off_back
        share = np.where(ahead, share_on, share_back)
        places = here + share[:, None] * (np.where(ahead[:, None], to, back) - here)
        on, behind = self._normals[near], self._normals[self.before[near]]
        normal = np.where(ahead[:, None], on, behind)
        # At a corner both of its sides have a say.
        normal = np.where((share <= 0)[:, None], on + behind, normal)
        off = np.where(ahead, off_on, off_back)
        within = ((others - places) * normal).sum(axis=1) < 0
        return Near(places, off, within)


def size_of(loops: Sequence[Floats]) -> float:
    """The larger extent of some loops, mm."""
    return float(np.ptp(np.concatenate(loops), axis=0).max())


def upright(loops: Sequence[Floats]) -> tuple[Floats, ...]:
    """Loops that run whichever way, as lines have them: one within another is a hole. Raises
    MeshError if they enclose nothing."""
    return tuple(np.asarray(loop, np.float64) for loop in section_of(loops).to_polygons())


def outer(loops: Sequence[Floats]) -> tuple[Floats, ...]:
    """Without holes, and without what lies in them."""
    found = [loop for loop in loops if signed_area(loop) > 0]
    return tuple(np.asarray(loop, np.float64) for loop in joined_section(found).to_polygons())


def evened(loops: Sequence[Floats], notch: float, spur: float) -> tuple[Floats, ...]:
    """Without notches that are narrower than twice ``notch`` mm, and spurs than twice ``spur``;
    corners stay sharp. As they were if nothing would be left."""
    section = joined_section(loops)
    for by in (notch, -notch - spur, spur):
        section = section.offset(by, manifold3d.JoinType.Miter, _SHARP)
    found = tuple(np.asarray(loop, np.float64) for loop in section.to_polygons())
    return found or tuple(loops)
