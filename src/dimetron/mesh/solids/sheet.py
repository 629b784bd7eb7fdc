"""A flat sheet within outlines: as one face, or as even quads that follow them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.spatial import cKDTree

from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, Ints, Mask, MeshError
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.solids.manifolds import section_of
from dimetron.mesh.solids.within import dense, within

#: How often points within are put amid their neighbours.
_ROUNDS = 12
#: More quads than this are refused.
_MOST = 2_000_000
#: A corner of an outline turns by so much.
_SHARP_DEG = 30.0


def one_face(loop: Floats, view: AnyView, depth: float) -> Mesh:
    """A loop (n, 2) as a single face that looks toward the eye. Raises MeshError."""
    section = section_of([loop])
    if section.num_contour() != 1:
        raise MeshError("This outline crosses itself; it makes no single face.")
    ring = np.asarray(section.to_polygons()[0])
    return from_faces(view.to_world(ring, depth), [list(range(len(ring)))])


def even_sheet(loops: Sequence[Floats], view: AnyView, depth: float, size: float) -> Mesh:
    """Quads about ``size`` mm large within loops (n, 2), of which one within another is a hole;
    their rim lies on the loops. Raises MeshError."""
    if not size > 0:
        raise MeshError("The size of the quads must be more than nothing.")
    section_of(loops)
    points = np.concatenate(loops)
    low, high = points.min(axis=0) - size, points.max(axis=0) + size
    columns, rows = (int(np.ceil(s / size)) + 1 for s in high - low)
    if columns * rows > _MOST:
        raise MeshError("Quads so small would be too many; choose larger ones.")
    middle = [(loop - low) / size - 0.5 for loop in loops]
    cells = _sound(within(middle, rows, columns))
    if not cells.any():
        raise MeshError("Quads so large find no room in these outlines; choose smaller ones.")
    plane, quads = _grid(cells, low, size)
    rim = _rim(quads, len(plane))
    plane = _onto(plane, rim, loops, size)
    plane = _relaxed(plane, quads, rim)
    return from_faces(view.to_world(plane, depth), quads)


def _sound(cells: Mask) -> Mask:
    """Without cells that touch others only at a corner."""
    cells = np.pad(cells, 1)
    for _ in range(8):
        a, b, c, d = cells[:-1, :-1], cells[:-1, 1:], cells[1:, :-1], cells[1:, 1:]
        crossed = (a & d & ~b & ~c) | (~a & ~d & b & c)
        if not crossed.any():
            break
        for part in (a, b, c, d):
            part |= crossed
    return cells[1:-1, 1:-1]


def _grid(cells: Mask, low: Floats, size: float) -> tuple[Floats, Ints]:
    rows, columns = np.nonzero(cells)
    wide = cells.shape[1] + 1
    corners = rows * wide + columns
    quads = np.stack([corners, corners + 1, corners + wide + 1, corners + wide], axis=1)
    used, compact = np.unique(quads, return_inverse=True)
    plane = np.stack([used % wide, used // wide], axis=1) * size + low
    return plane, compact.reshape(quads.shape).astype(np.int32)


def _rim(quads: Ints, count: int) -> Mask:
    """Which points lie on an edge of a single quad."""
    a, b = quads.ravel(), np.roll(quads, -1, axis=1).ravel()
    key = np.minimum(a, b).astype(np.int64) * count + np.maximum(a, b)
    kinds, times = np.unique(key, return_counts=True)
    rim = np.zeros(count, bool)
    lone = kinds[times == 1]
    rim[lone // count] = rim[lone % count] = True
    return rim


def _onto(plane: Floats, rim: Mask, loops: Sequence[Floats], size: float) -> Floats:
    """Rim points on the nearest place of the outlines, corners taken by the nearest of them."""
    plane = plane.copy()
    line = np.concatenate([dense(loop, size / 12) for loop in loops])
    which = np.flatnonzero(rim)
    plane[which] = line[cKDTree(line).query(plane[which])[1]]
    for loop in loops:
        for corner in _sharp(loop):
            away = np.hypot(*(plane[which] - corner).T)
            nearest = int(np.argmin(away))
            if away[nearest] < size:
                plane[which[nearest]] = corner
    return plane


def _sharp(loop: Floats) -> Floats:
    on, back = np.roll(loop, -1, axis=0) - loop, loop - np.roll(loop, 1, axis=0)
    cosine = (on * back).sum(axis=1) / np.maximum(np.hypot(*on.T) * np.hypot(*back.T), 1e-12)
    return np.asarray(loop[cosine < np.cos(np.radians(_SHARP_DEG))])


def _relaxed(plane: Floats, quads: Ints, rim: Mask) -> Floats:
    a, b = quads.ravel(), np.roll(quads, -1, axis=1).ravel()
    ends, starts = np.concatenate([a, b]), np.concatenate([b, a])
    counts = np.bincount(ends, minlength=len(plane))[:, None]
    for _ in range(_ROUNDS):
        sums = np.stack(
            [np.bincount(ends, plane[starts, k], minlength=len(plane)) for k in (0, 1)], axis=1
        )
        plane = np.where(rim[:, None], plane, sums / counts)
    return plane
