"""Cone."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import choice, count, number
from dimetron.mesh.revolving import ENDS, capped, revolved
from dimetron.mesh.starter import Starter


@dataclass(frozen=True)
class Cone:
    """How fine, how wide at the top, and how it ends."""

    sides: int = count(16, low=3, high=1000, hint="Faces all round")
    rows: int = count(1, high=1000, hint="Faces from bottom to top")
    top: float = number(0.0, low=0.0, high=1.0, hint="How wide the top is: 0 a point, 1 the base")
    ends: str = choice("quads", ENDS, hint="What closes bottom and top")


def make(how: Cone) -> Mesh:
    """From -1 to 1."""
    share = np.linspace(0, 1, how.rows + 1)
    profile = np.stack([1 - share * (1 - how.top), 2 * share - 1], axis=1)
    return capped(revolved(profile, how.sides), how.ends)


STARTER = Starter("cone", "Cone", "A cone, or a part of one.", "cone", 40, Cone, make, round=True)
