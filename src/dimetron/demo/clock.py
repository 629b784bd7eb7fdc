"""The wall clock: a turned case with a 240 mm dial, hung on a wall in the plane Y = 0."""

from __future__ import annotations

from functools import cache

import manifold3d
import numpy as np

from dimetron.demo.solids import as_mesh, turned_body
from dimetron.mesh.mesh import Mesh

DIAL_MM = 240.0


@cache
def solid() -> Mesh:
    """Case, dial, hands and hanger; the dial's centre is 150 mm above the ground."""
    case = turned_body(
        [(0, 0), (146, 0), (150, 6), (150, 26), (144, 34), (134, 36), (128, 30), (120, 26), (0, 26)]
    )
    for hour in range(12):
        mark = manifold3d.Manifold.cube((4.0 if hour % 3 else 8.0, 18.0, 2.0), True)
        case += mark.translate((0.0, 106.0, 27.0)).rotate((0, 0, 30.0 * hour))
    for length, width, turn in ((64.0, 9.0, 55.0), (94.0, 6.0, -40.0)):
        hand = manifold3d.Manifold.cube((width, length, 2.0), True)
        case += hand.translate((0.0, length / 2 - 12, 30.0)).rotate((0, 0, turn))
    case += manifold3d.Manifold.cylinder(8.0, 9.0, 9.0, 32).translate((0.0, 0.0, 25.0))
    ring = manifold3d.Manifold.cylinder(8.0, 15.0, 15.0, 40) - manifold3d.Manifold.cylinder(
        20.0, 8.0, 8.0, 40
    ).translate((0.0, 0.0, -5.0))
    case += ring.translate((0.0, 160.0, 3.0))
    # Turned about Z so far; hung up, the dial faces -Y.
    hung = case.transform(np.array([[1, 0, 0, 0], [0, 0, -1, 0], [0, 1, 0, 150.0]], float))
    return as_mesh(hung)
