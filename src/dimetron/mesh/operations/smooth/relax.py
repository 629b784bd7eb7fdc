"""Even out bumps."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import count, number
from dimetron.mesh.select import Kind, Selection, vertices_of


@dataclass(frozen=True)
class Relax:
    """How much, and how often."""

    strength: float = number(0.5, low=0.0, high=1.0, hint="How far toward the neighbours' middle")
    rounds: int = count(3, high=1000, hint="How often")


@operation(
    "relax", title="Relax", icon="relax", needs=Kind.VERTEX, also=(Kind.EDGE, Kind.FACE), order=30
)
def relax(mesh: Mesh, chosen: Selection, how: Relax) -> Edited:
    """Move vertices toward the middle of their neighbours; the border relaxes along itself."""
    t = mesh.topology
    n = t.vertex_count
    mine = vertices_of(mesh, chosen.kind, chosen.indices)
    lone = t.edge_face_count == 1
    at_border = np.zeros(n, bool)
    at_border[t.edges[lone]] = True
    # A vertex of the border follows its neighbours along the border alone.
    a, b = np.concatenate([t.edges, t.edges[:, ::-1]]).T
    counts = np.tile(lone, 2) | ~at_border[a]
    a, b = a[counts], b[counts]
    own = np.zeros(n, bool)
    own[mine] = True
    a, b = a[own[a]], b[own[a]]
    number_ = np.bincount(a, minlength=n)
    mine = mine[number_[mine] > 0]
    points = mesh.positions.copy()
    for _ in range(how.rounds):
        sums = np.stack([np.bincount(a, points[b, k], minlength=n) for k in range(3)], axis=1)
        means = sums[mine] / number_[mine, None]
        points[mine] += (means - points[mine]) * how.strength
    return Edited(mesh.with_moved(mine, points[mine]), chosen)
