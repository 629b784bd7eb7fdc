"""Cylinder."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import choice, count
from dimetron.mesh.revolving import ENDS, capped, revolved
from dimetron.mesh.starter import Starter


@dataclass(frozen=True)
class Cylinder:
    """How fine, and how it ends."""

    sides: int = count(16, low=3, high=1000, hint="Faces all round")
    rows: int = count(1, high=1000, hint="Faces from bottom to top")
    ends: str = choice("quads", ENDS, hint="What closes bottom and top")


def make(how: Cylinder) -> Mesh:
    """From -1 to 1."""
    height = np.linspace(-1, 1, how.rows + 1)
    tube = revolved(np.stack([np.ones_like(height), height], axis=1), how.sides)
    return capped(tube, how.ends)


STARTER = Starter("cylinder", "Cylinder", "A cylinder.", "cylinder", 30, Cylinder, make, round=True)
