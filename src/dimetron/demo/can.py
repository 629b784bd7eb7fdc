"""The enamelled watering can: overall length 412 mm along Y, the rose towards -Y."""

from __future__ import annotations

from functools import cache

import manifold3d
import numpy as np

from dimetron.demo.solids import as_mesh, smooth_path, tube, turned_body
from dimetron.mesh.mesh import Mesh

LENGTH_MM = 412.0


def _body() -> manifold3d.Manifold:
    """A tapered shell with a foot ring, two beads and a rolled rim."""
    outer = [
        (84, 0), (86, 2), (86, 9), (84, 12), (82.6, 40), (84.4, 42), (84.4, 46), (82.2, 48),
        (77.6, 150), (79.2, 152), (79.2, 156), (77.2, 158), (75.6, 184), (77.6, 187),
        (77.6, 191), (76, 193), (73, 193), (71.6, 190),
    ]  # fmt: skip
    inner = [(73.4, 160), (80.4, 14), (78, 8), (0, 8), (0, 0)]
    return turned_body([*outer, *inner])


def _spout() -> manifold3d.Manifold:
    path = smooth_path(
        [(0, -60, 44), (0, -100, 70), (0, -146, 118), (0, -182, 172), (0, -214, 219)], 44
    )
    return tube(path, np.linspace(21, 10.5, len(path)))


def _rose() -> manifold3d.Manifold:
    """A cone that opens towards the end of the spout, closed by a slightly domed plate."""
    way = np.array([0.0, -0.586, 0.81])
    start = np.array([0.0, -208.0, 211.0])
    along = np.array([0.0, 10.0, 26.0, 30.0, 31.5, 33.5])
    radii = [11.5, 15.0, 34.0, 36.5, 36.5, 33.0]
    return tube(start + along[:, None] * way, radii, 64)


def _handle() -> manifold3d.Manifold:
    """From the rim over the top and down the back."""
    path = smooth_path(
        [
            (0, -74, 184), (0, -75, 206), (0, -62, 242), (0, -20, 272), (0, 40, 280),
            (0, 100, 256), (0, 136, 204), (0, 141, 146), (0, 118, 96), (0, 76, 72),
        ],
        72,
    )  # fmt: skip
    return tube(path, 7.5, 28, flatten=1.5)


def _stay() -> manifold3d.Manifold:
    """The strut between spout and rim."""
    return tube(smooth_path([(0, -70, 182), (0, -120, 166), (0, -172, 160)], 16), 3.6, 18)


@cache
def solid() -> Mesh:
    """The whole can, sized so that its length is exactly 412 mm; it stands on the ground."""
    return as_mesh(_whole().scale((scale(),) * 3))


@cache
def _whole() -> manifold3d.Manifold:
    cavity = turned_body([(0, 10), (78.2, 10), (72.6, 160), (70.8, 192), (0, 192)])
    fittings = _spout() + _rose() + _stay() + _handle()
    return _body() + (fittings - cavity)


@cache
def scale() -> float:
    """By how much the whole can is enlarged so that its length is exact."""
    box = _whole().bounding_box()
    return float(LENGTH_MM / (box[4] - box[1]))


def landmarks() -> dict[str, tuple[float, float, float]]:
    """Named points of the can in millimetres: the truth that sightings are measured against."""
    named = {
        "rim, right": (77.6, 0.0, 189.0),
        "rim, front": (0.0, -77.6, 189.0),
        "foot, right": (86.0, 0.0, 5.0),
        "foot centre": (0.0, 0.0, 0.0),
    }
    s = scale()
    return {name: (x * s, y * s, z * s) for name, (x, y, z) in named.items()}
