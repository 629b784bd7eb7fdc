"""Push faces out, with walls along the rim of the region."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.edge_extrusion import drawn_out, outward
from dimetron.mesh.edit import region_normal
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import Drag, choice, length
from dimetron.mesh.replaced import Points, Replacement, polygons, replaced
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.topology import Topology

_WAYS = (("out", "out"), ("x", "X"), ("y", "Y"), ("z", "Z"))


@dataclass(frozen=True)
class Extrude:
    """How far, and which way."""

    distance: float = length(10.0, drag=Drag.ALONG, hint="How far the faces go out")
    along: str = choice("out", _WAYS, hint="Out along the faces' normal, or along an axis")


def _way(mesh: Mesh, chosen: Selection, along: str = "out") -> Floats:
    if along == "out" and chosen.kind is Kind.EDGE:
        return outward(mesh, chosen.indices)
    if along == "out":
        return region_normal(mesh, chosen.indices)
    return np.asarray(np.arange(3) == "xyz".index(along), np.float64)


@operation(
    "extrude",
    title="Extrude",
    icon="arrow-bar-up",
    takes=(Kind.FACE, Kind.EDGE),
    key="T",
    order=1,
    way=_way,
)
def extrude(mesh: Mesh, chosen: Selection, how: Extrude) -> Edited:
    """Push faces out along their normal, with walls along the rim; or draw new faces out of edges.

    Faces that hang together go as one. The faces keep their order and stay selected; of edges the
    new ones are.
    """
    if chosen.kind is Kind.EDGE:
        return drawn_out(mesh, chosen.indices, _way(mesh, chosen, how.along) * how.distance)
    topology = mesh.topology
    corners = topology.corners_of(chosen.indices)
    rim = _rim(topology, corners)
    copied = _shared(topology, corners, rim)
    copy_of = np.full(topology.vertex_count, -1, np.int32)
    copy_of[copied] = topology.vertex_count + np.arange(len(copied), dtype=np.int32)
    mine = topology.corners[corners]
    leaves = copy_of[mine] >= 0
    after = topology.next_corner[rim]
    a, b = topology.corners[rim], topology.corners[after]
    walls = np.stack([a, b, copy_of[b], copy_of[a]], axis=1)
    by = _way(mesh, chosen, how.along) * how.distance
    inner = np.unique(mine[~leaves])
    positions = mesh.positions.copy()
    positions[inner] += by
    what = Replacement(
        faces=(polygons(walls, topology.corner_face[rim], np.stack([rim, after, after, rim], 1)),),
        points=Points(mesh.positions[copied] + by, copied),
        renamed=(corners[leaves], copy_of[mine[leaves]]),
        positions=positions,
        moved=inner,
    )
    return Edited(replaced(mesh, what).mesh, chosen)


def _rim(topology: Topology, corners: Ints) -> Ints:
    """Corners whose edge only one face of the region has."""
    edges = topology.corner_edge[corners]
    _, which, times = np.unique(edges, return_inverse=True, return_counts=True)
    return np.asarray(corners[times[which] == 1])


def _shared(topology: Topology, corners: Ints, rim: Ints) -> Ints:
    """(k,) vertices of the region that stay where they are for others' sake, so that it needs
    copies of them: those of its rim, and those that faces outside touch."""
    of_region = np.zeros(topology.vertex_count, bool)
    of_region[topology.corners[corners]] = True
    outside = of_region[topology.corners]
    outside[corners] = False
    shared = np.zeros(topology.vertex_count, bool)
    shared[topology.corners[outside]] = True
    shared[topology.corners[rim]] = True
    shared[topology.corners[topology.next_corner[rim]]] = True
    return np.flatnonzero(shared).astype(np.int32)
