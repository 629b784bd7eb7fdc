"""Odo, the sail-backed lizard marionette: 186 mm tall, facing -Y, for sculpting."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache

import manifold3d
import numpy as np
from numpy.typing import ArrayLike

from dimetron.demo.solids import as_mesh, smooth_path, tube
from dimetron.mesh.mesh import Mesh

HEIGHT_MM = 186.0


def _limb(points: ArrayLike, radii: Sequence[float], count: int = 28) -> manifold3d.Manifold:
    """A rounded tube; radii (n,) are spread along the path."""
    path = smooth_path(points, count)
    spread = np.interp(np.linspace(0, 1, count), np.linspace(0, 1, len(radii)), np.array(radii))
    ends = manifold3d.Manifold()
    for at, radius in ((path[0], spread[0]), (path[-1], spread[-1])):
        ends += manifold3d.Manifold.sphere(float(radius), 28).translate(tuple(map(float, at)))
    return tube(path, spread, 28) + ends


def _trunk() -> manifold3d.Manifold:
    """From the nose over neck and belly to the tip of the tail."""
    return _limb(
        [
            (0, -112, 112), (0, -96, 116), (0, -72, 120), (0, -50, 100), (0, -20, 82),
            (0, 24, 80), (0, 58, 74), (0, 92, 52), (0, 130, 36), (0, 168, 44), (0, 186, 66),
        ],
        [9, 17, 22, 19, 27, 31, 25, 15, 10, 6.5, 3.5],
        64,
    )  # fmt: skip


def _leg(side: int, y: float, top: float) -> manifold3d.Manifold:
    reach = 42 * side
    leg = _limb(
        [
            (12 * side, y, top),
            (reach * 0.9, y - 6, top - 12),
            (reach, y + 4, 26),
            (reach, y - 3, 8),
        ],
        [14, 12.5, 9, 8],
    )
    foot = manifold3d.Manifold.sphere(1, 32).scale((12.0, 21.0, 8.0))
    return leg + foot.translate((float(reach), y - 12, 7.5))


def _sail() -> manifold3d.Manifold:
    """The fin along the back, five spines high, as a plate in the plane X = 0."""
    crest = [
        (-46, 98), (-44, 128), (-34, 146), (-24, 150), (-14, 174), (-2, 176), (8, 186), (20, 182),
        (30, 172), (40, 166), (50, 140), (60, 126), (68, 96), (70, 74), (0, 70),
    ]  # fmt: skip
    outline = manifold3d.CrossSection([np.array(crest[::-1], float)])
    plate = manifold3d.Manifold.extrude(outline, 5.0)
    # Extruded along Z: (y, z, thickness) becomes (thickness, y, z).
    return plate.transform(np.array([[0, 0, 1, -2.5], [1, 0, 0, 0], [0, 1, 0, 0]], float))


def _eyes() -> manifold3d.Manifold:
    eye = manifold3d.Manifold.sphere(7.5, 28)
    return eye.translate((-14.0, -80.0, 134.0)) + eye.translate((14.0, -80.0, 134.0))


def _mouth() -> manifold3d.Manifold:
    return manifold3d.Manifold.cube((60, 60, 2.2), True).translate((0.0, -122.0, 107.0))


@cache
def solid() -> Mesh:
    """The whole lizard, exactly 186 mm tall, standing on the ground."""
    body = _trunk() - _mouth() + _eyes() + _sail()
    for side in (-1, 1):
        body += _leg(side, -30.0, 84.0) + _leg(side, 44.0, 76.0)
    box = body.bounding_box()
    scale = HEIGHT_MM / (box[5] - box[2])
    return as_mesh(body.translate((0.0, 0.0, -box[2])).scale((scale,) * 3))
