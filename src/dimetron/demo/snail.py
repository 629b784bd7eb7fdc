"""The snail of the garden set, as a shaded picture: 90 mm long, creeping towards -Y."""

from __future__ import annotations

from functools import cache

import manifold3d
import numpy as np

from dimetron.demo.plates import Hand, Piece, Plate
from dimetron.demo.solids import as_mesh, smooth_path, tube
from dimetron.geometry.views import View
from dimetron.mesh.mesh import Mesh

LENGTH_MM = 90.0

#: Its plate: shaded, without a line, on a pale ground that darkens to a corner.
PLATE = Plate(
    (1500, 1240),
    Hand(
        (226, 228, 224), (60, 60, 60), 0.0,
        ((58, 44, 34), (150, 112, 74), (226, 190, 140), (250, 236, 208)), True,
    ),
    (
        Piece(View.RIGHT, (500.0, 380.0), 8.6),
        Piece(View.FRONT, (1170.0, 380.0), 8.6),
        Piece(View.TOP, (700.0, 940.0), 8.6, turns=3),
    ),
    fall=0.10,
    noise=1.0,
    seed=42,
)  # fmt: skip


@cache
def solid() -> Mesh:
    """The whole snail, its foot on the ground."""
    foot = tube(
        smooth_path(
            [(0, 44, 2.5), (0, 26, 5), (0, 0, 7), (0, -24, 8), (0, -36, 15), (0, -42, 23)], 48
        ),
        np.interp(np.linspace(0, 1, 48), [0, 0.3, 0.6, 0.85, 1], [2.0, 5.0, 7.0, 6.5, 5.0]),
        32,
        1.5,
    )
    turn = np.linspace(0.15, 2.6, 90) * 2 * np.pi
    grown = np.linspace(0.12, 1.0, 90) ** 1.25
    coil = np.stack(
        [
            7.0 * (1 - grown) - 2.0,
            6.0 + 17.0 * grown * np.cos(turn),
            28.0 + 17.0 * grown * np.sin(turn),
        ],
        axis=1,
    )
    shell = tube(coil, 1.5 + 10.5 * grown, 32)
    body = foot + shell
    for side in (-1, 1):
        stalk = smooth_path(
            [(2.5 * side, -42, 24), (5.0 * side, -45, 33), (6.5 * side, -46, 40)], 16
        )
        body += tube(stalk, np.linspace(1.8, 1.2, 16), 16)
        eye = manifold3d.Manifold.sphere(2.4, 24)
        body += eye.translate((6.5 * side, -46.0, 40.0))
    box = body.bounding_box()
    scale = LENGTH_MM / (box[4] - box[1])
    return as_mesh(body.translate((0.0, 0.0, -box[2])).scale((scale,) * 3))
