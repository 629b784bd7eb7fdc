"""Plane."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import grid_quads
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.parameters import count
from dimetron.mesh.starter import Starter


@dataclass(frozen=True)
class Plane:
    """How many faces along each side."""

    across: int = count(1, high=1000, hint="Faces along the first side")
    along: int = count(1, high=1000, hint="Faces along the second side")


def make(how: Plane) -> Mesh:
    """From -1 to 1, level."""
    x, y = np.linspace(-1, 1, how.across + 1), np.linspace(-1, 1, how.along + 1)
    u, v = np.meshgrid(x, y, indexing="ij")
    number = np.arange(u.size).reshape(u.shape)
    points = np.stack([u.ravel(), v.ravel(), np.zeros(u.size)], axis=1)
    return from_faces(points, grid_quads(number))


STARTER = Starter(
    "plane", "Plane", "A flat grid of quads, facing the eye.", "plane", 20, Plane, make, flat=True
)
