"""A mesh taken apart by its faces."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import Ints
from dimetron.mesh.edited import without_faces
from dimetron.mesh.mesh import Mesh


def parts_of(mesh: Mesh, part: Ints) -> tuple[Mesh, ...]:
    """A mesh for each number in ``part`` (f,), from 0 up: with the faces that bear it."""
    count = int(part.max(initial=-1)) + 1
    return tuple(without_faces(mesh, np.flatnonzero(part != k)).mesh for k in range(count))
