"""Make triangles of faces."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import Ints
from dimetron.mesh.edited import Edited, Origin, rebuilt
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.topology import topology_of


@operation("triangulate", title="Triangles", icon="slice", takes=(Kind.FACE,))
def triangulate(mesh: Mesh, chosen: Selection, how: NoParameters) -> Edited:
    """Divide faces into triangles; the surface stays as it is."""
    topology = mesh.topology
    cut = np.zeros(topology.face_count, bool)
    cut[chosen.indices] = True
    parts = np.where(cut, topology.sizes - 2, 1)
    face = np.repeat(np.arange(topology.face_count), parts)
    sizes = np.where(cut[face], 3, topology.sizes[face])
    corner = np.empty(int(sizes.sum()), np.int64)
    split = np.repeat(cut[face], sizes)
    corner[~split] = np.flatnonzero(~cut[topology.corner_face])
    corner[split] = _corners(mesh)[cut[topology.triangle_faces]].ravel()
    made = topology_of(sizes, topology.corners[corner], topology.vertex_count)
    every = np.arange(topology.vertex_count, dtype=np.int32)
    return rebuilt(mesh, mesh.positions, made, Origin(every, face, corner), chosen)


def _corners(mesh: Mesh) -> Ints:
    """(t, 3) the corners, where ``Mesh.triangles`` has the vertices."""
    topology = mesh.topology
    face = topology.triangle_faces
    starts, sizes = topology.offsets[face], topology.sizes[face]
    found: Ints = np.empty(mesh.triangles.shape, np.int64)
    for side in range(3):
        wanted, at, missing = mesh.triangles[:, side], starts.copy(), np.ones(len(face), bool)
        for step in range(int(sizes.max(initial=0))):
            there = missing & (step < sizes)
            here = np.zeros(len(face), bool)
            here[there] = topology.corners[starts[there] + step] == wanted[there]
            at[here] = starts[here] + step
            missing &= ~here
            if not missing.any():
                break
        found[:, side] = at
    return found
