"""PLY as an export: one file with all meshes, polygons kept."""

from __future__ import annotations

import numpy as np

from dimetron.formats.handover import Handover
from dimetron.formats.named import NamedMesh
from dimetron.mesh.coloured import vertex_colours
from dimetron.mesh.joined import joined
from dimetron.mesh.layers import COLOUR, Layer, On
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.ply import to_ply


def write(given: Handover, stem: str, ending: str) -> dict[str, bytes]:
    """File name to bytes."""
    whole = joined([_coloured(item) for item in given.meshes])
    # Creases and the like are for Dimetron alone.
    return {f"{stem}.ply": to_ply(Mesh(whole.positions, whole.topology), vertex_colours(whole))}


def _coloured(item: NamedMesh) -> Mesh:
    """With its own colour at all vertices, unless they have colours themselves."""
    if item.rgba is None or COLOUR in item.mesh.layers:
        return item.mesh
    values = np.tile(np.array(item.rgba, np.float32), (len(item.mesh.positions), 1))
    return item.mesh.with_layer(COLOUR, Layer(On.VERTEX, values, 1.0))
