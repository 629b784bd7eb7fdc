"""Torus."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import count, number
from dimetron.mesh.revolving import revolved
from dimetron.mesh.starter import Starter


@dataclass(frozen=True)
class Torus:
    """How fine, and how thick."""

    sides: int = count(24, low=3, high=1000, hint="Faces all round")
    section: int = count(12, low=3, high=1000, hint="Faces round its section")
    thickness: float = number(
        0.4, low=0.01, high=0.99, hint="How thick it is, as a share of its outer radius"
    )


def make(how: Torus) -> Mesh:
    """From -1 to 1."""
    angle = 2 * np.pi * np.arange(how.section) / how.section
    half = how.thickness / 2
    radius = 1 - half + half * np.cos(angle)
    return revolved(np.stack([radius, np.sin(angle)], axis=1), how.sides, closed=True)


STARTER = Starter(
    "torus", "Torus", "A ring with a round section.", "torus", 60, Torus, make, round=True
)
