"""Cuts across faces: places on vertices and edges, and an edge from each to the next."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from dimetron.mesh.arrays import Floats, Ints, MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.replaced import Faces, Points, Replacement, replaced
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.topology import Topology

#: Nearer to an edge's end than this share of it a point is that end.
_AT_END = 1e-6


@dataclass(frozen=True, slots=True)
class Place:
    """A place of a cut: a vertex (share 0), or on an edge (its number) as far along it."""

    vertex: int = -1
    edge: int = -1
    share: float = 0.0

    def at(self, mesh: Mesh) -> Floats:
        """(3,) where it lies."""
        if self.vertex >= 0:
            return np.asarray(mesh.positions[self.vertex])
        a, b = mesh.positions[mesh.topology.edges[self.edge]]
        return np.asarray(a * (1 - self.share) + b * self.share)


def on_edge(topology: Topology, edge: int, share: float) -> Place:
    """A place on an edge, or its end where it is as good as there."""
    if share <= _AT_END:
        return Place(vertex=int(topology.edges[edge][0]))
    if share >= 1 - _AT_END:
        return Place(vertex=int(topology.edges[edge][1]))
    return Place(edge=edge, share=share)


def faces_of(topology: Topology, place: Place) -> set[int]:
    """The faces that a place is of."""
    if place.vertex >= 0:
        offsets, corners = topology.vertex_corners
        own = corners[offsets[place.vertex] : offsets[place.vertex + 1]]
    else:
        offsets, corners = topology.edge_corners
        own = corners[offsets[place.edge] : offsets[place.edge + 1]]
    return set(topology.corner_face[own].tolist())


def cut_across(mesh: Mesh, places: Sequence[Place]) -> Edited:
    """Edges from each place to the next, through the face that both are of; the new edges are
    selected. Raises MeshError if two of them share no face, or an edge is there already."""
    t = mesh.topology
    steps = [(a, b) for a, b in pairwise(places) if a != b]
    if not steps:
        raise MeshError("A cut needs two places or more.")
    new = _new_points(places)
    chords: dict[int, list[tuple[int, int]]] = {}
    for a, b in steps:
        shared = faces_of(t, a) & faces_of(t, b)
        if not shared:
            raise MeshError("Two places of this cut share no face; set places in between.")
        ends = _name(t, new, a), _name(t, new, b)
        chords.setdefault(min(shared), []).append(ends)
    touched = set(chords).union(*(faces_of(t, Place(edge=edge)) for edge, _ in new))
    faces = [
        part for face in sorted(touched) for part in _parts(t, new, face, chords.get(face, []))
    ]
    keys = list(new)
    points = Points(
        np.array([Place(edge=e, share=s).at(mesh) for e, s in keys]).reshape(-1, 3),
        np.array([t.edges[e][0] for e, _ in keys], np.int32),
        np.array([t.edges[e][1] for e, _ in keys], np.int32),
        np.array([s for _, s in keys], np.float64),
    )
    gone = np.array(sorted(touched), np.int32)
    made = replaced(mesh, Replacement(gone=gone, faces=(_joined(faces),), points=points)).mesh
    first = made.topology.vertex_count - len(keys)
    # Old vertices keep their number: all of them are still used.
    moved = {t.vertex_count + k: first + k for k in range(len(keys))}
    pairs = [(moved.get(a, a), moved.get(b, b)) for own in chords.values() for a, b in own]
    edges = made.topology.edge_between(*np.array(pairs, np.int64).T)
    return Edited(made, Selection(Kind.EDGE, np.unique(edges[edges >= 0]).astype(np.int32)))


_New = dict[tuple[int, float], int]
_Part = tuple[int, list[int], list[int], list[int], list[float]]


def _new_points(places: Sequence[Place]) -> _New:
    """Each place on an edge once, numbered from 0."""
    new: _New = {}
    for place in places:
        if place.edge >= 0:
            new.setdefault((place.edge, place.share), len(new))
    return new


def _name(t: Topology, new: _New, place: Place) -> int:
    return place.vertex if place.vertex >= 0 else t.vertex_count + new[place.edge, place.share]


def _ring(t: Topology, new: _New, face: int) -> list[tuple[int, int, int, float]]:
    """Round a face with the new points: vertex, the corner before, the one after, and how far from
    the one to the other it is."""
    found = []
    for corner in range(int(t.offsets[face]), int(t.offsets[face + 1])):
        after, edge = int(t.next_corner[corner]), int(t.corner_edge[corner])
        vertex = int(t.corners[corner])
        found.append((vertex, corner, after, 0.0))
        up = vertex == int(t.edges[edge][0])
        on = [(s if up else 1 - s, t.vertex_count + k) for (e, s), k in new.items() if e == edge]
        found += [(name, corner, after, share) for share, name in sorted(on)]
    return found


def _parts(t: Topology, new: _New, face: int, chords: list[tuple[int, int]]) -> list[_Part]:
    """What a face falls into. Raises MeshError where an edge would lie on one that is there."""
    parts = [_ring(t, new, face)]
    for a, b in chords:
        which = next((p for p in parts if {a, b} <= {v for v, *_ in p}), None)
        if which is None:
            raise MeshError("This cut crosses itself; lay it another way.")
        names = [v for v, *_ in which]
        i, j = sorted((names.index(a), names.index(b)))
        if j - i in (1, len(names) - 1):
            raise MeshError("There is an edge already where this cut runs.")
        parts.remove(which)
        parts += [which[i : j + 1], which[j:] + which[: i + 1]]
    return [
        (face, *(list(column) for column in zip(*part, strict=True)))  # type: ignore[misc]
        for part in parts
    ]


def _joined(parts: Sequence[_Part]) -> Faces:
    def flat(column: int) -> Ints:
        return np.array([value for part in parts for value in part[column]], np.int32)  # type: ignore[union-attr]

    return Faces(
        np.array([len(part[1]) for part in parts], np.int32),
        flat(1),
        np.array([part[0] for part in parts], np.int32),
        flat(2),
        flat(3),
        np.array([share for part in parts for share in part[4]], np.float64),
    )


def walked(mesh: Mesh, begin: Place, end: Place, px: Floats) -> list[Place]:
    """The places between two on the straight line from one to the other, as seen (px (n, 2) of all
    vertices): face after face, where it crosses their edges. Empty if both share a face. Raises
    MeshError if the way leads off the mesh."""
    t = mesh.topology
    a, b = (_seen(t, place, px) for place in (begin, end))
    found: list[Place] = []
    now, came = begin, -1
    goal = faces_of(t, end)
    for _ in range(t.face_count):
        faces = faces_of(t, now) - {came}
        if faces & goal:
            return found
        step = _step(t, faces, now, a, b, px)
        if step is None:
            raise MeshError("The straight way there leads off the mesh; set places in between.")
        came, now = step
        found.append(now)
    raise MeshError("The straight way there does not end; set places in between.")


def _seen(t: Topology, place: Place, px: Floats) -> Floats:
    if place.vertex >= 0:
        return np.asarray(px[place.vertex])
    p, q = px[t.edges[place.edge]]
    return np.asarray(p * (1 - place.share) + q * place.share)


def _step(
    t: Topology, faces: set[int], now: Place, a: Floats, b: Floats, px: Floats
) -> tuple[int, Place] | None:
    """The next edge that the line from a to b crosses, farther along it than ``now``, and the face
    it lies in."""
    way = b - a
    done = float((_seen(t, now, px) - a) @ way)
    best: tuple[float, int, Place] | None = None
    for face in sorted(faces):
        for corner in range(int(t.offsets[face]), int(t.offsets[face + 1])):
            edge = int(t.corner_edge[corner])
            if edge == now.edge or now.vertex in t.edges[edge]:
                continue
            p, q = px[t.edges[edge]]
            sides = [float(way[0] * (c[1] - a[1]) - way[1] * (c[0] - a[0])) for c in (p, q)]
            if (sides[0] > 0) == (sides[1] > 0):
                continue
            share = sides[0] / (sides[0] - sides[1])
            along = float((p * (1 - share) + q * share - a) @ way)
            if along > done + 1e-9 and (best is None or along < best[0]):
                best = along, face, on_edge(t, edge, share)
    return None if best is None else (best[1], best[2])
