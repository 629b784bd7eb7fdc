"""Directions and points that a selection has of its own: axes to move it along, and middles of its
pieces to turn and scale each about."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.around import components, corners_at
from dimetron.mesh.arrays import Floats, Ints, extent, freeze
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.select import Kind, Selection, vertices_of

#: (3, 3) the world's axes, as rows.
WORLD: Floats = np.eye(3)
freeze(WORLD)
#: Directions shorter than this have no meaning.
_NOTHING = 1e-9


def axes_of(mesh: Mesh, part: Selection) -> Floats:
    """(3, 3) right-handed axes as rows: Z is the faces' mean normal, and X runs along their longest
    edge; edges have X along themselves; vertices, and a mesh as a whole, are longest along X and
    thinnest along Z. The world's, where there is nothing to tell."""
    vertices = vertices_of(mesh, part.kind, part.indices)
    if not len(vertices):
        return WORLD
    points = mesh.positions[vertices]
    spread = np.linalg.eigh(np.cov(points.T, bias=True))[1].T if len(points) > 1 else WORLD
    thin, long = _signed(spread[0]), _signed(spread[2])
    if part.kind is Kind.FACE:
        return _framed(_mean_normal(mesh, part.indices), _longest_edge(mesh, part.indices), thin)
    t = mesh.topology
    normal = _mean_normal(mesh, np.unique(t.corner_face[corners_at(t, vertices)]))
    if part.kind is Kind.EDGE:
        along = long if len(part.indices) > 1 else _signed(points[1] - points[0])
        return _framed(_across(normal, along), along, thin)
    if part.kind is Kind.VERTEX and len(points) == 1:
        return _framed(normal, np.zeros(3), thin)
    return _framed(thin, long, thin)


def piece_middles(mesh: Mesh, part: Selection, vertices: Ints) -> Floats:
    """(k, 3) for vertices (k,) the middle of the connected piece of the selection that each is of;
    for one outside it, of the piece that is nearest."""
    from scipy.spatial import cKDTree  # only what is turned each apart needs it

    mine = vertices_of(mesh, part.kind, part.indices)
    number = np.full(len(mesh.positions), -1)
    number[mine] = np.arange(len(mine))
    inside = _edges_of(mesh, part)
    inside = inside[(number[inside] >= 0).all(axis=1)]
    piece = components(len(mine), number[inside])
    order = np.argsort(piece, kind="stable")
    starts = np.flatnonzero(np.diff(piece[order], prepend=-1))
    points = mesh.positions[mine[order]]
    middles = (np.minimum.reduceat(points, starts) + np.maximum.reduceat(points, starts)) / 2
    nearest = number[vertices]
    beside = nearest < 0
    if beside.any():
        there = mesh.positions[vertices[beside]]
        nearest[beside] = cKDTree(mesh.positions[mine]).query(there)[1]
    return np.asarray(middles[piece[nearest]])


def _edges_of(mesh: Mesh, part: Selection) -> Ints:
    """(e, 2) the edges along which what is selected hangs together; among vertices, and of a mesh
    as a whole, all of them."""
    t = mesh.topology
    if part.kind is Kind.EDGE:
        return t.edges[part.indices]
    if part.kind is not Kind.FACE:
        return t.edges
    return t.edges[np.unique(t.corner_edge[t.corners_of(part.indices)])]


def fixed_point(points: Floats, about: str, axes: Floats = WORLD) -> Floats:
    """The point (3,) that stays when points (n, 3) are turned or resized: their middle, the middle
    of their base along axes (3, 3), or the world's origin."""
    if about == "origin":
        return np.zeros(3)
    low, high = extent(points @ axes.T)
    middle = (low + high) / 2
    if about == "base":
        middle[2] = low[2]
    return np.asarray(middle @ axes)


def _mean_normal(mesh: Mesh, faces: Ints) -> Floats:
    """(3,) not of unit length."""
    return np.asarray(mesh.face_normals[faces].sum(axis=0))


def _longest_edge(mesh: Mesh, faces: Ints) -> Floats:
    t = mesh.topology
    corners = t.corners_of(faces)
    along = mesh.positions[t.corners[t.next_corner[corners]]] - mesh.positions[t.corners[corners]]
    long = np.linalg.norm(along, axis=1)
    # Of edges about as long the first, so that rounding does not choose.
    return _signed(along[int(np.argmax(long > long.max() * (1 - 1e-6)))])


def _signed(way: Floats) -> Floats:
    """The direction or its opposite: so that its largest part is positive."""
    return way if way[int(np.argmax(np.abs(way)))] >= 0 else -way


def _across(way: Floats, along: Floats) -> Floats:
    """What of a direction is square to another one."""
    return np.asarray(way - along * (way @ along) / max(float(along @ along), _NOTHING**2))


def _framed(z: Floats, x: Floats, instead: Floats) -> Floats:
    """Axes from a Z and, as far as it is square to that, an X; ``instead`` of a Z of nothing."""
    if np.linalg.norm(z) < _NOTHING:
        z = instead
    z = z / np.linalg.norm(z)
    for candidate in (x, *WORLD):
        square = _across(candidate, z)
        if np.linalg.norm(square) > 1e-3 * max(float(np.linalg.norm(candidate)), _NOTHING):
            x = square / np.linalg.norm(square)
            break
    made: Floats = np.stack([x, np.cross(z, x), z])
    return np.asarray(np.where(np.abs(made) < 1e-12, 0.0, made))
