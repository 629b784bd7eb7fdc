"""New faces drawn out of edges."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import Floats, Ints, unit
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.replaced import Points, Replacement, polygons, replaced
from dimetron.mesh.select import Kind, Selection


def outward(mesh: Mesh, edges: Ints) -> Floats:
    """Unit mean way (3,) out of a surface at edges (k,): within the face and away from it at a
    border, along the normal elsewhere; up if they cancel out."""
    t = mesh.topology
    starts, corners = t.edge_corners
    own = corners[starts[edges]]
    ends = mesh.positions[t.corners[t.next_corner[own]]] - mesh.positions[t.corners[own]]
    normal = mesh.face_normals[t.corner_face[own]]
    aside = unit(np.cross(ends, normal))
    way = np.where((t.edge_face_count[edges] == 1)[:, None], aside, normal).sum(axis=0)
    long = float(np.linalg.norm(way))
    return np.array([0.0, 0.0, 1.0]) if long < 1e-9 else np.asarray(way / long)


def drawn_out(mesh: Mesh, edges: Ints, by: Floats) -> Edited:
    """A quad from each edge (k,) to its copy, moved by a vector (3,); the copies are selected."""
    t = mesh.topology
    starts, corners = t.edge_corners
    own = corners[starts[edges]]
    after = t.next_corner[own]
    a, b = t.corners[own], t.corners[after]
    old = np.unique(t.edges[edges])
    copy = np.full(t.vertex_count, -1)
    copy[old] = t.vertex_count + np.arange(len(old))
    quads = np.stack([b, a, copy[a], copy[b]], axis=1).astype(np.int32)
    like = np.stack([after, own, own, after], axis=1)
    what = Replacement(
        faces=(polygons(quads, t.corner_face[own], like),),
        points=Points(mesh.positions[old] + by, old.astype(np.int32)),
    )
    done = replaced(mesh, what).mesh
    made = done.topology.edge_between(copy[a], copy[b])
    return Edited(done, Selection(Kind.EDGE, np.unique(made).astype(np.int32)))
