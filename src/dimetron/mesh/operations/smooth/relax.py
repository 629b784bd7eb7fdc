"""Even out bumps."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import Ints, unit
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
    lone = t.edges[t.edge_face_count == 1]
    own, at_border = np.zeros(n, bool), np.zeros(n, bool)
    own[vertices_of(mesh, chosen.kind, chosen.indices)] = True
    own[_corners(mesh, lone)] = False
    at_border[lone] = True
    near = np.flatnonzero(own[t.edges[:, 0]] | own[t.edges[:, 1]])
    a, b = np.concatenate([t.edges[near], t.edges[near][:, ::-1]]).T
    # A vertex of the border follows its neighbours along the border alone.
    along = np.tile(t.edge_face_count[near] == 1, 2)
    counts = own[a] & (along | ~at_border[a])
    a, b = a[counts], b[counts]
    # Only these and their neighbours are looked at, as vertices of their own.
    mine = np.unique(a)
    around, place = np.unique(np.concatenate([a, b]), return_inverse=True)
    a, b = place.reshape(2, -1)
    moving = np.searchsorted(around, mine)
    points = mesh.positions[around]
    number_ = np.bincount(a, minlength=len(around))[moving, None]
    for _ in range(how.rounds):
        sums = [np.bincount(a, points[b, k], minlength=len(around)) for k in range(3)]
        means = np.stack(sums, axis=1)[moving] / number_
        points[moving] += (means - points[moving]) * how.strength
    return Edited(mesh.with_moved(mine.astype(np.int32), points[moving]), chosen)


def _corners(mesh: Mesh, lone: Ints) -> Ints:
    """(k,) vertices at which the border, edges (e, 2), turns."""
    way = unit(mesh.positions[lone[:, 1]] - mesh.positions[lone[:, 0]])
    vertices, place = np.unique(lone, return_inverse=True)
    a, b = place.reshape(-1, 2).T
    total = np.zeros((len(vertices), 3))
    np.add.at(total, a, way)
    np.add.at(total, b, -way)
    # Ways that lead straight on from one another sum to nothing.
    turns = np.linalg.norm(total, axis=1) > 2 * np.sin(np.radians(_CORNER_DEG) / 2)
    return np.asarray(vertices[turns])
