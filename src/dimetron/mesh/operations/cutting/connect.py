"""Faces divided between their own vertices."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import Ints, MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.replaced import Faces, Replacement, replaced
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.topology import Topology


@operation(
    "connect", title="Connect", icon="connect", takes=(Kind.VERTEX,), key="Ctrl+Shift+C", order=30
)
def connect(mesh: Mesh, chosen: Selection, how: NoParameters) -> Edited:
    """Divide faces by edges from one chosen vertex to the next.

    In a face with two of them an edge runs between them; with more, from each to the next one. The
    new edges are selected.
    """
    t = mesh.topology
    mine = np.zeros(t.vertex_count, bool)
    mine[chosen.indices] = True
    marked = mine[t.corners]
    count = np.bincount(t.corner_face, marked, minlength=t.face_count).astype(int)
    faces = np.flatnonzero(count >= 2)
    ends = _ends(t, marked, faces)
    if not len(ends):
        raise MeshError("No face has two of these vertices that an edge could run between.")
    made, cut = _divided(t, ends)
    done = replaced(mesh, Replacement(gone=cut, faces=(made,))).mesh
    pairs = t.corners[ends]
    edges = np.unique(done.topology.edge_between(*pairs.T))
    return Edited(done, Selection(Kind.EDGE, edges[edges >= 0].astype(np.int32)))


def _ends(t: Topology, marked: Ints, faces: Ints) -> Ints:
    """(k, 2) corners of faces between which an edge is to run: from each chosen one to the next
    round the face, where they do not share an edge already."""
    among = np.zeros(t.face_count, bool)
    among[faces] = True
    corners = np.flatnonzero(marked & among[t.corner_face])
    if not len(corners):
        return np.zeros((0, 2), np.int64)
    owner = t.corner_face[corners]
    after = np.roll(corners, -1)
    last = np.append(owner[1:] != owner[:-1], True)
    first = np.flatnonzero(np.append(True, owner[1:] != owner[:-1]))
    after[last] = corners[first]
    number = np.bincount(owner, minlength=t.face_count)[owner]
    # Two are joined once, not there and back.
    once = (number > 2) | ~last
    beside = (t.next_corner[corners] == after) | (t.next_corner[after] == corners)
    keep = once & ~beside
    return np.stack([corners[keep], after[keep]], axis=1)


def _divided(t: Topology, ends: Ints) -> tuple[Faces, Ints]:
    """What becomes of the faces: what lies before each edge, and what is left within all."""
    cut = np.unique(t.corner_face[ends[:, 0]])
    sizes, corners, owner = [], [], []
    for face in cut.tolist():
        low, high = int(t.offsets[face]), int(t.offsets[face + 1])
        ring = np.arange(low, high)
        own = ends[t.corner_face[ends[:, 0]] == face] - low
        keep = np.ones(len(ring), bool)
        for a, b in own.tolist():
            steps = (b - a) % len(ring)
            part = ring[(a + np.arange(steps + 1)) % len(ring)]
            sizes.append(len(part))
            corners.append(part)
            owner.append(face)
            keep[(a + np.arange(1, steps)) % len(ring)] = False
        rest = ring[keep]
        if len(rest) >= 3:
            sizes.append(len(rest))
            corners.append(rest)
            owner.append(face)
    flat = np.concatenate(corners)
    made = Faces(
        np.array(sizes, np.int32), t.corners[flat], np.array(owner, np.int32), flat.astype(np.int32)
    )
    return made, cut
