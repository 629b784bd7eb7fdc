"""What an operation gives back, and the one function that carries layers and selection along."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from dimetron.mesh.arrays import Floats, Ints, Mask, freeze
from dimetron.mesh.layers import On, Source, layers
from dimetron.mesh.mesh import Change, Mesh
from dimetron.mesh.select import Kind, Selection, none
from dimetron.mesh.topology import Topology, topology_of
from dimetron.mesh.triangulate import carried, kept_triangles

NOTHING = Selection(Kind.WHOLE, none())


class Note(NamedTuple):
    """Something to know about a result, and the elements it is about."""

    words: str
    kind: Kind
    where: Ints


@dataclass(frozen=True, eq=False)
class Origin:
    """Where the elements of a new topology come from, each as a ``Source``; edge None: as their
    ends do."""

    vertex: Source
    face: Ints
    corner: Source
    edge: Ints | None = None


@dataclass(frozen=True, eq=False)
class Edited:
    """selection: what a person would go on with. others: further meshes that were made of it."""

    mesh: Mesh
    selection: Selection = NOTHING
    notes: tuple[Note, ...] = ()
    others: tuple[Mesh, ...] = ()


def rebuilt(
    mesh: Mesh,
    positions: Floats,
    topology: Topology,
    origin: Origin,
    chosen: Selection = NOTHING,
    renewed: Ints | None = None,
) -> Edited:
    """A mesh of other faces that keeps what was known of the elements they come from.

    positions (n', 3); chosen: a selection of the old mesh, carried along. renewed (k,): if given,
    the other faces keep their place and shape, and the triangles that cover them are taken over.
    """
    from_edge = origin.edge
    on_edges = any(layer.on is On.EDGE for layer in mesh.layers.values())
    if from_edge is None and (on_edges or chosen.kind is Kind.EDGE):
        from_edge = _edges_from(mesh.topology, topology, origin.vertex)
    nowhere = np.zeros(0, np.int32)
    source: dict[On, Source] = {
        On.VERTEX: origin.vertex,
        On.EDGE: nowhere if from_edge is None else from_edge,
        On.FACE: origin.face,
        On.CORNER: origin.corner,
    }
    kept = {name: layer.taken(source[layer.on]) for name, layer in mesh.layers.items()}
    made = Mesh(np.ascontiguousarray(positions, np.float64), topology, layers(**kept))
    if renewed is not None and "triangles" in mesh.__dict__:
        triangles = carried(mesh.triangles, made.positions, topology, renewed)
        freeze(triangles)
        made.__dict__["triangles"] = triangles
        mesh.let_follow(made, Change(faces=renewed))
    return Edited(made, _carried(mesh, chosen, source))


def _carried(mesh: Mesh, chosen: Selection, source: dict[On, Source]) -> Selection:
    """The elements that come from chosen ones."""
    if chosen.kind is Kind.WHOLE or not len(chosen.indices):
        return Selection(chosen.kind, none())
    on = On(chosen.kind.value)
    was = np.zeros(mesh.count(on) + 1)  # the last one stands for "from none"
    was[chosen.indices] = 1.0
    origin = source[on]
    if isinstance(origin, np.ndarray):
        among = was[origin] > 0
    else:
        share = abs(origin) @ was[:-1]
        among = (share > 0) & np.isclose(share, np.asarray(abs(origin).sum(axis=1)).ravel())
    return Selection(chosen.kind, np.flatnonzero(among).astype(np.int32))


def _range_of(source: Source) -> tuple[Ints, Ints, Ints]:
    """Of how many old elements each new one comes (0 to 2, or 3 for more), the first of them and
    the last; -1 for none."""
    if isinstance(source, np.ndarray):
        return np.where(source < 0, 0, 1), source, source
    count = np.diff(source.indptr)
    ends = source.indptr[1:] - 1
    sorted_ = source if source.has_sorted_indices else source.sorted_indices()
    pad = np.append(sorted_.indices, 0)
    first = np.where(count > 0, pad[np.minimum(source.indptr[:-1], len(pad) - 1)], -1)
    last = np.where(count > 0, pad[ends.clip(0)], -1)
    return np.minimum(count, 3), first, last


def _edges_from(before: Topology, after: Topology, vertex: Source) -> Ints:
    """(e',) the old edge that each new one lies along: all vertices its two ends come from are that
    edge's own; -1 where there is none."""
    count, first, last = _range_of(vertex)
    a, b = after.edges.T
    low = np.minimum(first[a], first[b])
    high = np.maximum(last[a], last[b])
    along = (count[a] <= 2) & (count[b] <= 2) & (low >= 0)
    for end in (first[a], first[b], last[a], last[b]):
        along &= (end == low) | (end == high)
    found = np.full(len(a), -1, np.int32)
    found[along] = before.edge_between(low[along], high[along])
    return found


def merged(mesh: Mesh, group: Ints, chosen: Selection = NOTHING) -> Edited:
    """Vertices of one group (n,) become one, in their middle; those that are alone in theirs stay
    in order. Corners that come to lie on the one before them go, and with them faces of fewer than
    three.
    """
    topology = mesh.topology
    _, first, at = np.unique(group, return_index=True, return_inverse=True)
    rank = np.empty(len(first), np.int32)
    rank[np.argsort(first, kind="stable")] = np.arange(len(first))
    new = rank[at]
    sums = [np.bincount(new, mesh.positions[:, axis]) for axis in range(3)]
    positions = np.stack(sums, axis=1) / np.bincount(new)[:, None]
    corners = new[topology.corners]
    keep = corners != corners[topology.next_corner]
    sizes = np.bincount(topology.corner_face, keep, minlength=topology.face_count).astype(np.int64)
    stays = sizes >= 3
    return _with_corners(mesh, new, positions, keep & stays[topology.corner_face], stays, chosen)


def without_faces(mesh: Mesh, faces: Ints, chosen: Selection = NOTHING) -> Edited:
    """Delete faces (k,) and the vertices that no face uses any more."""
    topology = mesh.topology
    stays = np.ones(topology.face_count, bool)
    stays[faces] = False
    keep = stays[topology.corner_face]
    used = np.zeros(topology.vertex_count, bool)
    used[topology.corners[keep]] = True
    return _with_corners(mesh, *_only(mesh, used), keep, stays, chosen)


def without_loose_vertices(mesh: Mesh) -> Mesh:
    """Drop vertices that no face uses; the same mesh if there are none."""
    topology = mesh.topology
    used = np.zeros(topology.vertex_count, bool)
    used[topology.corners] = True
    if used.all():
        return mesh
    every = np.ones(len(topology.corners), bool)
    faces = np.ones(topology.face_count, bool)
    return _with_corners(mesh, *_only(mesh, used), every, faces, NOTHING).mesh


def _only(mesh: Mesh, used: Mask) -> tuple[Ints, Floats]:
    new = np.where(used, np.cumsum(used) - 1, -1).astype(np.int32)
    return new, mesh.positions[used]


def _with_corners(
    mesh: Mesh, new: Ints, positions: Floats, keep: Mask, stays: Mask, chosen: Selection
) -> Edited:
    """The kept corners (c,) of the faces that stay (f,), with their vertices renamed (n,)."""
    old = mesh.topology
    sizes = np.bincount(old.corner_face[keep], minlength=old.face_count)[stays]
    topology = topology_of(sizes, new[old.corners[keep]], len(positions))
    there = np.flatnonzero(new >= 0)
    # The first of several that become one stands for them.
    vertex = np.full(len(positions), -1, np.int32)
    vertex[new[there][::-1]] = there[::-1]
    on_edges = chosen.kind is Kind.EDGE or any(
        layer.on is On.EDGE for layer in mesh.layers.values()
    )
    edge = _merged_edges(old, topology, new) if on_edges else None
    face, corner = (np.flatnonzero(mask).astype(np.int32) for mask in (stays, keep))
    done = rebuilt(mesh, positions, topology, Origin(vertex, face, corner, edge), chosen)
    if "triangles" in mesh.__dict__:
        same = stays & (np.bincount(old.corner_face, keep, minlength=old.face_count) == old.sizes)
        moved = (positions[new.clip(0)] != mesh.positions).any(axis=1)
        same[old.corner_face[moved[old.corners]]] = False
        where = done.mesh.positions
        triangles = kept_triangles(mesh.triangles, old, new, where, topology, face, same)
        freeze(triangles)
        done.mesh.__dict__["triangles"] = triangles
    return done


def _merged_edges(before: Topology, after: Topology, new: Ints) -> Ints:
    """(e',) the first old edge that becomes each new one."""
    ends = new[before.edges]
    there = np.flatnonzero((ends[:, 0] != ends[:, 1]) & (ends >= 0).all(axis=1))
    at = after.edge_between(*ends[there].T)
    there, at = there[at >= 0], at[at >= 0]
    found = np.full(len(after.edges), -1, np.int32)
    found[at[::-1]] = there[::-1]
    return found
