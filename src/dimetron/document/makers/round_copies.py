"""Linked copies of a mesh round an axis."""

from __future__ import annotations

from collections.abc import Sequence

from dimetron.document.making import Maker
from dimetron.document.model import MeshObject
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operations.copies.radial import Radial, places
from dimetron.mesh.repeating import repeated


def make(sources: Sequence[MeshObject], how: Radial) -> Mesh:
    """All but the mesh itself. Raises MeshError if they are too many."""
    mesh = sources[0].mesh
    return repeated(mesh, places(mesh, how)[1:]).mesh


MAKER = Maker(
    "radial", "Round an axis", "Copies round an axis.", "radial", 1, (1, 1), Radial, make,
    MeshObject,
)  # fmt: skip
