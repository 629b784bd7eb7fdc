"""Rings of edges across quads, loops of edges along them, and bands of faces."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from dimetron.mesh.arrays import Floats, Ints, Mask, distinct, spans
from dimetron.mesh.topology import Topology


class Ring(NamedTuple):
    """edges (k,) that lie across from one another in quads; turned (k,): it runs from its higher
    vertex to its lower one, when the first of its ring runs from its lower one."""

    edges: Ints
    turned: Mask


def ring(topology: Topology, edges: Ints) -> Ring:
    """All edges across from the given ones, quad after quad."""
    turned = np.full(len(topology.edges), -1, np.int8)
    turned[edges] = 0
    quad = topology.sizes[topology.corner_face] == 4
    # From each corner's edge to the one across: two corners on.
    front = np.asarray(edges)
    corners_from, corners = topology.edge_corners
    found = [front]
    while len(front):
        starts = corners_from[front]
        counts = corners_from[front + 1] - starts
        own = corners[spans(starts, counts)]
        sense = np.repeat(turned[front], counts)
        sense, own = sense[quad[own]], own[quad[own]]
        across = topology.next_corner[topology.next_corner[own]]
        other = topology.corner_edge[across]
        # The far edge runs the other way round the face.
        flips = _runs_up(topology, own) == _runs_up(topology, across)
        fresh = turned[other] < 0
        front, at = np.unique(other[fresh], return_index=True)
        turned[front] = (sense ^ flips)[fresh][at]
        found.append(front)
    all_ = np.sort(np.concatenate(found)).astype(np.int32)
    all_ = distinct(all_)
    return Ring(all_, turned[all_] == 1)


def _runs_up(topology: Topology, corners: Ints) -> Mask:
    """(k,) whether a corner's edge runs from its lower vertex to its higher one."""
    return topology.corners[corners] < topology.corners[topology.next_corner[corners]]


def loop(topology: Topology, edges: Ints) -> Ints:
    """Edges that go straight on from the given ones: at vertices where four edges meet across from
    one another, along the border where there is one."""
    valence, faces = topology.valence, topology.face_valence
    borders = topology.border_valence
    lone = topology.edge_face_count == 1
    there = np.zeros(len(topology.edges), bool)
    there[edges] = True
    front = np.asarray(edges)
    starts, corners = topology.vertex_corners
    while len(front):
        edge = np.repeat(front, 2)
        vertex = topology.edges[front].ravel()
        inner = (valence[vertex] == 4) & (faces[vertex] == 4) & ~lone[edge]
        along = lone[edge] & (borders[vertex] == 2)
        fresh = np.concatenate(
            [
                _across(topology, starts, corners, edge[inner], vertex[inner]),
                _border_next(topology, starts, corners, edge[along], vertex[along], lone),
            ]
        )
        front = np.unique(fresh[~there[fresh]])
        there[front] = True
    return np.flatnonzero(there).astype(np.int32)


def _edges_at(topology: Topology, starts: Ints, corners: Ints, vertex: Ints) -> tuple[Ints, Ints]:
    """Edges at vertices (k,), some twice, and (m,) of which of the vertices each is."""
    counts = starts[vertex + 1] - starts[vertex]
    own = corners[spans(starts[vertex], counts)]
    who = np.repeat(np.arange(len(vertex)), counts)
    before = topology.previous_corner[own]
    edges = np.concatenate([topology.corner_edge[own], topology.corner_edge[before]])
    return edges, np.tile(who, 2)


def _across(topology: Topology, starts: Ints, corners: Ints, edge: Ints, vertex: Ints) -> Ints:
    """(k,) of the four edges at a vertex the one that shares no face with the given one."""
    if not len(edge):
        return np.zeros(0, np.int32)
    counts = starts[vertex + 1] - starts[vertex]
    own = corners[spans(starts[vertex], counts)]
    who = np.repeat(np.arange(len(vertex)), counts)
    out, into = topology.corner_edge[own], topology.corner_edge[topology.previous_corner[own]]
    away = (out != edge[who]) & (into != edge[who])
    # Two faces do not touch it; what both have is the edge across.
    pairs = np.sort(
        np.concatenate([out[away] + 0, into[away]]).astype(np.int64)
        + (np.tile(who[away], 2).astype(np.int64) * len(topology.edges))
    )
    twice = pairs[1:][pairs[1:] == pairs[:-1]]
    return np.asarray(twice % len(topology.edges))


def straight_on(topology: Topology, edges: Ints, vertices: Ints) -> Ints:
    """(k,) the edges that go straight on from edges (k,) at one of their vertices (k,), where four
    meet among four faces; -1 elsewhere."""
    found = np.full(len(edges), -1, np.int32)
    inner = (topology.valence[vertices] == 4) & (topology.face_valence[vertices] == 4)
    inner &= topology.edge_face_count[edges] == 2
    starts, corners = topology.vertex_corners
    found[inner] = _across(topology, starts, corners, edges[inner], vertices[inner])
    return found


def _border_next(
    topology: Topology, starts: Ints, corners: Ints, edge: Ints, vertex: Ints, lone: Mask
) -> Ints:
    """The other border edge at vertices of a border."""
    if not len(edge):
        return np.zeros(0, np.int32)
    edges, who = _edges_at(topology, starts, corners, vertex)
    return np.asarray(edges[lone[edges] & (edges != edge[who])])


def band(topology: Topology, edges: Ints) -> Ints:
    """The quads that lie across the ring of some edges."""
    there = np.zeros(len(topology.edges), bool)
    there[ring(topology, edges).edges] = True
    hit = np.bincount(
        topology.corner_face[there[topology.corner_edge]], minlength=topology.face_count
    )
    return np.flatnonzero((hit >= 2) & (topology.sizes == 4)).astype(np.int32)


def lengths(positions: Floats, topology: Topology, edges: Ints) -> Floats:
    """(k,) how long edges are, mm."""
    a, b = topology.edges[edges].T
    return np.asarray(np.linalg.norm(positions[b] - positions[a], axis=1))
