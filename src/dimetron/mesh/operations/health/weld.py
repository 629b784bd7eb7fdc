"""Make one of vertices that lie together."""

from __future__ import annotations

from dataclasses import dataclass

from dimetron.mesh.around import components
from dimetron.mesh.edited import Edited, merged
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import length
from dimetron.mesh.select import Kind, Selection


@dataclass(frozen=True)
class Weld:
    """How near is the same."""

    within: float = length(0.01, low=0.0, hint="Vertices that lie this near become one")


@operation("weld", title="Weld", icon="circle-dot", takes=(Kind.VERTEX,))
def weld(mesh: Mesh, chosen: Selection, how: Weld) -> Edited:
    """Make one vertex of those that lie within a distance of each other.

    It stands at their mean; so do those that lie that near by way of others. Faces that keep fewer
    than three corners go.
    """
    from scipy.spatial import cKDTree  # takes a while; only some operations need it

    mine = chosen.indices
    pairs = cKDTree(mesh.positions[mine]).query_pairs(how.within, output_type="ndarray")
    return merged(mesh, components(mesh.topology.vertex_count, mine[pairs]), chosen)
