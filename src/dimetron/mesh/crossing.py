"""Where a surface runs through itself: faces that other faces cross, and the lines they meet in."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.mesh import Mesh

#: Pairs of triangles that are looked at at once.
_PAIRS = 1_000_000
#: What only touches does not cross: it must go on by this share of the extent beyond a face.
_TOUCH = 1e-9


@dataclass(frozen=True, eq=False)
class Crossing:
    """pairs (k, 2): triangles that cross each other; lines (k, 2, 3): from where to where they
    do."""

    pairs: Ints
    lines: Floats


def crossing(mesh: Mesh, touching: bool = False) -> Crossing:
    """All pairs of triangles of a mesh that cross. Those that lie on each other do not, nor those
    that only touch; touching: where the edge between two faces lies in a third, it crosses that."""
    triangles, index = mesh.triangles, mesh.index
    found = [np.zeros((0, 2), np.int64)]
    lines = [np.zeros((0, 2, 3))]
    if len(triangles):
        size = float(np.ptp(mesh.bounds, axis=0).max())
        one, other = index.meeting_itself(_TOUCH * size)
        corner = mesh.positions[triangles]
        boxes = corner.min(axis=1), corner.max(axis=1)
        step = max(1, _PAIRS // index.leaf_size**2)
        for at in range(0, len(one), step):
            pairs = _near(mesh, boxes, one[at : at + step], other[at : at + step])
            crosses, ends = _crossed(mesh.positions, triangles, pairs, size, touching)
            found.append(pairs[crosses])
            lines.append(ends)
    # A leaf that is not full names its last triangle again.
    pairs, first = np.unique(np.concatenate(found), axis=0, return_index=True)
    return Crossing(pairs, np.concatenate(lines)[first])


def crossing_faces(mesh: Mesh) -> Ints:
    """(k,) faces that others cross."""
    hit = np.unique(crossing(mesh).pairs)
    return np.unique(mesh.topology.triangle_faces[hit]).astype(np.int32)


def _near(mesh: Mesh, boxes: tuple[Floats, Floats], one: Ints, other: Ints) -> Ints:
    """(k, 2) pairs of triangles in pairs of leaves whose own boxes, lowest and highest places
    (t, 3), meet, the lower first; those of one face are none, nor those that share an edge."""
    size, triangles = mesh.index.leaf_size, mesh.triangles
    a = np.repeat(mesh.index.in_leaves(one).reshape(-1, size), size, axis=1).ravel()
    b = np.tile(mesh.index.in_leaves(other).reshape(-1, size), (1, size)).ravel()
    pairs = np.stack([np.minimum(a, b), np.maximum(a, b)], axis=1)[a != b]
    low, high = boxes
    for axis in range(3):
        a, b = pairs.T
        pairs = pairs[(low[a, axis] <= high[b, axis]) & (low[b, axis] <= high[a, axis])]
    a, b = pairs.T
    shared = (triangles[a][:, :, None] == triangles[b][:, None, :]).sum(axis=(1, 2))
    kept = (shared < 2) & (mesh.topology.triangle_faces[a] != mesh.topology.triangle_faces[b])
    return np.asarray(pairs[kept])


def _crossed(
    positions: Floats, triangles: Ints, pairs: Ints, size: float, touching: bool
) -> tuple[Ints, Floats]:
    """Which pairs cross, and (k, 2, 3) the ends of the lines in which they do.

    Each must have corners on both sides of the other's plane, and what either has of the line in
    which both planes meet must have a part in common: the test of T. Möller (A Fast
    Triangle-Triangle Intersection Test, 1997).
    """
    one, other = (positions[triangles[pairs[:, side]]] for side in (0, 1))
    normals = [np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]) for t in (one, other)]
    long = [np.maximum(np.linalg.norm(n, axis=1), 1e-300) for n in normals]
    away = [
        np.einsum("nij,nj->ni", one - other[:, :1], normals[1] / long[1][:, None]),
        np.einsum("nij,nj->ni", other - one[:, :1], normals[0] / long[0][:, None]),
    ]
    sides = [_sides(off, _TOUCH * size, touching) for off in away]
    through = np.ones(len(pairs), bool)
    for side in sides:
        through &= (side > 0).any(axis=1) & (side < 0).any(axis=1)
    at = np.flatnonzero(through)
    way = np.cross(normals[0][at], normals[1][at])
    way /= np.maximum(np.linalg.norm(way, axis=1), 1e-300)[:, None]
    spans = [
        _span(corners[at], off[at], side[at], way)
        for corners, off, side in zip((one, other), away, sides, strict=True)
    ]
    begin = np.maximum(spans[0][0], spans[1][0])
    end = np.minimum(spans[0][1], spans[1][1])
    crosses = np.flatnonzero(end - begin > _TOUCH * size)
    # Both spans are measured from the world's origin along the way; the line lies elsewhere.
    root = spans[0][2][crosses]
    ends = np.stack([begin[crosses], end[crosses]], axis=1)
    lines = root[:, None] + ends[:, :, None] * way[crosses][:, None]
    return at[crosses], lines


def _sides(away: Floats, near: float, touching: bool) -> Ints:
    """(n, 3) on which side of a plane corners lie: 1, -1, or 0 for in it. touching: what lies in it
    counts as before it."""
    side = np.where(away > near, 1, np.where(away < -near, -1, 0))
    return np.where(side == 0, 1, side) if touching else side


def _span(corners: Floats, away: Floats, side: Ints, way: Floats) -> tuple[Floats, Floats, Floats]:
    """From where to where along a way (n, 3) triangles lie in the other's plane, and (n, 3) the
    place of the line that is nearest to the world's origin."""
    low, high = np.full(len(corners), np.inf), np.full(len(corners), -np.inf)
    root = np.zeros((len(corners), 3))
    for a, b in ((0, 1), (1, 2), (2, 0)):
        across = side[:, a] * side[:, b] <= 0
        across &= (side[:, a] != 0) | (side[:, b] != 0)
        rows = np.flatnonzero(across)
        gap = away[rows, a] - away[rows, b]
        share = np.clip(away[rows, a] / np.where(gap == 0, 1.0, gap), 0, 1)
        place = corners[rows, a] + share[:, None] * (corners[rows, b] - corners[rows, a])
        along = np.einsum("ij,ij->i", place, way[rows])
        low[rows], high[rows] = np.minimum(low[rows], along), np.maximum(high[rows], along)
        root[rows] = place - along[:, None] * way[rows]
    return low, high, root
