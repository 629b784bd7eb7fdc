"""A mesh with its name, as files hold it."""

from __future__ import annotations

from dataclasses import dataclass

from dimetron.mesh.mesh import Mesh


@dataclass(frozen=True, slots=True)
class NamedMesh:
    name: str
    mesh: Mesh
