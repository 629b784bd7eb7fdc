"""Which corners make which faces: edges and neighbours, derived lazily.

A ``Topology`` is shared by all meshes that differ only in positions, so what is derived from it is
computed once for a whole drag. A topology in which only some faces changed takes over what was
derived of the one before it.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np

from dimetron.mesh.arrays import Floats, Ints, Mask, MeshError, freeze, spans


class Neighbours(NamedTuple):
    """What belongs to element i: items[offsets[i]:offsets[i+1]]."""

    offsets: Ints
    items: Ints

    def of(self, indices: Ints) -> Ints:
        """Items of several elements, one element's after the other's."""
        starts = self.offsets[indices]
        sizes = self.offsets[np.asarray(indices) + 1] - starts
        return np.asarray(self.items[spans(starts, sizes)])


def grouped(owner: Ints, count: int) -> Neighbours:
    """Items 0, 1, ... by their owners (k,), each owner's in rising order; a negative owner is
    none."""
    order = np.argsort(owner, kind="stable").astype(np.int32)
    order = order[int((owner < 0).sum()) :]
    sizes = np.bincount(owner[order], minlength=count) if len(order) else np.zeros(count, int)
    return Neighbours(_starts(sizes), order)


def topology_of(sizes: Ints, corners: Ints, vertex_count: int) -> Topology:
    """Faces of so many corners each, one after the other. Raises MeshError."""
    return Topology(_starts(sizes), corners.astype(np.int32), vertex_count)


def _starts(sizes: Ints) -> Ints:
    return np.concatenate([[0], np.cumsum(sizes)]).astype(np.int32)


class Sides(NamedTuple):
    """edges (k,) between two faces that run along them in opposite sense: in that of ``edges`` the
    faces left (k,), against it right (k,); odd (c,): corners whose edges are others."""

    edges: Ints
    left: Ints
    right: Ints
    odd: Ints


class _Edges(NamedTuple):
    """keys (e,) rising; ends (e, 2); of_corner (c,); faces (e,) how many meet there."""

    keys: Ints
    ends: Ints
    of_corner: Ints
    faces: Ints


def _keys(a: Ints, b: Ints) -> Ints:
    """One number for a pair of vertices, whichever comes first; rising as the pairs do."""
    low = np.minimum(a, b).astype(np.int64)
    return np.asarray((low << 32) | np.maximum(a, b))


def _ends(keys: Ints) -> Ints:
    return np.stack([keys >> 32, keys & 0xFFFFFFFF], axis=1).astype(np.int32)


@dataclass(frozen=True, eq=False)
class Topology:
    """offsets (f+1,) into corners (c,), which name vertices.

    Face i has corners[offsets[i]:offsets[i+1]].
    """

    offsets: Ints
    corners: Ints
    vertex_count: int

    def __post_init__(self) -> None:
        o, c = self.offsets, self.corners
        ok = o.ndim == c.ndim == 1 and len(o) >= 1 and o[0] == 0 and o[-1] == len(c)
        if not ok or (len(o) > 1 and int(np.diff(o).min()) < 3):
            raise MeshError("Every face needs at least three corners.")
        if len(c) and (int(c.min()) < 0 or int(c.max()) >= self.vertex_count):
            raise MeshError("A face names a vertex that does not exist.")
        freeze(o, c)

    @property
    def face_count(self) -> int:
        """How many faces there are."""
        return len(self.offsets) - 1

    @cached_property
    def sizes(self) -> Ints:
        """(f,) corners of each face."""
        return np.diff(self.offsets).astype(np.int32)

    @cached_property
    def corner_face(self) -> Ints:
        """(c,) the face each corner belongs to."""
        return np.repeat(np.arange(self.face_count, dtype=np.int32), self.sizes)

    @cached_property
    def next_corner(self) -> Ints:
        """(c,) index of the following corner within the same face."""
        following = np.arange(1, len(self.corners) + 1, dtype=np.int32)
        following[self.offsets[1:] - 1] = self.offsets[:-1]
        return following

    @property
    def reversed_corner(self) -> Ints:
        """(c,) which corner stands in the place of each when all faces are turned over."""
        first, last = self.offsets[self.corner_face], self.offsets[self.corner_face + 1] - 1
        return np.asarray(last - (np.arange(len(self.corners)) - first))

    @cached_property
    def previous_corner(self) -> Ints:
        """(c,) index of the corner before within the same face."""
        before = np.arange(-1, len(self.corners) - 1, dtype=np.int32)
        before[self.offsets[:-1]] = self.offsets[1:] - 1
        return before

    @cached_property
    def _table(self) -> _Edges:
        pending = self.__dict__.pop("_pending", None)
        if pending is not None:
            return _patched_table(pending[0], self, pending[1])
        keys = _keys(self.corners, self.corners[self.next_corner])
        # As np.unique with its inverse, in two thirds of the time.
        order = np.argsort(keys, kind="stable")
        risen = keys[order]
        first = np.ones(len(risen), bool)
        np.not_equal(risen[1:], risen[:-1], out=first[1:])
        of_corner = np.empty(len(keys), np.int32)
        of_corner[order] = np.cumsum(first) - 1
        found = risen[first]
        faces = np.bincount(of_corner, minlength=len(found)).astype(np.int32)
        return _Edges(found, _ends(found), of_corner, faces)

    @property
    def edges(self) -> Ints:
        """(e, 2) vertex pairs, lower index first, in rising order."""
        return self._table.ends

    @property
    def corner_edge(self) -> Ints:
        """(c,) the edge from each corner to the next one."""
        return self._table.of_corner

    @property
    def edge_face_count(self) -> Ints:
        """(e,) how many faces meet at each edge: 1 at a border, 2 inside a clean surface."""
        return self._table.faces

    def edge_between(self, a: Ints, b: Ints) -> Ints:
        """(k,) the edge between vertices a (k,) and b (k,); -1 where there is none."""
        keys = self._table.keys
        wanted = _keys(a, b)
        if not len(keys):
            return np.full(len(wanted), -1, np.int32)
        at = np.searchsorted(keys, wanted).clip(0, len(keys) - 1)
        return np.where(keys[at] == wanted, at, -1).astype(np.int32)

    @cached_property
    def vertex_corners(self) -> Neighbours:
        """The corners at each vertex."""
        return grouped(self.corners, self.vertex_count)

    @cached_property
    def corner_sense(self) -> Floats:
        """(c,) 1 where the edge from a corner to the next one runs as ``edges`` has it, else -1."""
        return np.where(self.corners < self.corners[self.next_corner], 1.0, -1.0)

    @cached_property
    def sides(self) -> Sides:
        """Which faces lie on either side of edges."""
        starts, corners = self.edge_corners
        two = np.flatnonzero(self.edge_face_count == 2)
        a, b = corners[starts[two]], corners[starts[two] + 1]
        alike = self.corner_sense[a] == self.corner_sense[b]
        two, a, b = two[~alike], a[~alike], b[~alike]
        runs = self.corner_sense[a] > 0
        left, right = np.where(runs, a, b), np.where(runs, b, a)
        plain = np.zeros(len(self.edges), bool)
        plain[two] = True
        odd = np.flatnonzero(~plain[self.corner_edge])
        return Sides(two, self.corner_face[left], self.corner_face[right], odd)

    @cached_property
    def edge_corners(self) -> Neighbours:
        """The corners from which each edge starts: one for each face that meets there."""
        return grouped(self.corner_edge, len(self.edges))

    @cached_property
    def edge_faces(self) -> Neighbours:
        """The faces that meet at each edge."""
        offsets, corners = self.edge_corners
        return Neighbours(offsets, self.corner_face[corners])

    @cached_property
    def face_faces(self) -> Neighbours:
        """The faces that share an edge with each face, once for each edge and other face."""
        offsets = self.edge_faces.offsets
        edge = self.corner_edge
        there = offsets[edge + 1] - offsets[edge]
        from_face = np.repeat(self.corner_face, there)
        others = self.edge_faces.of(edge)
        apart = from_face != others
        sizes = np.bincount(from_face[apart], minlength=self.face_count)
        return Neighbours(_starts(sizes), others[apart])

    @cached_property
    def valence(self) -> Ints:
        """(n,) how many edges meet at each vertex."""
        return np.bincount(self.edges.ravel(), minlength=self.vertex_count)

    @cached_property
    def border_valence(self) -> Ints:
        """(n,) how many of them are open."""
        return np.bincount(
            self.edges[self.edge_face_count == 1].ravel(), minlength=self.vertex_count
        )

    @cached_property
    def face_valence(self) -> Ints:
        """(n,) how many faces meet at each vertex."""
        return np.bincount(self.corners, minlength=self.vertex_count)

    @cached_property
    def loose_vertices(self) -> Ints:
        """(k,) vertices of no face."""
        used = np.zeros(self.vertex_count, bool)
        used[self.corners] = True
        return np.flatnonzero(~used)

    @cached_property
    def triangle_faces(self) -> Ints:
        """(t,) the face that each triangle of ``Mesh.triangles`` is part of."""
        return np.repeat(np.arange(self.face_count, dtype=np.int32), self.sizes - 2)

    @cached_property
    def first_triangle(self) -> Ints:
        """(f+1,) where the triangles of each face begin."""
        return _starts(self.sizes - 2)

    def face(self, index: int) -> Ints:
        """Vertices of one face, in order."""
        return self.corners[self.offsets[index] : self.offsets[index + 1]]

    def corners_of(self, faces: Ints) -> Ints:
        """The corners of faces (k,), one face's after the other's."""
        return spans(self.offsets[faces], self.sizes[faces])

    def patched(
        self, at: Ints, vertices: Ints, sizes: Ints, corners: Ints, vertex_count: int
    ) -> Topology:
        """Corners ``at`` (k,) name other vertices (k,), and faces are added behind the others:
        sizes (a,), corners (sum of sizes,).

        What was derived is brought up to date instead of being derived anew.
        """
        changed = self.corners.copy()
        changed[at] = vertices
        offsets = np.concatenate([self.offsets, self.offsets[-1] + np.cumsum(sizes)])
        grown = Topology(
            offsets.astype(np.int32),
            np.concatenate([changed, corners]).astype(np.int32),
            vertex_count,
        )
        self._hand_on(grown, sizes)
        if "_table" in self.__dict__ or "_pending" in self.__dict__:
            touched = np.zeros(len(grown.corners), bool)
            touched[at] = True
            # The edge that leads to a corner changes with it.
            touched[: len(changed)] |= touched[self.next_corner]
            touched[len(changed) :] = True
            # Brought up to date when edges are asked for.
            grown.__dict__["_pending"] = self._table, touched
        return grown

    def _hand_on(self, grown: Topology, sizes: Ints) -> None:
        """What is derived of the faces' sizes alone goes on as it is."""
        own, new = self.__dict__, grown.__dict__
        added = np.arange(self.face_count, grown.face_count, dtype=np.int32)
        if "sizes" in own:
            new["sizes"] = np.concatenate([self.sizes, sizes]).astype(np.int32)
        if "corner_face" in own:
            new["corner_face"] = np.concatenate([self.corner_face, np.repeat(added, sizes)])
        if "triangle_faces" in own:
            more = np.repeat(added, np.asarray(sizes) - 2)
            new["triangle_faces"] = np.concatenate([self.triangle_faces, more])
        if "next_corner" in own:
            end = len(self.corners)
            following = np.arange(end + 1, len(grown.corners) + 1, dtype=np.int32)
            following[grown.offsets[self.face_count + 1 :] - 1 - end] = grown.offsets[
                self.face_count : -1
            ]
            new["next_corner"] = np.concatenate([self.next_corner, following])


def _patched_table(before: _Edges, grown: Topology, touched: Mask) -> _Edges:
    """The edges of a topology in which only some corners' edges are others."""
    old = len(before.of_corner)
    where = np.flatnonzero(touched)
    keys = _keys(grown.corners[where], grown.corners[grown.next_corner[where]])
    faces = before.faces.copy()
    np.subtract.at(faces, before.of_corner[where[where < old]], 1)
    wanted = np.unique(keys)
    near = np.searchsorted(before.keys, wanted).clip(0, max(len(before.keys) - 1, 0))
    known = before.keys[near] == wanted if len(before.keys) else np.zeros(len(wanted), bool)
    fresh = wanted[~known]
    keep = faces > 0
    keep[near[known]] = True
    if keep.all() and not len(fresh):
        kept_keys, kept_ends, moved_to = before.keys, before.ends, None
    else:
        kept_keys, kept_ends, faces = before.keys[keep], before.ends[keep], faces[keep]
        slot = np.searchsorted(kept_keys, fresh)
        shift = np.cumsum(np.bincount(slot, minlength=len(kept_keys) + 1))[: len(kept_keys)]
        place = (np.arange(len(kept_keys)) + shift).astype(np.int32)
        moved_to = np.full(len(before.keys), -1, np.int32)
        moved_to[keep] = place
        kept_keys = np.insert(kept_keys, slot, fresh)
        kept_ends = np.insert(kept_ends, slot, _ends(fresh), axis=0)
        faces = np.insert(faces, slot, 0)
    of_corner = np.empty(len(grown.corners), np.int32)
    of_corner[:old] = before.of_corner if moved_to is None else moved_to[before.of_corner]
    of_corner[where] = np.searchsorted(kept_keys, keys)
    np.add.at(faces, of_corner[where], 1)
    return _Edges(kept_keys, kept_ends, of_corner, faces)
