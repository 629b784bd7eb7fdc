"""Bodies made of rings: stacked ellipses joined by quads, and a standing figure of them."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from dimetron.mesh.arrays import Floats
from dimetron.mesh.mesh import Mesh, from_faces

_SEGMENTS = 16

#: A standing figure of height 1: rings as (height, middle across, half width, half depth), from the
#: usual proportions of a grown person at about seven and a half heads.
_FIGURE = {
    "trunk": (
        (0.470, 0.0, 0.086, 0.060),
        (0.530, 0.0, 0.098, 0.066),
        (0.610, 0.0, 0.080, 0.056),
        (0.720, 0.0, 0.094, 0.064),
        (0.800, 0.0, 0.112, 0.058),
        (0.826, 0.0, 0.070, 0.044),
        (0.845, 0.0, 0.030, 0.030),
        (0.870, 0.0, 0.030, 0.032),
    ),
    "head": (
        (0.868, 0.0, 0.024, 0.030),
        (0.895, 0.0, 0.038, 0.050),
        (0.940, 0.0, 0.044, 0.056),
        (0.980, 0.0, 0.034, 0.044),
        (1.000, 0.0, 0.006, 0.008),
    ),
    "leg": (
        (0.000, 0.052, 0.026, 0.070),
        (0.030, 0.052, 0.024, 0.050),
        (0.070, 0.052, 0.020, 0.024),
        (0.180, 0.052, 0.032, 0.038),
        (0.280, 0.050, 0.030, 0.032),
        (0.400, 0.048, 0.044, 0.050),
        (0.500, 0.046, 0.046, 0.058),
    ),
    "arm": (
        (0.380, 0.165, 0.010, 0.024),
        (0.430, 0.163, 0.016, 0.026),
        (0.470, 0.160, 0.014, 0.017),
        (0.600, 0.148, 0.022, 0.024),
        (0.720, 0.134, 0.026, 0.030),
        (0.800, 0.112, 0.024, 0.032),
        (0.815, 0.098, 0.010, 0.016),
    ),
}


def loft(rings: ArrayLike, segments: int = _SEGMENTS) -> tuple[Floats, list[list[int]]]:
    """Rings (n, 4) as height, middle across, half width, half depth: positions and faces."""
    table = np.asarray(rings, dtype=np.float64)
    turn = np.linspace(0, 2 * np.pi, segments, endpoint=False)
    x = table[:, 1:2] + table[:, 2:3] * np.cos(turn)
    y = table[:, 3:4] * np.sin(turn)
    z = np.repeat(table[:, :1], segments, axis=1)
    positions = np.stack([x, y, z], axis=2).reshape(-1, 3)
    at = np.arange(segments)
    after = (at + 1) % segments
    around = np.stack([at, after, after + segments, at + segments], axis=1)
    steps = np.arange(len(table) - 1)[:, None, None] * segments
    sides = (around + steps).reshape(-1, 4).tolist()
    top = (len(table) - 1) * segments
    return positions, [*sides, at[::-1].tolist(), (at + top).tolist()]


def figure(height: float) -> Mesh:
    """A standing figure on the ground, facing −Y, in separate bodies. Raises MeshError."""
    positions: list[Floats] = []
    faces: list[list[int]] = []
    count = 0
    for name, rings in _FIGURE.items():
        for side in (1, -1) if name in ("leg", "arm") else (1,):
            table = np.array(rings) * (1, side, 1, 1)
            points, own = loft(table)
            positions.append(points)
            faces.extend([vertex + count for vertex in face] for face in own)
            count += len(points)
    return from_faces(np.concatenate(positions) * height, faces)


def figure_outlines(height: float, side: bool) -> list[Floats]:
    """Closed outlines (n, 3) of the figure's bodies in the plane that faces front (or the side)."""
    lines = []
    for name, rings in _FIGURE.items():
        for way in (1, -1) if name in ("leg", "arm") and not side else (1,):
            z, middle, across, deep = np.array(rings).T
            half = deep if side else across
            centre = 0 * middle if side else middle * way
            flat = np.concatenate([centre - half, (centre + half)[::-1], (centre - half)[:1]])
            up = np.concatenate([z, z[::-1], z[:1]])
            nought = np.zeros_like(flat)
            points = (nought, flat, up) if side else (flat, nought, up)
            lines.append(np.stack(points, axis=1) * height)
    return lines


def figure_rings(height: float) -> list[Floats]:
    """The widest ring (n, 3) of each body, level: the figure from above."""
    turn = np.linspace(0, 2 * np.pi, 33)
    lines = []
    for name, rings in _FIGURE.items():
        for way in (1, -1) if name in ("leg", "arm") else (1,):
            z, middle, across, deep = max(rings, key=lambda ring: ring[2] * ring[3])
            x, y = middle * way + across * np.cos(turn), deep * np.sin(turn)
            lines.append(np.stack([x, y, np.full_like(turn, z)], axis=1) * height)
    return lines
