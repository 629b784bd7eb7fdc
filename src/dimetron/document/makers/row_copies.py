"""Linked copies of a mesh in a row."""

from __future__ import annotations

from collections.abc import Sequence

from dimetron.document.making import Maker
from dimetron.document.model import MeshObject
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operations.copies.row import Row, places
from dimetron.mesh.repeating import repeated


def make(sources: Sequence[MeshObject], how: Row) -> Mesh:
    """All but the mesh itself. Raises MeshError if they are too many."""
    mesh = sources[0].mesh
    return repeated(mesh, places(mesh, how)[1:]).mesh


MAKER = Maker("row", "In a row", "Copies in a row.", "row", 2, (1, 1), Row, make, MeshObject)
