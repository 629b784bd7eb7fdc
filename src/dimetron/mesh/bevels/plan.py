"""What a bevel makes at the ends of edges: which points there are, and who names them.

Corners around a vertex fall into sectors between the bevelled edges. A sector between two edges
takes one new point. One that lies between an edge and itself, or between an edge and a border,
takes a point beside the edge, with the old vertex staying farther round where there is room.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.around import corners_at, sectors
from dimetron.mesh.arrays import Floats, Ints, Mask, MeshError, unit
from dimetron.mesh.mesh import Mesh

#: Sharper corners than this sine are taken as this sharp, so that points stay near.
_LEAST_SINE = 0.1
#: And edges that turn by less than this (1 - cosine) as turning by so much.
_LEAST_TURN = 0.3


class Around:
    """The corners (k,) at the ends of bevelled edges and their sectors (k,). starts, ends (k,):
    whether the corner's own edge, or the one that leads to it, is bevelled. shares (e,): how wide
    each edge's band is for a width of one."""

    def __init__(self, mesh: Mesh, edges: Ints, shares: Floats) -> None:
        t = mesh.topology
        self.mesh, self.t, self.edges = mesh, t, edges
        cut = np.zeros(len(t.edges), bool)
        cut[edges] = True
        self.corners = corners_at(t, np.unique(t.edges[edges]))
        before = t.previous_corner[self.corners]
        self.sector = sectors(t, self.corners, cut)
        self.own, self.into = t.corner_edge[self.corners], t.corner_edge[before]
        self._share = np.ones(len(t.edges))
        self._share[edges] = shares
        self.starts, self.ends = cut[self.own], cut[self.into]
        p, at = mesh.positions, t.corners[self.corners]
        self.vertex = at
        self._out = unit(p[t.corners[t.next_corner[self.corners]]] - p[at])
        self._in = unit(p[t.corners[before]] - p[at])
        self._normal = mesh.face_normals[t.corner_face[self.corners]]

    def share(self, corners: Ints, start: bool) -> Floats:
        """(k,) how wide the own edge's band is, or that of the one that leads there."""
        return self._share[(self.own if start else self.into)[corners]]

    def beside(self, corners: Ints, start: bool) -> Floats:
        """(k, 3) along the other edge of some of the corners, for a width of one away from the own
        edge (start) or from the one that leads there."""
        out, into = self._out[corners], self._in[corners]
        sine = np.linalg.norm(np.cross(out, into), axis=1).clip(_LEAST_SINE, None)
        long = self.share(corners, start) / sine
        return np.asarray((into if start else out) * long[:, None])

    def inward(self, corners: Ints, start: bool) -> Floats:
        """(k, 3) within the face, square to the own edge or to the one that leads there."""
        normal = self._normal[corners]
        along = self._out[corners] if start else -self._in[corners]
        return unit(np.cross(normal, along))


@dataclass(frozen=True, eq=False)
class Plan:
    """Points p: the vertex (p,) each comes from and where it goes for a width of one, rate (p, 3).

    first, last (c,): of every corner of the mesh the points it names, -1 for its own vertex; row
    (c,): those between them as well, if not -1. rows (r, 2): the points at both sides of a band's
    end, the lower one first; slide (r, 3): the way along which the profile's corner may lie. bands:
    for both ends of each band its row, and whether it runs from its higher point; band_corners
    (b, 4), band_face (b,): what it is like. cap_*: links of the faces that close corners, by points
    or, from the number of points on, by ``kept`` vertices.
    """

    vertex: Ints
    rate: Floats
    first: Ints
    last: Ints
    row: Ints
    rows: Ints
    slide: Floats
    bands: tuple[tuple[Ints, Mask], tuple[Ints, Mask]]
    band_corners: Ints
    band_face: Ints
    cap_begin: Ints
    cap_end: Ints
    cap_row: Ints
    cap_face: Ints
    kept: Ints

    def rates(self, corners: Ints, named: Ints) -> Floats:
        """(k, 3) how what corners name goes for a width of one."""
        point = named[corners]
        found = self.rate[point.clip(0)]
        found[point < 0] = 0.0
        return np.asarray(found)


@dataclass(frozen=True, eq=False)
class _Points:
    """start, end (s,): of each sector the point beside its starting and its ending edge, -1 for
    none; begins, leads (s,): which corners those are."""

    vertex: Ints
    rate: Floats
    start: Ints
    end: Ints
    begins: Ints
    leads: Ints
    single: Mask


def _points(around: Around) -> _Points:
    sector, count = around.sector, int(around.sector.max()) + 1
    size = np.bincount(sector, minlength=count)
    begins, leads = np.full(count, -1), np.full(count, -1)
    begins[sector[around.starts]] = np.flatnonzero(around.starts)
    leads[sector[around.ends]] = np.flatnonzero(around.ends)
    vertex = np.zeros(count, np.int32)
    vertex[sector] = around.vertex
    both = (begins >= 0) & (leads >= 0)
    same = both & (around.own[begins] == around.into[leads])
    single = (both & ~same) | (size == 1) | (same & (size == 2))
    a, b = np.zeros((count, 3)), np.zeros((count, 3))
    a[begins >= 0] = around.beside(begins[begins >= 0], True)
    b[leads >= 0] = around.beside(leads[leads >= 0], False)
    # Between two edges: along the one edge that lies between them, else as far from both.
    middle = single & both
    a[middle] = (a[middle] + b[middle]) / 2
    far = both & ~same & (size != 2)
    a[far] = _as_far_from_both(around, begins[far], leads[far])
    lone = single & (begins < 0)
    a[lone] = b[lone]
    has_a, has_b = single | (begins >= 0), ~single & (leads >= 0)
    start, end = np.full(count, -1), np.full(count, -1)
    start[has_a] = np.arange(has_a.sum())
    end[has_b] = has_a.sum() + np.arange(has_b.sum())
    end[single] = start[single]
    return _Points(
        np.concatenate([vertex[has_a], vertex[has_b]]),
        np.concatenate([a[has_a], b[has_b]]),
        start,
        end,
        begins,
        leads,
        single,
    )


def _as_far_from_both(around: Around, begins: Ints, leads: Ints) -> Floats:
    """(k, 3) to the point that lies as far from each of two edges as its band is wide."""
    d, e = around.inward(begins, True), around.inward(leads, False)
    one, two = around.share(begins, True), around.share(leads, False)
    cosine = (d * e).sum(axis=1)
    mean = (one + two) / 2 / np.maximum(1 + cosine, 2 * _LEAST_SINE**2)
    # Two edges that run on into each other cannot have bands of two widths.
    more = (one - two) / 2 / np.maximum(1 - cosine, _LEAST_TURN)
    return np.asarray(d * (mean + more)[:, None] + e * (mean - more)[:, None])


def planned(around: Around) -> Plan:
    """Everything but the width. Raises MeshError where faces look different ways."""
    t = around.t
    points = _points(around)
    first, last = (np.full(len(t.corners), -1) for _ in range(2))
    single = points.single[around.sector]
    first[around.corners[single]] = points.start[around.sector[single]]
    last[around.corners[single]] = points.start[around.sector[single]]
    caps = _beside(around, points, first, last)
    ends = _ends(around, first)
    pairs = np.sort(np.concatenate([ends.of_a, ends.of_b]), axis=1)
    rows, at, times = np.unique(pairs, axis=0, return_inverse=True, return_counts=True)
    at = at.reshape(-1)
    count = len(around.edges)
    row = np.full(len(t.corners), -1)
    between = (first >= 0) & (last >= 0) & (first != last)
    row[between] = _row_of(rows, first[between], last[between])
    cut_at = np.bincount(t.edges[around.edges].ravel(), minlength=t.vertex_count)
    slide = np.zeros((len(rows), 3))
    way = unit(around.mesh.positions[ends.b] - around.mesh.positions[ends.a])
    slide[at[:count]], slide[at[count:]] = way, way
    slide[(times > 1) | (cut_at[points.vertex[rows[:, 0]]] < 2)] = 0.0
    turned = [pair[:, 0] > pair[:, 1] for pair in (ends.of_a, ends.of_b)]
    face = np.concatenate([ends.face, ends.face, caps.face])
    return Plan(
        points.vertex,
        points.rate,
        first,
        last,
        row,
        rows,
        slide,
        ((at[:count], turned[0]), (at[count:], turned[1])),
        ends.corners,
        ends.face,
        np.concatenate([ends.of_a[:, 1], ends.of_b[:, 0], caps.begin]),
        np.concatenate([ends.of_a[:, 0], ends.of_b[:, 1], caps.end]),
        np.concatenate([at, np.full(len(caps.begin), -1)]),
        face.astype(np.int32),
        caps.kept,
    )


@dataclass(frozen=True, eq=False)
class _Kept:
    begin: Ints
    end: Ints
    face: Ints
    kept: Ints


def _beside(around: Around, points: _Points, first: Ints, last: Ints) -> _Kept:
    """Corners beside a bevelled edge name its point alone, those next to them the point and their
    own vertex, which stays; links from and to those vertices."""
    t = around.t
    begin: list[Ints] = []
    end: list[Ints] = []
    face: list[Ints] = []
    kept: list[Ints] = []
    count = len(points.vertex)
    wide = len(t.edges)
    for start in (True, False):
        corner = points.begins if start else points.leads
        mine = np.flatnonzero(~points.single & (corner >= 0))
        own = corner[mine]
        point = (points.start if start else points.end)[mine]
        first[around.corners[own]] = last[around.corners[own]] = point
        shared, theirs = (around.into, around.own) if start else (around.own, around.into)
        key = around.sector.astype(np.int64) * wide + theirs
        order = np.argsort(key, kind="stable")
        wanted = mine.astype(np.int64) * wide + shared[own]
        at = order[np.searchsorted(key[order], wanted).clip(0, len(order) - 1)]
        if (key[at] != wanted).any():
            raise MeshError("Faces at these edges look different ways; let them look alike first.")
        (last if start else first)[around.corners[at]] = point
        node = count + int(sum(map(len, kept))) + np.arange(len(mine))
        kept.append(around.vertex[own])
        begin.append(point if start else node)
        end.append(node if start else point)
        face.append(t.corner_face[around.corners[own]])
    nodes = _Kept(*(np.concatenate(part) for part in (begin, end, face, kept)))
    return _joined(around, points, first, last, nodes)


def _joined(around: Around, points: _Points, first: Ints, last: Ints, nodes: _Kept) -> _Kept:
    """Without links where nothing lies between both sides of an edge but one face; and a vertex of
    a sector is one, whichever side it is come to from."""
    count, made = len(points.vertex), len(nodes.kept)
    starting = np.flatnonzero(~points.single & (points.begins >= 0))
    ending = np.flatnonzero(~points.single & (points.leads >= 0))
    sector = np.concatenate([starting, ending])
    corners = around.corners
    full = np.zeros(len(points.start), bool)
    spanned = (first[corners] >= 0) & (last[corners] >= 0) & (first[corners] != last[corners])
    full[around.sector[spanned]] = True
    keep = ~full[sector]
    # The node of each sector that it is come to from first.
    names = np.full(len(points.start), -1)
    names[sector[::-1]] = np.arange(made)[::-1]
    to = count + names[sector]
    begin = np.where(nodes.begin >= count, to, nodes.begin)
    end = np.where(nodes.end >= count, to, nodes.end)
    return _Kept(begin[keep], end[keep], nodes.face[keep], nodes.kept)


@dataclass(frozen=True, eq=False)
class _Ends:
    """a, b (e,) vertices of each edge as its first face has them; of_a, of_b (e, 2): the points at
    either end in its first face and in its second."""

    a: Ints
    b: Ints
    of_a: Ints
    of_b: Ints
    corners: Ints
    face: Ints


def _ends(around: Around, first: Ints) -> _Ends:
    t = around.t
    starts, corners = t.edge_corners
    one, two = corners[starts[around.edges]], corners[starts[around.edges] + 1]
    alike = t.corners[one] == t.corners[two]
    a_one, b_one = one, t.next_corner[one]
    a_two = np.where(alike, two, t.next_corner[two])
    b_two = np.where(alike, t.next_corner[two], two)
    return _Ends(
        t.corners[a_one],
        t.corners[b_one],
        np.stack([first[a_one], first[a_two]], axis=1),
        np.stack([first[b_one], first[b_two]], axis=1),
        np.stack([a_one, a_two, b_two, b_one], axis=1),
        t.corner_face[one],
    )


def _row_of(rows: Ints, a: Ints, b: Ints) -> Ints:
    """(k,) which of the rows lies between points a and b."""
    wide = int(rows.max(initial=0)) + 1
    key = rows[:, 0].astype(np.int64) * wide + rows[:, 1]
    wanted = np.minimum(a, b).astype(np.int64) * wide + np.maximum(a, b)
    at = np.searchsorted(key, wanted).clip(0, len(key) - 1)
    return np.where(key[at] == wanted, at, -1)
