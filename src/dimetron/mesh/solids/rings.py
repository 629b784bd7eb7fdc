"""Meshes of rings of points one after the other, joined by quads."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.topology import topology_of


def skin(rings: int, around: int, ring_closed: bool = True, row_closed: bool = False) -> Ints:
    """(q, 4) quads between rings of ``around`` points each, numbered ring by ring; closed around,
    and from the last ring to the first."""
    rows = np.arange(rings if row_closed else rings - 1)
    columns = np.arange(around if ring_closed else around - 1)
    i, j = np.repeat(rows, len(columns)), np.tile(columns, len(rows))
    next_i, next_j = (i + 1) % rings, (j + 1) % around
    corners = [i * around + j, i * around + next_j, next_i * around + next_j, next_i * around + j]
    return np.stack(corners, axis=1)


def assembled(points: Floats, quads: Sequence[Ints], others: Sequence[Sequence[int]] = ()) -> Mesh:
    """A mesh of quads and of faces with other numbers of corners, turned so that its volume is not
    negative. Quads with two corners in one place become triangles."""
    whole: list[Ints] = []
    odd: list[list[int]] = []
    for part in quads:
        same = (part == np.roll(part, -1, axis=1)).any(axis=1)
        whole.append(part[~same])
        odd.extend(part[same].tolist())
    even = np.concatenate([*whole, np.empty((0, 4), np.int64)])
    rest = [ring for face in (*odd, *others) if len(ring := distinct(list(face))) > 2]
    if _volume(points, even, rest) < 0:
        even, rest = even[:, ::-1], [ring[::-1] for ring in rest]
    corners = np.concatenate([even.ravel(), [v for ring in rest for v in ring]])
    sizes = np.concatenate([np.full(len(even), 4), [len(ring) for ring in rest]])
    return Mesh(points, topology_of(sizes, corners, len(points)))


def merged(points: Floats) -> tuple[Floats, Ints]:
    """Points (n, 3) without those that lie where another one does, to a millionth of the whole, and
    of each given one the number of what is left for it."""
    grain = max(float(np.ptp(points, axis=0).max()), 1e-12) * 1e-7
    _, first, at = np.unique(
        np.rint(points / grain), axis=0, return_index=True, return_inverse=True
    )
    return points[first], at.reshape(-1)


def distinct(face: list[int]) -> list[int]:
    """Corners of a face without those that repeat the one before."""
    return [v for k, v in enumerate(face) if v != face[k - 1]]


def _volume(points: Floats, quads: Ints, others: Sequence[Sequence[int]]) -> float:
    """Six times the signed volume within faces: of fans from their first corners."""
    at = points - points.mean(axis=0)
    fans = [quads[:, [0, k, k + 1]] for k in (1, 2)]
    fans += [
        np.array([[ring[0], *ring[k : k + 2]] for k in range(1, len(ring) - 1)]) for ring in others
    ]
    a, b, c = (at[np.concatenate(fans)[:, k]] for k in range(3))
    return float((a * np.cross(b, c)).sum())
