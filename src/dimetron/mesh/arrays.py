"""The kinds of arrays that meshes are made of, and what is raised where they make none."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.signedinteger[Any]]
Mask = NDArray[np.bool_]


class MeshError(ValueError):
    """The arrays do not describe a mesh, or an operation has no meaning on it."""


def freeze(*arrays: NDArray[Any]) -> None:
    """What belongs to a value is not written to."""
    for array in arrays:
        array.setflags(write=False)
