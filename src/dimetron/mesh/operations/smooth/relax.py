"""Even out bumps."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import Ints, Mask, unit
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import count, number
from dimetron.mesh.select import Kind, Selection, vertices_of

#: A border that turns by more has a corner there.
_CORNER_DEG = 40.0


@dataclass(frozen=True)
class Relax:
    """How much, and how often."""

    strength: float = number(0.5, low=0.0, high=1.0, hint="How far toward the neighbours' middle")
    rounds: int = count(3, high=1000, hint="How often")


@operation(
    "relax", title="Relax", icon="relax", takes=(Kind.VERTEX, Kind.EDGE, Kind.FACE), order=30
)
def relax(mesh: Mesh, chosen: Selection, how: Relax) -> Edited:
    """Move vertices toward the middle of their neighbours; a border relaxes along itself, and keeps
    its corners."""
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
    own[_corners(mesh, lone)] = False
    mine = np.flatnonzero(own).astype(np.int32)
    a, b = a[own[a]], b[own[a]]
    number_ = np.bincount(a, minlength=n)
    mine = mine[number_[mine] > 0]
    points = mesh.positions.copy()
    for _ in range(how.rounds):
        sums = np.stack([np.bincount(a, points[b, k], minlength=n) for k in range(3)], axis=1)
        means = sums[mine] / number_[mine, None]
        points[mine] += (means - points[mine]) * how.strength
    return Edited(mesh.with_moved(mine, points[mine]), chosen)


def _corners(mesh: Mesh, lone: Mask) -> Ints:
    """(k,) vertices at which the border turns."""
    ends = mesh.topology.edges[lone]
    way = unit(mesh.positions[ends[:, 1]] - mesh.positions[ends[:, 0]])
    total = np.zeros((len(mesh.positions), 3))
    np.add.at(total, ends[:, 0], way)
    np.add.at(total, ends[:, 1], -way)
    # Ways that lead straight on from one another sum to nothing.
    return np.flatnonzero(np.linalg.norm(total, axis=1) > 2 * np.sin(np.radians(_CORNER_DEG) / 2))
