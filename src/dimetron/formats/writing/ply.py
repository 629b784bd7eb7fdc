"""PLY as an export: one file with all meshes, polygons kept."""

from __future__ import annotations

from dimetron.formats.handover import Handover
from dimetron.mesh.joined import joined
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.ply import to_ply


def write(given: Handover, stem: str, ending: str) -> dict[str, bytes]:
    """File name to bytes."""
    whole = joined([item.mesh for item in given.meshes])
    # Creases and the like are for Dimetron alone.
    return {f"{stem}.ply": to_ply(Mesh(whole.positions, whole.topology))}
