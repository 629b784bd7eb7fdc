"""Meshes of rings of points one after the other, joined by quads."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.mesh import Mesh, from_faces


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
    faces: list[list[int]] = []
    for part in quads:
        same = (part == np.roll(part, -1, axis=1)).any(axis=1)
        faces.extend(part[~same].tolist())
        faces.extend([distinct(face) for face in part[same].tolist()])
    faces.extend(distinct(list(face)) for face in others)
    faces = [face for face in faces if len(face) > 2]
    if _volume(points, faces) < 0:
        faces = [face[::-1] for face in faces]
    return from_faces(points, faces)


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


def _volume(points: Floats, faces: Sequence[Sequence[int]]) -> float:
    """Six times the signed volume within faces: of fans from their first corners."""
    middle = points.mean(axis=0)
    total = 0.0
    for size in {len(face) for face in faces}:
        rows = np.array([face for face in faces if len(face) == size])
        at = points[rows] - middle
        for k in range(1, size - 1):
            cross = np.cross(at[:, k], at[:, k + 1])
            total += float((at[:, 0] * cross).sum())
    return total
