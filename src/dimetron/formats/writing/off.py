"""OFF as an export: one file with all meshes, polygons kept."""

from __future__ import annotations

import io

import numpy as np

from dimetron.formats.handover import Handover
from dimetron.mesh.joined import joined


def write(given: Handover, stem: str, ending: str) -> dict[str, bytes]:
    """File name to bytes."""
    mesh = joined([item.mesh for item in given.meshes])
    topology = mesh.topology
    out = io.StringIO()
    out.write(f"OFF\n{topology.vertex_count} {topology.face_count} 0\n")
    np.savetxt(out, mesh.positions, fmt="%.9g")
    words = np.char.add(" ", topology.corners.astype(str)).astype(object)
    first = topology.offsets[:-1]
    words[first] = "\n" + topology.sizes.astype(str).astype(object) + words[first]
    out.write("".join(words.tolist()).lstrip("\n") + "\n")
    return {f"{stem}.off": out.getvalue().encode()}
