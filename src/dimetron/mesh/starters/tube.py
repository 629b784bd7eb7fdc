"""Tube."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import count, number
from dimetron.mesh.revolving import revolved
from dimetron.mesh.starter import Starter


@dataclass(frozen=True)
class Tube:
    """How fine, and how thick its wall is."""

    sides: int = count(16, low=3, high=1000, hint="Faces all round")
    rows: int = count(1, high=1000, hint="Faces from bottom to top")
    wall: float = number(0.2, low=0.01, high=0.99, hint="Its wall, as a share of its radius")


def make(how: Tube) -> Mesh:
    """From -1 to 1."""
    height = np.linspace(-1, 1, how.rows + 1)
    outer = np.stack([np.ones_like(height), height], axis=1)
    inner = np.stack([np.full_like(height, 1 - how.wall), height[::-1]], axis=1)
    return revolved(np.concatenate([outer, inner]), how.sides, closed=True)


STARTER = Starter("tube", "Tube", "A tube with a wall.", "tube", 70, Tube, make, round=True)
