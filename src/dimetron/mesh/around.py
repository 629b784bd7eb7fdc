"""What hangs together around vertices, and what follows one another along chains and loops."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from dimetron.mesh.arrays import Ints, Mask, spans
from dimetron.mesh.topology import Topology


def components(count: int, pairs: Ints) -> Ints:
    """(count,) which part each of so many things belongs to, where pairs (k, 2) hang together."""
    from scipy.sparse import coo_matrix  # takes a while; only some operations need it
    from scipy.sparse.csgraph import connected_components

    weights = np.ones(len(pairs), np.int8)
    graph = coo_matrix((weights, (pairs[:, 0], pairs[:, 1])), (count, count))
    return np.asarray(connected_components(graph, directed=False)[1])


def corners_at(topology: Topology, vertices: Ints) -> Ints:
    """All corners at some vertices, rising."""
    there = np.zeros(topology.vertex_count, bool)
    there[vertices] = True
    return np.flatnonzero(there[topology.corners]).astype(np.int32)


def sectors(topology: Topology, corners: Ints, split: Mask) -> Ints:
    """(k,) numbers from 0: corners (k,) of one number lie at the same vertex and hang together
    there by edges that are not split (e,)."""
    mine = np.arange(len(corners))
    edge = np.concatenate(
        [topology.corner_edge[corners], topology.corner_edge[topology.previous_corner[corners]]]
    )
    vertex, who = np.tile(topology.corners[corners], 2), np.tile(mine, 2)
    joins = ~split[edge]
    key = edge[joins].astype(np.int64) * 2 + (topology.edges[edge[joins], 0] == vertex[joins])
    order = np.argsort(key, kind="stable")
    same = key[order][1:] == key[order][:-1]
    who = who[joins][order]
    return components(len(corners), np.stack([who[:-1][same], who[1:][same]], axis=1))


class Chains(NamedTuple):
    """Things in order, chain by chain: chain i is items[offsets[i]:offsets[i+1]]; closed (k,): it
    leads back to its first."""

    items: Ints
    offsets: Ints
    closed: Mask

    def __len__(self) -> int:
        return len(self.closed)

    def chain(self, index: int) -> Ints:
        """The things of one chain."""
        return self.items[self.offsets[index] : self.offsets[index + 1]]

    @property
    def sizes(self) -> Ints:
        """(k,) how many things each has."""
        return np.diff(self.offsets)


def chained(begin: Ints, end: Ints) -> Chains:
    """Links from one thing to the next (k,), (k,) put in order. A thing that begins several links
    follows one of them."""
    names, at = np.unique(np.concatenate([begin, end]), return_inverse=True)
    count, links = len(names), len(begin)
    a, b = at[:links], at[links:]
    after: Ints = np.full(count, -1, np.int64)
    after[a] = b
    led: Ints = np.full(count, -1, np.int64)
    linked = np.flatnonzero(after >= 0)
    led[after[linked]] = linked
    # Of several that lead to the same thing only the last counts.
    lost = linked[led[after[linked]] != linked]
    after[lost] = -1
    part = components(
        count, np.stack([np.arange(count), np.where(after < 0, np.arange(count), after)], 1)
    )
    chains = int(part.max()) + 1 if count else 0
    start = np.full(chains, count, np.int64)
    np.minimum.at(start, part, np.arange(count))
    heads = np.flatnonzero(led < 0)
    closed = np.ones(chains, bool)
    closed[part[heads]] = False
    start[part[heads]] = heads
    rank: Ints = np.zeros(count, np.int64)
    now, first, step = start, start, 0
    while len(now):
        rank[now] = step
        following = after[now]
        on = (following >= 0) & (following != first)
        now, first, step = following[on], first[on], step + 1
    order = np.lexsort((rank, part))
    offsets = np.concatenate([[0], np.cumsum(np.bincount(part, minlength=chains))])
    return Chains(names[order], offsets.astype(np.int64), closed)


def border_loops(topology: Topology, edges: Ints | None = None) -> Chains:
    """Loops of vertices along the border (of these edges), each running so that a face put within
    it looks as its neighbours do."""
    lone = topology.edge_face_count[topology.corner_edge] == 1
    if edges is not None:
        among = np.zeros(len(topology.edges), bool)
        among[edges] = True
        lone &= among[topology.corner_edge]
    corners = np.flatnonzero(lone)
    begin, end = topology.corners[topology.next_corner[corners]], topology.corners[corners]
    return chained(begin, end)


def expanded(starts: Ints, sizes: Ints) -> tuple[Ints, Ints]:
    """Spans one after the other, and (n,) which span each number is of."""
    return spans(starts, sizes), np.repeat(np.arange(len(sizes)), sizes)
