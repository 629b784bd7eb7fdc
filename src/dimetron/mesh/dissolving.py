"""Faces made one across edges that are taken out."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.around import Chains, chained, components
from dimetron.mesh.arrays import Ints, Mask, unit
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.replaced import Faces, Replacement, replaced
from dimetron.mesh.topology import Topology

#: A vertex at which the way turns by more is a corner.
_SHARP_DEG = 75.0


def twins(topology: Topology) -> Ints:
    """(c,) of each corner the one whose edge is the same, run the other way; -1 unless just two
    faces meet there and look the same way."""
    starts, corners = topology.edge_corners
    found = np.full(len(topology.corners), -1, np.int32)
    pairs = np.flatnonzero(topology.edge_face_count == 2)
    a, b = corners[starts[pairs]], corners[starts[pairs] + 1]
    fair = (topology.corners[a] != topology.corners[b]) & (
        topology.corner_face[a] != topology.corner_face[b]
    )
    found[a[fair]], found[b[fair]] = b[fair], a[fair]
    return found


def without_edges(mesh: Mesh, out: Mask, may_go: Mask) -> tuple[Edited, Ints]:
    """Faces on both sides of edges (e,) become one, and (k,) the edges that stay because a face
    with a hole would be left. Of the vertices that may go (n,) those go too at which only two edges
    meet then, unless a face would be left with fewer than three."""
    t = mesh.topology
    twin = twins(t)
    out = _with_slits(t, twin, out & (np.bincount(t.corner_edge, twin >= 0, len(t.edges)) == 2))
    may_go = may_go & ~_bends(mesh, out)
    chains, kept = _outer(t, twin, out, may_go)
    if len(kept):
        out = out.copy()
        out[kept] = False
        chains, _ = _outer(t, twin, out, may_go)
    stays = _staying(t, chains, may_go & _loose(t, out))
    items = chains.items[stays].astype(np.int32)
    sizes = np.bincount(
        np.repeat(np.arange(len(chains)), chains.sizes)[stays], minlength=len(chains)
    )
    first = chains.items[chains.offsets[:-1]]
    gone = np.unique(t.corner_face[chains.items])
    every = np.unique(t.corner_face[out[t.corner_edge]])
    made = Faces(sizes.astype(np.int32), t.corners[items], t.corner_face[first], items)
    done = replaced(mesh, Replacement(gone=np.union1d(gone, every), faces=(made,)))
    return done, kept


def _with_slits(t: Topology, twin: Ints, out: Mask) -> Mask:
    """Also the edges between faces that become one by way of others."""
    group = _groups(t, twin, out)
    paired = np.flatnonzero(twin >= 0)
    same = group[t.corner_face[paired]] == group[t.corner_face[twin[paired]]]
    out = out.copy()
    out[t.corner_edge[paired[same]]] = True
    return out


def _groups(t: Topology, twin: Ints, out: Mask) -> Ints:
    """(f,) the face that each becomes part of."""
    inner = np.flatnonzero(out[t.corner_edge])
    return components(
        t.face_count, np.stack([t.corner_face[inner], t.corner_face[twin[inner]]], axis=1)
    )


def _bends(mesh: Mesh, out: Mask) -> Mask:
    """(n,) vertices at which just two edges stay, and the way turns sharply from one to the
    other: without them the surface would be another."""
    t = mesh.topology
    n = t.vertex_count
    ends = t.edges[~out]
    way = unit(mesh.positions[ends[:, 1]] - mesh.positions[ends[:, 0]])
    vertex = ends.ravel("F")
    total = np.stack(
        [np.bincount(vertex, np.concatenate([w, -w]), minlength=n) for w in way.T], axis=1
    )
    # Two unit vectors that lead away sum to nothing where the way is straight.
    bent = np.linalg.norm(total, axis=1) > 2 * np.sin(np.radians(_SHARP_DEG) / 2)
    return np.asarray((np.bincount(vertex, minlength=n) == 2) & bent)


def _staying(t: Topology, chains: Chains, loose: Mask) -> Mask:
    """(k,) which of the corners round the faces stay: those of loose vertices go, unless one of the
    faces needs them."""
    goes = loose.copy()
    while True:
        stays = ~goes[t.corners[chains.items]]
        sizes = np.add.reduceat(stays, chains.offsets[:-1]) if len(chains) else chains.sizes
        needed = np.repeat(sizes < 3, chains.sizes) & ~stays
        if not needed.any():
            return stays
        goes[t.corners[chains.items[needed]]] = False


def _outer(t: Topology, twin: Ints, out: Mask, may_go: Mask) -> tuple[Chains, Ints]:
    """Corners round the faces that become one; and edges within those that would have a hole, or no
    rim of three."""
    inner = np.flatnonzero(out[t.corner_edge])
    group = _groups(t, twin, out)
    touched = np.zeros(t.face_count, bool)
    touched[t.corner_face[inner]] = True
    # A vertex that is taken out of a face beside the groups changes that face too.
    loose = may_go & _loose(t, out)
    touched[t.corner_face[loose[t.corners]]] = True
    corners = np.flatnonzero(touched[t.corner_face] & ~out[t.corner_edge])
    loops = chained(corners, _following(t, twin, out, corners))
    owner = group[t.corner_face[loops.items[loops.offsets[:-1]]]]
    rims = np.bincount(owner, minlength=int(group.max(initial=-1)) + 1)
    among = np.unique(group[touched])
    bad = np.zeros(len(rims), bool)
    bad[among[rims[among] != 1]] = True
    kept = np.unique(t.corner_edge[inner[bad[group[t.corner_face[inner]]]]])
    return loops, kept


def _following(t: Topology, twin: Ints, out: Mask, corners: Ints) -> Ints:
    """(k,) the next corner round the joined face."""
    now = t.next_corner[corners]
    for _ in range(len(t.corners)):
        within = out[t.corner_edge[now]]
        if not within.any():
            break
        now = np.where(within, t.next_corner[twin[now]], now)
    return now


def _loose(t: Topology, out: Mask) -> Mask:
    """(n,) vertices at which an edge goes and no more than two stay."""
    n = t.vertex_count
    went = np.bincount(t.edges[out].ravel(), minlength=n) > 0
    return went & (np.bincount(t.edges[~out].ravel(), minlength=n) <= 2)
