"""A mesh with its name, as files hold it."""

from __future__ import annotations

from dataclasses import dataclass

from dimetron.mesh.mesh import Mesh


@dataclass(frozen=True, slots=True)
class NamedMesh:
    """A mesh and what it is called."""

    name: str
    mesh: Mesh
