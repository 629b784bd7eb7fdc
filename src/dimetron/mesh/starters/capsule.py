"""Capsule."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import count, number
from dimetron.mesh.revolving import revolved
from dimetron.mesh.starter import Starter


@dataclass(frozen=True)
class Capsule:
    """How fine, and how much of it is round."""

    sides: int = count(16, low=3, high=1000, hint="Faces all round")
    rows: int = count(1, high=1000, hint="Faces along the straight part")
    rings: int = count(4, high=500, hint="Faces from the straight part to each end")
    round: float = number(
        0.5, low=0.01, high=1.0, title="round part", hint="The share of its length that is round"
    )


def make(how: Capsule) -> Mesh:
    """From -1 to 1."""
    angle = np.linspace(0, np.pi / 2, how.rings + 1)
    radius, rise = np.cos(angle), np.sin(angle) * how.round
    radius[-1] = 0.0
    straight = 1 - how.round
    top = np.stack([radius, straight + rise], axis=1)
    bottom = np.stack([radius, -straight - rise], axis=1)[::-1]
    middle = np.linspace(-straight, straight, how.rows + 1)[1:-1]
    rows = np.stack([np.ones_like(middle), middle], axis=1)
    whole = [bottom, rows, top] if straight > 1e-9 else [bottom, top[1:]]
    return revolved(np.concatenate(whole), how.sides)


STARTER = Starter(
    "capsule", "Capsule", "A cylinder with round ends.", "capsule", 80, Capsule, make, round=True
)
