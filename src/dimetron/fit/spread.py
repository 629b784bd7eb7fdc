"""The miss at the outlines told to all of a mesh: what lies near an outline shares what it is off
there."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from dimetron.fit.miss import Miss
from dimetron.fit.modelled import Modelled
from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.mesh import Mesh

#: A place shares what so many of the outline are off, the nearest ones most.
_SHARED = 48
#: Nearer than this share of the extent all count alike.
_SOFT = 0.02
#: Of so many rows of vertices one is eased out once.
_EASED = 0.25


@dataclass(frozen=True, eq=False)
class OffAt:
    """Places along an outline: a vertex (k,) each lies by, by the order of what is modelled; where
    they are in space (k, 3); and by how much (k,) mm they are off: positive where they stand
    out."""

    vertices: Ints
    places: Floats
    off: Floats


def off_at(outline: Modelled, miss: Miss) -> OffAt:
    """What places along the outline of what is modelled are off."""
    off = miss.modelled
    edge, _ = outline.nearest_edges(off.places)
    return OffAt(outline.edges[edge, 0], outline.in_space(off.places), off.off)


def among(found: list[OffAt], first: int, after: int) -> list[OffAt]:
    """Of the vertices from first on, before after: those of one mesh among several."""
    kept = []
    for one in found:
        mine = (one.vertices >= first) & (one.vertices < after)
        kept.append(OffAt(one.vertices[mine], one.places[mine], one.off[mine]))
    return kept


def told_to(mesh: Mesh, found: list[OffAt]) -> Floats:
    """(n,) what each vertex of a mesh shares of what its outlines are off, mm: nothing if there are
    none. Between outlines it goes over from one to the other."""
    told, t = spread(mesh.positions, found), mesh.topology
    # The finer a mesh, the more vertices lie between outlines.
    for _ in range(int(np.sqrt(len(told)) * _EASED)):
        sums = np.bincount(t.edges.ravel(), told[t.edges[:, ::-1].ravel()], len(told))
        told = np.where(t.valence > 0, (told + sums / np.maximum(t.valence, 1)) / 2, told)
    return told


def spread(positions: Floats, found: list[OffAt]) -> Floats:
    """(n,) what places (n, 3) share of what outlines are off, mm; nothing if there are none."""
    places = np.concatenate([np.zeros((0, 3)), *(one.places for one in found)])
    if not len(places):
        return np.zeros(len(positions))
    off = np.concatenate([one.off for one in found])
    count = min(_SHARED, len(places))
    away, near = cKDTree(places).query(positions, k=count)
    away, near = away.reshape(len(positions), count), near.reshape(len(positions), count)
    size = max(float(np.ptp(places, axis=0).max()), 1e-9)
    weights = 1.0 / (away**2 + (_SOFT * size) ** 2)
    return np.asarray((off[near] * weights).sum(axis=1) / weights.sum(axis=1))
