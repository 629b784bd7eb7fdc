"""PLY as an export: one file with all meshes, polygons kept."""

from __future__ import annotations

import numpy as np

from dimetron.formats.handover import Handover
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.ply import to_ply
from dimetron.mesh.topology import Topology


def write(given: Handover, stem: str, ending: str) -> dict[str, bytes]:
    """File name to bytes."""
    return {f"{stem}.ply": to_ply(joined([item.mesh for item in given.meshes]))}


def joined(meshes: list[Mesh]) -> Mesh:
    """All meshes as one, in order; creases are left behind."""
    counts = [len(m.positions) for m in meshes]
    starts = np.concatenate([[0], np.cumsum(counts)])
    corners = [m.topology.corners + start for m, start in zip(meshes, starts, strict=False)]
    sizes = np.concatenate([m.topology.sizes for m in meshes])
    offsets = np.concatenate([[0], np.cumsum(sizes)]).astype(np.int32)
    topology = Topology(offsets, np.concatenate(corners).astype(np.int32), int(starts[-1]))
    return Mesh(np.concatenate([m.positions for m in meshes]), topology)
