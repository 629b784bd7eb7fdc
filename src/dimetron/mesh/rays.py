"""Many rays at once: what each meets first.

A ray meets a triangle as T. Möller and B. Trumbore published it (Fast, Minimum Storage Ray-Triangle
Intersection, 1997); all rays go down the mesh's boxes together, level by level.
"""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.index import Index

#: Rays that go down the boxes together, and pairs of rays and triangles that are looked at at once.
_RAYS, _PAIRS = 4096, 400_000


def first_met(
    index: Index,
    positions: Floats,
    origins: Floats,
    ways: Floats,
    begin: float,
    end: float,
    parts: tuple[Ints, Ints] | None = None,
) -> tuple[Floats, Ints]:
    """(n,) how far along each ray from origins (n, 3) along ways (n, 3) the first triangle lies,
    between ``begin`` and ``end`` in lengths of its way, and (n,) which; infinity and -1 of none.
    parts: numbers (n,) of rays and (t,) of triangles: only those of its own number count, and all
    for -1."""
    away, which = np.full(len(origins), np.inf), np.full(len(origins), -1, np.int64)
    if not len(index.triangles):
        return away, which
    for at in range(0, len(origins), _RAYS):
        some = slice(at, at + _RAYS)
        rays, leaves = index.boxes_on(origins[some], ways[some], begin, end)
        step = max(1, _PAIRS // index.leaf_size)
        for first in range(0, len(rays), step):
            part = slice(first, first + step)
            triangles = index.in_leaves(leaves[part])
            ray = at + np.repeat(rays[part], index.leaf_size)
            t = met(positions[index.triangles[triangles]], origins[ray], ways[ray])
            t[(t < begin) | (t > end)] = np.inf
            if parts is not None:
                own, others = parts[0][ray], parts[1][triangles]
                t[(own != others) & (own >= 0) & (others >= 0)] = np.inf
            _keep_nearest(away, which, ray, t, triangles)
    return away, which


def _keep_nearest(away: Floats, which: Ints, ray: Ints, t: Floats, triangles: Ints) -> None:
    """ray (k,) in rising order."""
    kept = np.flatnonzero(np.isfinite(t))
    order = kept[np.lexsort((t[kept], ray[kept]))]
    first = order[np.diff(ray[order], prepend=-1) > 0]
    nearer = first[t[first] < away[ray[first]]]
    away[ray[nearer]], which[ray[nearer]] = t[nearer], triangles[nearer]


def met(corners: Floats, origins: Floats, ways: Floats) -> Floats:
    """(k,) how far along rays, in lengths of their ways (k, 3), triangles of corners (k, 3, 3) are
    met; not a number where they are not."""
    a = corners[:, 0]
    one, two = corners[:, 1] - a, corners[:, 2] - a
    p = np.cross(ways, two)
    det = np.einsum("ij,ij->i", one, p)
    with np.errstate(divide="ignore", invalid="ignore"):
        to = origins - a
        u = np.einsum("ij,ij->i", to, p) / det
        q = np.cross(to, one)
        v = np.einsum("ij,ij->i", ways, q) / det
        t = np.einsum("ij,ij->i", two, q) / det
        there = (u >= 0) & (v >= 0) & (u + v <= 1)
    return np.where(there, t, np.nan)
