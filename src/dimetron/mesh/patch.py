"""A patch: vertices that are elsewhere while a gesture runs and the faces stay."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dimetron.mesh.arrays import Floats, Ints, extent, freeze
from dimetron.mesh.mesh import Mesh


@dataclass(frozen=True, eq=False)
class Patch:
    """vertices (k,) rising, at positions (k, 3). similar: all of the mesh, moved, turned or scaled
    as a whole, so that its faces keep their triangles."""

    vertices: Ints
    positions: Floats
    similar: bool = False
    #: (2, 3) of the positions, where the one who moved them knows.
    box: Floats | None = None

    def __post_init__(self) -> None:
        freeze(self.vertices, self.positions)

    @cached_property
    def bounds(self) -> Floats:
        """(2, 3) of the positions; zeros for none."""
        if self.box is not None:
            return self.box
        return extent(self.positions) if len(self.positions) else np.zeros((2, 3))

    def applied(self, mesh: Mesh) -> Mesh:
        """The mesh with the patch. Raises MeshError for places that are no numbers."""
        if self.similar and len(self.vertices) == len(mesh.positions):
            return mesh.with_similar(self.positions)
        return mesh.with_moved(self.vertices, self.positions)
