"""A sheet made a shell: a second surface beside the first, and walls along its borders."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited, Origin, rebuilt
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.offsets import offset_ways
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.topology import topology_of


def shell(mesh: Mesh, outer: float, inner: float) -> Edited:
    """The mesh moved out by ``outer`` mm, its copy turned over at ``inner`` mm, and walls between
    their borders; the walls are selected."""
    t = mesh.topology
    n, c = t.vertex_count, len(t.corners)
    way = offset_ways(mesh)
    positions = np.concatenate([mesh.positions + way * outer, mesh.positions + way * inner])
    over = t.reversed_corner
    rim = np.flatnonzero(t.edge_face_count[t.corner_edge] == 1)
    after = t.next_corner[rim]
    a, b = t.corners[rim], t.corners[after]
    walls = np.stack([b, a, a + n, b + n], axis=1)
    sizes = np.concatenate([t.sizes, t.sizes, np.full(len(rim), 4)])
    corners = np.concatenate([t.corners, t.corners[over] + n, walls.ravel()])
    topology = topology_of(sizes, corners, 2 * n)
    every = np.arange(n, dtype=np.int32)
    face = np.arange(t.face_count)
    origin = Origin(
        np.concatenate([every, every]),
        np.concatenate([face, face, t.corner_face[rim]]).astype(np.int32),
        np.concatenate([np.arange(c), over, np.stack([after, rim, rim, after], 1).ravel()]),
    )
    made = rebuilt(mesh, positions, topology, origin).mesh
    last = np.arange(2 * t.face_count, topology.face_count, dtype=np.int32)
    return Edited(made, Selection(Kind.FACE, last))


def keep_sense(before: Mesh, after: Mesh, words: str) -> None:
    """Raises MeshError if a face is turned over afterwards: it looks the other way, or its edges
    run back on the whole."""
    t = before.topology
    along = [
        m.positions[t.corners[t.next_corner]] - m.positions[t.corners] for m in (before, after)
    ]
    agree = np.bincount(t.corner_face, (along[0] * along[1]).sum(axis=1), minlength=t.face_count)
    turned = (before.face_normals * after.face_normals).sum(axis=1) < -1e-9
    if (turned | (agree < 0)).any():
        raise MeshError(words)
