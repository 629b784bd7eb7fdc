"""Ball."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import unit
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import choice, count
from dimetron.mesh.revolving import revolved
from dimetron.mesh.starter import Starter
from dimetron.mesh.starters.box import Box
from dimetron.mesh.starters.box import make as box

_FACES = (("quads", "quads alone"), ("round", "round the axis"))


@dataclass(frozen=True)
class Ball:
    """How fine, and of which faces."""

    sides: int = count(16, low=4, high=1000, hint="Faces all round")
    faces: str = choice(
        "quads",
        _FACES,
        hint="Even quads, or rings with triangles at both ends",
    )


def make(how: Ball) -> Mesh:
    """Of radius 1."""
    if how.faces == "quads":
        each = max(1, round(how.sides / 4))
        cube = box(Box(each, each, each))
        # Evenly in angle, so that the quads are as large in the middle of a side as at its rim.
        return cube.with_positions(unit(np.tan(cube.positions * (np.pi / 4))))
    angle = np.linspace(-np.pi / 2, np.pi / 2, max(2, how.sides // 2) + 1)
    radius = np.cos(angle)
    radius[[0, -1]] = 0.0
    return revolved(np.stack([radius, np.sin(angle)], axis=1), how.sides)


STARTER = Starter(
    "ball", "Ball", "A ball, of quads or of rings.", "ball", 50, Ball, make, round=True
)
