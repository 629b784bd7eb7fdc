"""The places of a surface that lie nearest to points."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.mesh import Mesh

#: So many samples near a point are looked at.
_TRIED = 8
#: Samples of a surface in all.
_SAMPLES = 400_000


class Nearest(NamedTuple):
    """positions (k, 3) on the surface, and (k,) of which face each is."""

    positions: Floats
    faces: Ints


class Surface:
    """A mesh's surface, sampled so that what lies nearest can be looked up often."""

    def __init__(self, mesh: Mesh, fine: float) -> None:
        self._mesh = mesh
        a, b, c = (mesh.positions[mesh.triangles[:, k]] for k in range(3))
        longest = np.max([np.linalg.norm(p - q, axis=1) for p, q in ((a, b), (b, c), (c, a))], 0)
        steps = np.ceil(longest / fine).clip(1, None)
        while float((steps**2).sum()) > _SAMPLES and fine > 0:
            fine *= 1.5
            steps = np.ceil(longest / fine).clip(1, None)
            if (steps == 1).all():
                break
        points, owner = [], []
        for count in np.unique(steps).astype(int).tolist():
            mine = np.flatnonzero(steps == count)
            u, v = _spread(count)
            w = 1 - u - v
            points.append(
                a[mine][:, None] * w[:, None] + b[mine][:, None] * u[:, None]
                + c[mine][:, None] * v[:, None]
            )  # fmt: skip
            owner.append(np.repeat(mine, len(u)))
        from scipy.spatial import cKDTree  # takes a while; only what asks for surfaces needs it

        self._tree = cKDTree(np.concatenate([p.reshape(-1, 3) for p in points]))
        self._owner = np.concatenate(owner)

    def nearest(self, points: Floats) -> Nearest:
        """What of the surface lies nearest to points (k, 3): exactly so among the triangles whose
        samples lie nearest."""
        tried = min(_TRIED, self._tree.n)
        at = np.asarray(self._tree.query(points, tried)[1]).reshape(len(points), tried)
        triangles = self._owner[at]
        best = np.full(len(points), np.inf)
        found, which = points.copy(), np.zeros(len(points), np.int64)
        for column in triangles.T:
            place = on_triangles(points, *(self._corners(column, k) for k in range(3)))
            away = ((place - points) ** 2).sum(axis=1)
            nearer = away < best
            best[nearer], found[nearer], which[nearer] = away[nearer], place[nearer], column[nearer]
        return Nearest(found, self._mesh.topology.triangle_faces[which])

    def _corners(self, triangles: Ints, corner: int) -> Floats:
        return np.asarray(self._mesh.positions[self._mesh.triangles[triangles, corner]])


def _spread(count: int) -> tuple[Floats, Floats]:
    """Places within a triangle, ``count`` along each side, by two of their weights."""
    u, v = np.meshgrid(np.arange(count), np.arange(count), indexing="ij")
    inner = u + v < count
    return (u[inner] + 1 / 3) / count, (v[inner] + 1 / 3) / count


def on_triangles(p: Floats, a: Floats, b: Floats, c: Floats) -> Floats:
    """(k, 3) the place of each triangle that lies nearest to a point: within it, or on the nearest
    of its sides."""
    ab, ac, ap = b - a, c - a, p - a
    d00, d01, d11 = (ab * ab).sum(1), (ab * ac).sum(1), (ac * ac).sum(1)
    d20, d21 = (ap * ab).sum(1), (ap * ac).sum(1)
    area = np.maximum(d00 * d11 - d01 * d01, 1e-300)
    v, w = (d11 * d20 - d01 * d21) / area, (d00 * d21 - d01 * d20) / area
    inside = (v >= 0) & (w >= 0) & (v + w <= 1)
    found = a + ab * v[:, None] + ac * w[:, None]
    best = np.where(inside, -1.0, np.inf)
    for begin, end in ((a, b), (b, c), (c, a)):
        way = end - begin
        long = np.maximum((way * way).sum(1), 1e-300)
        t = (((p - begin) * way).sum(1) / long).clip(0, 1)
        place = begin + way * t[:, None]
        away = ((place - p) ** 2).sum(1)
        nearer = away < best
        found[nearer], best[nearer] = place[nearer], away[nearer]
    return np.asarray(found)
