"""How wide bands must be for the smooth surface to get a radius."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.around import corners_at
from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.bevels.faces import Made, Shape, made
from dimetron.mesh.bevels.plan import Around, planned
from dimetron.mesh.bevels.room import room
from dimetron.mesh.catmull_clark import smooth_of
from dimetron.mesh.limits import limit_weights, part_around
from dimetron.mesh.mesh import Mesh

#: So many rings of faces around the edges have a say in it.
_RINGS = 2
#: It is tried anew so often, at most, until all radii are so near.
_TIMES, _NEAR = 12, 0.002
#: Edges that are bent less than this (degrees) count as bent so much; and of the width that a sharp
#: edge would need at least so much is taken.
_LEAST_TURN, _LEAST = 20.0, 0.1
#: A width is changed by so much at most at a time (a logarithm), taken to have so much effect.
_STEP, _SLOPES = 0.7, (0.3, 10.0)


@dataclass(frozen=True, eq=False)
class Got:
    """How wide (e,) mm the bands of edges are, and which radius (e,) mm the smooth surface gets in
    the middle of each, across it. full: the faces have no room for more."""

    shares: Floats
    radii: Floats
    full: bool


def shares_for(mesh: Mesh, edges: Ints, radius: float, shape: Shape) -> Got:
    """For a radius in mm: edges (e,) between two faces. Raises MeshError."""
    t = mesh.topology
    faces = np.unique(t.corner_face[corners_at(t, np.unique(t.edges[edges]))])
    part = part_around(mesh, faces, _RINGS)
    number = np.full(t.vertex_count, -1)
    number[part.vertices] = np.arange(len(part.vertices))
    ends = number[t.edges[edges]]
    mine = part.mesh.topology.edge_between(ends[:, 0], ends[:, 1])
    return _solved(part.mesh, mine, radius, shape)


def _solved(mesh: Mesh, edges: Ints, radius: float, shape: Shape) -> Got:
    tangent = np.tan(np.radians(np.maximum(_turns(mesh, edges), _LEAST_TURN)) / 2)
    shares = radius * tangent
    least = _LEAST * shares
    measure, best, before, slope = None, None, None, np.ones(len(edges))
    for _ in range(_TIMES):
        around = Around(mesh, edges, shares)
        plan = planned(around)
        most = room(around, plan).width
        shares = shares * min(1.0, most)
        done = made(around, plan, min(1.0, most), shape)
        measure = measure or _Across(done, len(edges), shape.segments)
        radii = measure.radii(done.mesh.positions)
        off = float(abs(radii / radius - 1).max())
        if best is None or off < best[0]:
            best = off, Got(shares, radii, most < 1)
        if off < _NEAR:
            break
        now = np.log(shares), np.log(radii)
        if before is not None:
            slope = _slope(before, now, slope)
        step = np.clip((np.log(radius) - now[1]) / slope, -_STEP, _STEP)
        before, shares = now, np.maximum(shares * np.exp(step), least)
    assert best is not None
    return best[1]


def _slope(before: tuple[Floats, Floats], now: tuple[Floats, Floats], last: Floats) -> Floats:
    """(e,) how radii (logarithms) grow with widths; as it was where these stayed."""
    wider, rounder = now[0] - before[0], now[1] - before[1]
    moved = abs(wider) > 1e-6
    found = np.clip(rounder / np.where(moved, wider, 1.0), *_SLOPES)
    return np.where(moved, found, last)


def _turns(mesh: Mesh, edges: Ints) -> Floats:
    """(e,) by how much the faces at edges are bent, degrees."""
    starts, corners = mesh.topology.edge_corners
    first = starts[edges]
    one, two = (mesh.face_normals[mesh.topology.corner_face[corners[first + k]]] for k in (0, 1))
    return np.asarray(np.degrees(np.arccos(np.clip((one * two).sum(axis=1), -1.0, 1.0))))


class _Across:
    """Measures smooth surfaces of one topology across bands: as a gauge laid on each, by the circle
    through its middle and the points halfway to both of its sides."""

    def __init__(self, done: Made, count: int, segments: int) -> None:
        faces = done.faces[: count * segments].reshape(count, segments)
        if segments == 1:
            rows = _halfway(done.mesh, faces[:, 0])
        else:
            half = (segments + 1) // 2
            places = (segments, segments - half, segments + half)
            rows = [_at(done.mesh, faces, place) for place in places]
        self._weights = limit_weights(done.mesh, np.stack(rows, axis=1).ravel())

    def radii(self, positions: Floats) -> Floats:
        """(e,) of the circle through three points across the middle of each."""
        a, b, c = (self._weights @ positions).reshape(-1, 3, 3).swapaxes(0, 1)
        ab, bc, ca = (np.linalg.norm(v, axis=1) for v in (b - a, c - b, a - c))
        twice = np.linalg.norm(np.cross(b - a, c - a), axis=1)
        return np.asarray(ab * bc * ca / np.maximum(2 * twice, 1e-12 * ab * bc))


def _at(mesh: Mesh, faces: Ints, place: int) -> Ints:
    """(b,) the points of the smooth surface in the middle of bands of faces (b, s): place 0 at
    their one side, 1 within the first face, 2 between that and the next."""
    t, face = mesh.topology, faces[:, place // 2]
    if place % 2:
        return np.asarray(t.vertex_count + len(t.edges) + face)
    # The last side of each of a band's faces runs along it, nearer to the one side.
    return np.asarray(t.vertex_count + t.corner_edge[t.offsets[face + 1] - 1])


def _halfway(mesh: Mesh, face: Ints) -> list[Ints]:
    """The same for bands of one face (b,): in its middle, and halfway from there to its sides."""
    t = mesh.topology
    n, middle = t.vertex_count, t.vertex_count + len(t.edges) + face
    ends = t.offsets[face + 1]
    sides = n + t.corner_edge[ends - 1], n + t.corner_edge[t.offsets[face] + 1]
    first = smooth_of(mesh, 2).levels[0].finer
    return [middle, *(first.vertex_count + first.edge_between(side, middle) for side in sides)]
