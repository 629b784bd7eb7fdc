"""Shapes round an upright axis, made of a profile."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import by_name
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.topology import topology_of

#: A profile point nearer to the axis than this stands on it.
_ON_AXIS = 1e-9

ENDS = (("quads", "quads"), ("face", "one face"), ("fan", "triangles"), ("open", "open"))


def revolved(profile: Floats, sides: int, closed: bool = False) -> Mesh:
    """profile (k, 2): radius and height, from below upward, the outside to its right; closed: its
    last point leads on to its first. Faces look outward. A point on the axis is one vertex."""
    turn = 2 * np.pi * np.arange(sides) / sides
    rings: list[Ints] = []
    points: list[Floats] = []
    count = 0
    for radius, height in profile.tolist():
        if radius < _ON_AXIS:
            rings.append(np.full(sides, count))
            points.append(np.array([[0.0, 0.0, height]]))
            count += 1
            continue
        rings.append(count + np.arange(sides))
        ring = np.stack([radius * np.cos(turn), radius * np.sin(turn), np.full(sides, height)], 1)
        points.append(ring)
        count += sides
    steps = list(pairwise(rings))
    if closed:
        steps.append((rings[-1], rings[0]))
    bands = [_band(low, high) for low, high in steps]
    sizes = np.concatenate([np.full(len(band), band.shape[1]) for band in bands])
    corners = np.concatenate([band.ravel() for band in bands])
    return Mesh(np.concatenate(points), topology_of(sizes, corners, count))


def _band(low: Ints, high: Ints) -> Ints:
    """(k, 4) between two rings, or (k, 3) to a single point."""
    a, b, c, d = low, np.roll(low, -1), np.roll(high, -1), high
    if low[0] == low[-1]:
        return np.stack([a, c, d], axis=1)
    if high[0] == high[-1]:
        return np.stack([a, b, d], axis=1)
    return np.stack([a, b, c, d], axis=1)


def capped(mesh: Mesh, ends: str) -> Mesh:
    """With its borders closed: ends as in ``ENDS``; quads need an even number of sides, and are
    one face where it is odd."""
    borders = np.flatnonzero(mesh.topology.edge_face_count == 1)
    if ends == "open" or not len(borders):
        return mesh
    fill = by_name("fill-holes")
    by = {"quads": "grid", "face": "face", "fan": "fan"}[ends]
    chosen = Selection(Kind.EDGE, borders.astype(np.int32))
    if by == "grid":
        loops = np.bincount(mesh.topology.edges[borders].ravel())
        # All borders of a shape have as many sides.
        sides = int((loops > 0).sum())
        tops = np.unique(mesh.positions[mesh.topology.edges[borders][:, 0], 2])
        if (sides // len(tops)) % 2:
            by = "face"
    return fill(mesh, chosen, by=by).mesh
