"""The clockwork beetle: 120 mm long over its feelers, walking towards -Y, a key on its back."""

from __future__ import annotations

from functools import cache

import manifold3d
import numpy as np

from dimetron.demo.plates import Hand, Piece, Plate
from dimetron.demo.solids import as_mesh, smooth_path, tube
from dimetron.geometry.views import View
from dimetron.mesh.mesh import Mesh

_Solid = manifold3d.Manifold
LENGTH_MM = 120.0

#: Its plate: white on blue, the plan on its side above, the side below, both ends beneath.
PLATE = Plate(
    (1640, 1900),
    Hand((28, 62, 138), (236, 242, 250), 2.4),
    (
        Piece(View.TOP, (820.0, 384.0), 6.2, turns=3, caption="plan"),
        Piece(View.RIGHT, (820.0, 990.0), 6.2, caption="side"),
        Piece(View.FRONT, (455.0, 1560.0), 6.2, caption="front"),
        Piece(View.BACK, (1185.0, 1560.0), 6.2, caption="rear"),
    ),
    fall=0.06,
    credit="Brass & Thread workshop, plate 12: clockwork beetle",
    noise=1.2,
    seed=41,
)


def _ball(at: tuple[float, float, float], size: tuple[float, float, float]) -> manifold3d.Manifold:
    return _Solid.sphere(1.0, 64).scale(size).translate(at)


def _leg(side: int, y: float, reach: float, lean: float) -> manifold3d.Manifold:
    path = smooth_path(
        [
            (8.0 * side, y, 20.0),
            (reach * 0.62 * side, y + 0.5 * lean, 29.0),
            (reach * 0.9 * side, y + lean, 10.0),
            (reach * side, y + 1.3 * lean, 2.2),
        ],
        24,
    )
    return tube(path, np.linspace(3.2, 2.0, 24), 20)


def _feeler(side: int) -> manifold3d.Manifold:
    path = smooth_path([(6.0 * side, -40, 26), (13.0 * side, -52, 36), (20.0 * side, -63, 38)], 24)
    return tube(path, np.linspace(1.8, 1.2, 24), 16) + _ball((20.0 * side, -63, 38), (2.6,) * 3)


def _key() -> manifold3d.Manifold:
    """A winding key: a stem and a bow of two rings, along Y."""
    bow = _Solid.revolve(manifold3d.CrossSection.circle(2.2, 24).translate((7.5, 0.0)), 48)
    upright = bow.rotate((0.0, 90.0, 0.0))
    stem = _Solid.cylinder(20.0, 2.6, 2.6, 24).translate((0.0, 16.0, 40.0))
    return stem + upright.translate((0, 7.5, 66.0)) + upright.translate((0, 24.5, 66.0))


def _wings() -> manifold3d.Manifold:
    seam = _Solid.cube((2.0, 70.0, 6.0), True).translate((0.0, 26.0, 47.0))
    return _ball((0, 14, 25), (31, 42, 22)) - seam


@cache
def solid() -> Mesh:
    """The whole beetle, standing on the ground."""
    return as_mesh(_set(_whole(), _whole()))


@cache
def _whole() -> manifold3d.Manifold:
    body = _wings()
    body += _ball((0, -22, 22), (21, 15, 14)) + _ball((0, -38, 21), (13, 10, 9.5))
    body += _ball((-9, -44, 24), (4, 4, 4)) + _ball((9, -44, 24), (4, 4, 4))
    for side in (-1, 1):
        body += _feeler(side)
        body += _leg(side, -20, 40, -13) + _leg(side, 4, 46, 3) + _leg(side, 26, 44, 17)
    return body + _key()


def wings() -> Mesh:
    """Its wing cases where they lie when its drawings stand about the origin."""
    whole = _set(_whole(), _whole()).bounding_box()
    middle = (whole[1] + whole[4]) / 2
    return as_mesh(_set(_wings(), _whole()).translate((0.0, -middle, 0.0)))


def _set(part: manifold3d.Manifold, whole: manifold3d.Manifold) -> manifold3d.Manifold:
    """Stood on the ground, to its length."""
    low = whole.bounding_box()
    scale = LENGTH_MM / (low[4] - low[1])
    return part.translate((0.0, 0.0, -low[2])).scale((scale,) * 3)
