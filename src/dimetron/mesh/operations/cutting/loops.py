"""New loops of edges across a ring of quads."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dimetron.counting import counted
from dimetron.mesh.around import expanded
from dimetron.mesh.arrays import Floats, Ints, Mask
from dimetron.mesh.edited import Edited, Note
from dimetron.mesh.limits import surface_kept
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import Drag, count, number, switch
from dimetron.mesh.replaced import Faces, Points, Replacement, face_sizes, last_faces, replaced
from dimetron.mesh.rings import ring
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.topology import Topology

#: More loops at once than this are a slip of the hand.
_MOST = 200
#: As near to an end as loops can be pressed, so that no face loses its area.
_NEAREST = 0.99


@dataclass(frozen=True)
class Loops:
    """How many, and where."""

    loops: int = count(1, high=_MOST, drag=Drag.ACROSS, hint="How many loops, evenly apart")
    shift: float = number(
        0.0,
        low=-1.0,
        high=1.0,
        hint="All of them nearer to one end (1) or the other (−1) of the edges they cross",
    )
    rounded: bool = switch(
        False, hint="Bend the new loops out as their neighbours run, not straight between them"
    )
    stays: bool = switch(
        False, title="surface stays", hint="The smooth surface keeps its shape, as nearly as it can"
    )


@operation(
    "loops",
    title="Edge loops",
    icon="edge-loops",
    takes=(Kind.EDGE,),
    key="Ctrl+Shift+R",
    order=1,
    bare=True,
)
def loops(mesh: Mesh, chosen: Selection, how: Loops) -> Edited:
    """Insert loops of edges across the ring of the chosen edges.

    Quads are divided; a triangle or a larger face at which a ring ends takes the points in. The
    new edges are selected.
    """
    topology = mesh.topology
    edges, turned = ring(topology, chosen.indices)
    k, n = how.loops, topology.vertex_count
    share = _shares(k, how.shift)
    a, b = topology.edges[edges].T
    along = np.where(turned[:, None], 1 - share[::-1], share)
    row_of = np.full(len(topology.edges), -1)
    row_of[edges] = np.arange(len(edges))
    marked = row_of[topology.corner_edge] >= 0
    hit = np.bincount(topology.corner_face, marked, minlength=topology.face_count)
    touched = np.flatnonzero(hit > 0)
    kinds = _kinds(topology, marked, touched)
    on_edges = _placed(mesh, edges, along, how.rounded).reshape(-1, 3)
    cut = _Cut(topology, row_of, k, n, along)
    grids = touched[kinds == 2]
    inner, low, high, part = cut.inside(grids, on_edges)
    points = Points(
        np.concatenate([on_edges, inner]),
        np.concatenate([np.repeat(a, k), low]),
        np.concatenate([np.repeat(b, k), high]),
        np.concatenate([along.ravel(), part]),
    )
    taken_in = touched[kinds == 0]
    faces = [cut.strips(touched[kinds == 1]), cut.grids(grids), cut.taken_in(taken_in)]
    done = replaced(mesh, Replacement(gone=touched, faces=faces, points=points)).mesh
    crossing = _new_edges(done.topology, len(points.a), len(edges), k)
    if how.stays:
        done = surface_kept(mesh, done, touched)
    return Edited(done, Selection(Kind.EDGE, crossing), _told(done, len(taken_in)))


def _told(mesh: Mesh, count: int) -> tuple[Note, ...]:
    """A note about the last faces, which a loop ends at."""
    if not count:
        return ()
    words = counted(count, "face at an end has", "faces at the ends have")
    where = last_faces(mesh, count)
    return (Note(f"{words} more corners now.", Kind.FACE, where),)


def _shares(k: int, shift: float) -> Floats:
    """(k,) places evenly apart, all of them pressed toward one end."""
    low, high = max(shift, 0.0) * _NEAREST, 1 + min(shift, 0.0) * _NEAREST
    return np.asarray(low + (high - low) * np.arange(1, k + 1) / (k + 1))


def _kinds(topology: Topology, marked: Mask, faces: Ints) -> Ints:
    """(k,) 1: a quad crossed once, from edge to edge; 2: crossed both ways; 0: anything else."""
    kinds = np.zeros(len(faces), np.int64)
    quad = topology.sizes[faces] == 4
    sides = marked[topology.offsets[faces[quad]][:, None] + np.arange(4)]
    across = (sides[:, 0] & sides[:, 2] & ~sides[:, 1] & ~sides[:, 3]) | (
        sides[:, 1] & sides[:, 3] & ~sides[:, 0] & ~sides[:, 2]
    )
    kinds[quad] = np.where(sides.all(axis=1), 2, np.where(across, 1, 0))
    return kinds


@dataclass(frozen=True, eq=False)
class _Cut:
    """Faces with k new vertices on each marked edge: those of row r (edge by edge) stand from
    n + r k on, from the edge's lower end to its higher one, by ``along`` (rows, k) of the way."""

    topology: Topology
    row_of: Ints
    k: int
    n: int
    along: Floats

    def on(self, corners: Ints) -> Ints:
        """(c, k) new vertices along the edges that start at corners, in the corner's direction."""
        first = self.n + self.row_of[self.topology.corner_edge[corners]] * self.k
        steps = np.where(self._up(corners), np.arange(self.k), np.arange(self.k)[::-1])
        return np.asarray(first[:, None] + steps)

    def _up(self, corners: Ints) -> Mask:
        t = self.topology
        return (t.corners[corners] < t.corners[t.next_corner[corners]])[:, None]

    def _shares(self, corners: Ints) -> Floats:
        """(c, k) how far along the edge that starts at each corner they lie."""
        along = self.along[self.row_of[self.topology.corner_edge[corners]]]
        return np.asarray(np.where(self._up(corners), along, 1 - along[:, ::-1]))

    def _row(self, begin: Ints, end: Ints, on: Ints) -> Ints:
        """(c, k + 2) vertices from one corner to another."""
        t = self.topology
        return np.concatenate([t.corners[begin][:, None], on, t.corners[end][:, None]], axis=1)

    def _turned(self, faces: Ints) -> Ints:
        """(q, 4) corners of quads, beginning with one at which a marked edge starts."""
        t = self.topology
        first = t.offsets[faces]
        turn = (self.row_of[t.corner_edge[first]] < 0).astype(np.int32)
        return np.asarray(first[:, None] + (np.arange(4) + turn[:, None]) % 4)

    def strips(self, faces: Ints) -> Faces:
        """k + 1 quads in place of one."""
        c0, c1, c2, c3 = self._turned(faces).T
        low = self._row(c0, c1, self.on(c0))
        high = self._row(c3, c2, self.on(c2)[:, ::-1])
        ends = np.zeros((len(faces), 1)), np.ones((len(faces), 1))
        below = np.concatenate([ends[0], self._shares(c0), ends[1]], axis=1)
        above = np.concatenate([ends[0], 1 - self._shares(c2)[:, ::-1], ends[1]], axis=1)
        count = len(faces) * (self.k + 1)
        size = np.full(count, 4, np.int32)
        face = np.repeat(faces, self.k + 1)
        corner, other = (
            np.repeat(np.stack(c, axis=1), self.k + 1, axis=0).ravel()
            for c in ((c0, c0, c3, c3), (c1, c1, c2, c2))
        )
        return Faces(size, _cells(low, high), face, corner, other, _cells(below, above))

    def inside(self, faces: Ints, on_edges: Floats) -> tuple[Floats, Ints, Ints, Floats]:
        """The points within quads that are crossed both ways, k times k of each, and between which
        two old vertices they lie and how far along."""
        k, t = self.k, self.topology
        c = t.offsets[faces][:, None] + np.arange(4)
        p = [t.corners[c[:, i]] for i in range(4)]
        south, north = self.on(c[:, 0]), self.on(c[:, 2])[:, ::-1]
        # Between the loops that end on the sides, as far along as those of the other way are.
        west, east = 1 - self._shares(c[:, 3])[:, ::-1], self._shares(c[:, 1])
        v = ((west + east) / 2)[:, :, None, None]
        low, high = on_edges[south - self.n][:, None], on_edges[north - self.n][:, None]
        where = low * (1 - v) + high * v
        count = len(faces) * k * k
        a, b = np.repeat(p[0], k * k), np.repeat(p[2], k * k)
        return where.reshape(count, 3), a, b, np.full(count, 0.5)

    def grids(self, faces: Ints) -> Faces:
        """(k + 1) squared quads in place of one that is crossed both ways."""
        k, t = self.k, self.topology
        c = t.offsets[faces][:, None] + np.arange(4)
        grid = np.empty((len(faces), k + 2, k + 2), np.int64)
        grid[:, 0] = self._row(c[:, 0], c[:, 1], self.on(c[:, 0]))
        grid[:, -1] = self._row(c[:, 3], c[:, 2], self.on(c[:, 2])[:, ::-1])
        grid[:, 1:-1, 0] = self.on(c[:, 3])[:, ::-1]
        grid[:, 1:-1, -1] = self.on(c[:, 1])
        first = self.n + len(self.along) * k
        grid[:, 1:-1, 1:-1] = first + np.arange(len(faces) * k * k).reshape(-1, k, k)
        low, high = grid[:, :-1].reshape(-1, k + 2), grid[:, 1:].reshape(-1, k + 2)
        parts = (k + 1) ** 2
        corner = np.repeat(c, parts, axis=0).ravel()
        size = np.full(len(faces) * parts, 4, np.int32)
        return Faces(size, _cells(low, high), np.repeat(faces, parts), corner)

    def taken_in(self, faces: Ints) -> Faces:
        """The same faces with the new vertices among their corners."""
        t = self.topology
        corners = t.corners_of(faces)
        more = np.where(self.row_of[t.corner_edge[corners]] >= 0, self.k, 0)
        total, who = expanded(np.zeros(len(corners), np.int64), 1 + more)
        vertices = t.corners[corners][who].astype(np.int32)
        share = np.zeros(len(who))
        grown = corners[more > 0]
        vertices[total > 0] = self.on(grown).ravel()
        share[total > 0] = self._shares(grown).ravel()
        sizes = face_sizes(1 + more, t.sizes[faces])
        own = corners[who]
        return Faces(sizes, vertices, faces, own, t.next_corner[own], share)


def _cells(low: NDArray[Any], high: NDArray[Any]) -> NDArray[Any]:
    """Four by four the values round each cell between rows (r, s) and those above them."""
    cells = np.stack([low[:, :-1], low[:, 1:], high[:, 1:], high[:, :-1]], axis=2)
    return np.asarray(cells.reshape(-1))


def _placed(mesh: Mesh, edges: Ints, along: Floats, rounded: bool) -> Floats:
    """(e, k, 3) where the new vertices stand."""
    a, b = (mesh.positions[end] for end in mesh.topology.edges[edges].T)
    t = along[:, :, None]
    straight = a[:, None] * (1 - t) + b[:, None] * t
    if not rounded:
        return np.asarray(straight)
    low, high = _tangents(mesh, edges)
    h = t * t * (3 - 2 * t)
    bent = (
        a[:, None] * (1 - h)
        + b[:, None] * h
        + low[:, None] * (t * (1 - t) ** 2)
        + high[:, None] * (t * t * (1 - t))
    )
    return np.asarray(bent)


def _tangents(mesh: Mesh, edges: Ints) -> tuple[Floats, Floats]:
    """(e, 3) which way a curve through each edge's ends and what follows beyond them runs: away
    from the lower end, and away from the higher one toward the lower."""
    t = mesh.topology
    a, b = t.edges[edges].T
    way = mesh.positions[b] - mesh.positions[a]
    return (
        (way - _beyond(mesh, edges, a, way)) / 2,
        (-way - _beyond(mesh, edges, b, -way)) / 2,
    )


def _beyond(mesh: Mesh, edges: Ints, vertex: Ints, way: Floats) -> Floats:
    """(e, 3) from each vertex to the next one beyond it, as straight on from the edge as can be;
    as far as the edge goes the other way where nothing follows."""
    t = mesh.topology
    starts, corners = t.vertex_corners
    counts = starts[vertex + 1] - starts[vertex]
    total, who = expanded(starts[vertex], counts)
    own = corners[total]
    other = np.concatenate([t.corners[t.next_corner[own]], t.corners[t.previous_corner[own]]])
    who = np.tile(who, 2)
    out = mesh.positions[other] - mesh.positions[vertex][who]
    cosine = -(out * way[who]).sum(axis=1) / np.maximum(
        np.linalg.norm(out, axis=1) * np.linalg.norm(way[who], axis=1), 1e-12
    )
    best = np.full(len(vertex), 0.3)
    np.maximum.at(best, who, cosine)
    found = -way.copy()
    hit = cosine >= best[who]
    found[who[hit]] = out[hit]
    return found


def _new_edges(topology: Topology, count: int, edges: int, k: int) -> Ints:
    """Edges between new vertices across the ring, not along an edge that was there."""
    at = topology.edges - (topology.vertex_count - count)
    row = np.where(at < edges * k, at // k, edges + at)
    return np.flatnonzero((at >= 0).all(axis=1) & (row[:, 0] != row[:, 1])).astype(np.int32)
