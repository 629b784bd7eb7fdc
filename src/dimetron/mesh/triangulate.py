"""Triangles that cover faces: quads by a vectorised diagonal, larger ones by ear cutting."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from dimetron.mesh.arrays import Floats, Ints, Mask, spans
from dimetron.mesh.topology import Topology

#: Quads reckoned with at a time.
_AT_ONCE = 1 << 15


def triangulated(positions: Floats, topology: Topology) -> Ints:
    """(t, 3) vertex triples in face order; a face of k corners takes k - 2 of them."""
    first = topology.first_triangle
    if len(topology.corners) == 3 * topology.face_count:
        # They are triangles already.
        return topology.corners.reshape(-1, 3).astype(np.int32)
    out = np.empty((int(first[-1]), 3), np.int32)
    _fill(out, first, positions, topology, np.arange(topology.face_count))
    return out


def retriangulated(before: Ints, positions: Floats, topology: Topology, moved: Ints) -> Ints:
    """Update triangles (t, 3) of the faces that touch the moved vertices; shares if none change."""
    touched = np.zeros(topology.vertex_count, bool)
    touched[moved] = True
    faces = np.unique(topology.corner_face[touched[topology.corners]])
    faces = faces[topology.sizes[faces] > 3]
    if not len(faces):
        return before
    out = before.copy()
    _fill(out, topology.first_triangle, positions, topology, faces)
    return before if np.array_equal(out, before) else out


def carried(before: Ints, positions: Floats, topology: Topology, faces: Ints) -> Ints:
    """Triangles (t, 3) for a topology that has other faces (k,) than the one before, some of them
    behind all that were there; the rest keep theirs."""
    first = topology.first_triangle
    out = np.empty((int(first[-1]), 3), np.int32)
    out[: len(before)] = before
    _fill(out, first, positions, topology, faces)
    return out


def kept_triangles(
    before: Ints,
    old: Topology,
    new: Ints,
    positions: Floats,
    topology: Topology,
    faces: Ints,
    same: Mask,
) -> Ints:
    """Triangles (t', 3) for a topology whose faces (k,) are some of the old ones, with vertices
    renamed (n,): those that are the same (f,) keep theirs, the others are covered anew."""
    first = topology.first_triangle
    out = np.empty((int(first[-1]), 3), np.int32)
    kept = same[faces]
    own = np.flatnonzero(kept)
    counts = topology.sizes[own] - 2
    out[spans(first[own], counts)] = new[before[spans(old.first_triangle[faces[own]], counts)]]
    _fill(out, first, positions, topology, np.flatnonzero(~kept))
    return out


def _fill(out: Ints, first: Ints, positions: Floats, topology: Topology, faces: Ints) -> None:
    sizes = topology.sizes[faces]
    triples = faces[sizes == 3]
    if len(triples):
        corners = topology.offsets[triples][:, None] + np.arange(3)
        out[first[triples]] = topology.corners[corners]
    quads = faces[sizes == 4]
    if len(quads):
        corners = topology.corners[topology.offsets[quads][:, None] + np.arange(4)]
        pairs = _split_quads(positions, corners)
        out[first[quads]], out[first[quads] + 1] = pairs[:, 0], pairs[:, 1]
    for face in faces[sizes > 4]:
        ring = topology.face(face)
        out[first[face] : first[face] + len(ring) - 2] = ring[_ears(positions[ring])]


def _split_quads(positions: Floats, quads: Ints) -> Ints:
    """(q, 4) to (q, 2, 3), along the diagonal that lies inside; where both do, the shorter."""
    place = quads
    if quads.size < len(positions):
        # Of few quads only their own corners are looked at.
        own, place = np.unique(quads, return_inverse=True)
        positions, place = positions[own], place.reshape(quads.shape)
    use_bd = np.empty(len(quads), bool)
    columns = [np.ascontiguousarray(positions[:, axis]) for axis in range(3)]
    # Part by part, so that what is reckoned with stays in the processor's own memory.
    for at in range(0, len(quads), _AT_ONCE):
        use_bd[at : at + _AT_ONCE] = _along_bd(columns, place[at : at + _AT_ONCE])
    out = np.empty((len(quads), 2, 3), np.int32)
    out[:, 0], out[:, 1] = quads[:, :3], quads[:, [0, 2, 3]]
    out[use_bd] = quads[use_bd][:, [[1, 2, 3], [1, 3, 0]]]
    return out


_Columns = list[NDArray[np.float64]]


def _along_bd(columns: _Columns, quads: Ints) -> Mask:
    """(q,) whether quads (q, 4) a, b, c, d are split along b-d. Positions as columns x, y, z."""
    a, b, c, d = ([column[quads[:, i]] for column in columns] for i in range(4))
    ca, db = _minus(c, a), _minus(d, b)
    # Across a diagonal the two halves must turn the same way.
    ac = _dot(_cross(_minus(b, a), ca), _cross(ca, _minus(d, a)))
    bd = _dot(_cross(_minus(c, b), db), _cross(db, _minus(a, b)))
    shorter_bd = _dot(db, db) < _dot(ca, ca) * (1 - 2e-6)
    return np.asarray(np.where((ac > 0) & (bd > 0), shorter_bd, bd > ac))


def _minus(a: _Columns, b: _Columns) -> _Columns:
    return [x - y for x, y in zip(a, b, strict=True)]


def _cross(a: _Columns, b: _Columns) -> _Columns:
    (x, y, z), (u, v, w) = a, b
    return [y * w - z * v, z * u - x * w, x * v - y * u]


def _dot(a: _Columns, b: _Columns) -> NDArray[np.float64]:
    return np.asarray(a[0] * b[0] + a[1] * b[1] + a[2] * b[2])


def _ears(ring: Floats) -> Ints:
    """Indices (k-2, 3) into a ring (k, 3), by ear cutting on its best plane."""
    k = len(ring)
    fan = np.stack([np.zeros(k - 2), np.arange(1, k - 1), np.arange(2, k)], axis=1).astype(np.int32)
    normal = np.cross(ring, np.roll(ring, -1, axis=0)).sum(axis=0)
    drop = int(np.argmax(np.abs(normal)))
    if abs(normal[drop]) < 1e-12:
        return fan
    keep = [(drop + 1) % 3, (drop + 2) % 3]
    flat = ring[:, keep] * ([1.0, 1.0] if normal[drop] > 0 else [-1.0, 1.0])
    import mapbox_earcut  # only large polygons need it

    ears = mapbox_earcut.triangulate_float64(flat, np.array([k], np.uint32)).reshape(-1, 3)
    if len(ears) != k - 2:
        return fan
    # Ear cutting keeps the ring's plane but not always its sense; the faces' own sense counts.
    p = flat[ears.astype(np.int64)]
    u, v = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    wrong = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0] < 0
    ears = ears.astype(np.int32)
    ears[wrong] = ears[wrong][:, ::-1]
    return np.asarray(ears)
