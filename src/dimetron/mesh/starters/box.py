"""Box."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import grid_quads
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.operation import by_name
from dimetron.mesh.parameters import count
from dimetron.mesh.primitives import box
from dimetron.mesh.starter import Starter


@dataclass(frozen=True)
class Box:
    """How many faces along each side."""

    width: int = count(1, high=200, title="across", hint="Faces from left to right")
    depth: int = count(1, high=200, title="deep", hint="Faces from front to back")
    height: int = count(1, high=200, title="high", hint="Faces from bottom to top")


def make(how: Box) -> Mesh:
    """From -1 to 1."""
    if how == Box():
        return box(np.full(3, -1.0), np.full(3, 1.0))
    counts = np.array([how.width, how.depth, how.height])
    points, faces, first = [], [], 0
    for axis in range(3):
        a, b = (axis + 1) % 3, (axis + 2) % 3
        u, v = np.meshgrid(*(np.linspace(-1, 1, counts[k] + 1) for k in (a, b)), indexing="ij")
        number = np.arange(u.size).reshape(u.shape)
        quads = grid_quads(number)
        for end in (-1.0, 1.0):
            place = np.empty((u.size, 3))
            place[:, axis], place[:, a], place[:, b] = end, u.ravel(), v.ravel()
            points.append(place)
            faces.append((quads if end > 0 else quads[:, ::-1]) + first)
            first += u.size
    sides = from_faces(np.concatenate(points), np.concatenate(faces))
    return by_name("weld")(sides, within=1e-6).mesh


STARTER = Starter("box", "Box", "A box of quads.", "cube-plus", 10, Box, make, "B")
