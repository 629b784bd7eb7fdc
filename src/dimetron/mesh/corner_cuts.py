"""Corners cut off: a face in place of a vertex."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.around import chained, expanded
from dimetron.mesh.arrays import Ints, MeshError
from dimetron.mesh.edited import Edited, Note
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.replaced import (
    Faces,
    Points,
    Replacement,
    cleaned,
    face_sizes,
    last_faces,
    replaced,
)
from dimetron.mesh.rings import lengths
from dimetron.mesh.select import Kind, Selection

#: Of the length at which an edge would be gone, so much is taken at most.
_MOST = 0.999


def cut_off(mesh: Mesh, vertices: Ints, width: float) -> Edited:
    """Cut vertices (k,) off, ``width`` mm along each of their edges; a width that would use an edge
    up is limited. Vertices of a border or of no face stay. Raises MeshError if none is left."""
    t = mesh.topology
    mine = np.zeros(t.vertex_count, bool)
    mine[vertices] = True
    # All round within a surface as many edges meet as faces do.
    mine &= (t.face_valence > 0) & (t.valence == t.face_valence)
    if not mine.any():
        raise MeshError("Only vertices within a surface can be cut off; choose such vertices.")
    ends = mine[t.edges]
    edges = np.flatnonzero(ends.any(axis=1))
    long = lengths(mesh.positions, t, edges)
    most = float((long / ends[edges].sum(axis=1)).min()) * _MOST
    notes: tuple[Note, ...] = ()
    if width > most:
        words = f"The width is limited to {most:.4g} mm, as wide as the edges allow."
        notes = (Note(words, Kind.VERTEX, np.flatnonzero(mine).astype(np.int32)),)
        width = most
    # A point on each edge for each of its ends that is cut off.
    side = np.argwhere(ends)
    a, b = t.edges[side[:, 0], side[:, 1]], t.edges[side[:, 0], 1 - side[:, 1]]
    share = width / lengths(mesh.positions, t, side[:, 0])
    where = mesh.positions[a] * (1 - share[:, None]) + mesh.positions[b] * share[:, None]
    number = np.full((len(t.edges), 2), -1)
    number[side[:, 0], side[:, 1]] = t.vertex_count + np.arange(len(side))
    parts = _faces(mesh, mine, number)
    gone = np.unique(t.corner_face[mine[t.corners]])
    points = Points(where, a.astype(np.int32), b.astype(np.int32), share)
    done = replaced(mesh, Replacement(gone=gone, faces=parts, points=points)).mesh
    made = last_faces(done, len(parts[1].sizes))
    return Edited(done, Selection(Kind.FACE, made), notes)


def _faces(mesh: Mesh, mine: Ints, number: Ints) -> list[Faces]:
    """The faces around with two points instead of each corner that is cut off, and the new ones."""
    t = mesh.topology
    faces = np.unique(t.corner_face[mine[t.corners]])
    corners = t.corners_of(faces)
    before = t.previous_corner[corners]
    into = number[t.corner_edge[before], _end(t.edges, t.corner_edge[before], t.corners[corners])]
    out = number[t.corner_edge[corners], _end(t.edges, t.corner_edge[corners], t.corners[corners])]
    cut = mine[t.corners[corners]]
    step, who = expanded(np.zeros(len(corners), np.int64), np.where(cut, 2, 1))
    pair = np.where(step == 0, into[who], out[who])
    vertices = np.where(cut[who], pair, t.corners[corners][who]).astype(np.int32)
    sizes = face_sizes(np.where(cut, 2, 1), t.sizes[faces])
    around = Faces(sizes, vertices, faces, corners[who].astype(np.int32))
    # Round the corner the other way than its faces go past it.
    loops = chained(out[cut], into[cut])
    first = t.corner_face[corners[cut]]
    leader = dict(zip(out[cut].tolist(), first.tolist(), strict=True))
    face = np.array([leader[int(i)] for i in loops.items[loops.offsets[:-1]]], np.int32)
    none = np.full(len(loops.items), -1, np.int32)
    caps = Faces(loops.sizes.astype(np.int32), loops.items.astype(np.int32), face, none)
    return [cleaned(around), cleaned(caps)]


def _end(edges: Ints, edge: Ints, vertex: Ints) -> Ints:
    """(k,) which end of its edge each vertex is: 0 or 1."""
    return np.asarray(edges[edge, 1] == vertex).astype(np.int64)
