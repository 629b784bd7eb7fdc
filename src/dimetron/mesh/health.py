"""What is sound about a mesh, and what is not, as numbers."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.around import components
from dimetron.mesh.arrays import Floats, Ints, Mask
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.topology import Topology

#: A face counts as one without area when it has less than this share of the mesh's extent squared.
_NO_AREA = 1e-14


@dataclass(frozen=True, slots=True)
class Health:
    """Lengths in mm; volume_mm3 has the sign of the faces' sense.

    doubled_vertices: those that stand exactly where an earlier one does; doubled_faces: those whose
    corners stand at the same places as an earlier face's, whichever way round; flipped_faces: the
    fewest to turn so that each shell is of one sense, and outward where it is closed; ngons: faces
    of more than four corners.
    """

    vertices: int
    faces: int
    shells: int
    closed: bool
    volume_mm3: float
    area_mm2: float
    open_edges: int
    nonmanifold_edges: int
    doubled_vertices: int
    doubled_faces: int
    zero_area_faces: int
    flipped_faces: int
    ngons: int
    loose_vertices: int


def health(mesh: Mesh) -> Health:
    """All of it, of any mesh."""
    topology = mesh.topology
    meeting = topology.edge_face_count
    open_edges, crowded = int((meeting == 1).sum()), int((meeting > 2).sum())
    shell_of = shells(topology)
    areas = face_areas(mesh)
    return Health(
        vertices=topology.vertex_count,
        faces=topology.face_count,
        shells=int(shell_of.max()) + 1 if len(shell_of) else 0,
        closed=topology.face_count > 0 and not open_edges and not crowded,
        volume_mm3=volume(mesh),
        area_mm2=float(areas.sum()),
        open_edges=open_edges,
        nonmanifold_edges=crowded,
        doubled_vertices=len(doubled_vertices(mesh)),
        doubled_faces=len(doubled_faces(mesh)),
        zero_area_faces=len(without_area(mesh, areas)),
        flipped_faces=len(flipped_faces(mesh)),
        ngons=int((topology.sizes > 4).sum()),
        loose_vertices=len(topology.loose_vertices),
    )


def _places(positions: Floats) -> Ints:
    """(n,) the same number for vertices that stand at exactly the same place."""
    if not len(positions):
        return np.zeros(0, np.int64)
    # Minus zero is zero.
    return np.unique(positions + 0.0, axis=0, return_inverse=True)[1].reshape(-1)


def _corner_pairs(topology: Topology) -> tuple[Ints, Ints]:
    """(k, 2) corners that run along the same edge, one after the other of those that do; and (k,)
    how many faces meet there."""
    order = np.argsort(topology.corner_edge, kind="stable")
    edge = topology.corner_edge[order]
    same = edge[1:] == edge[:-1]
    pairs = np.stack([order[:-1][same], order[1:][same]], axis=1)
    return pairs, topology.edge_face_count[edge[:-1][same]]


def shells(topology: Topology) -> Ints:
    """(f,) the shell of each face: faces that share an edge are of one."""
    if not topology.face_count:
        return np.zeros(0, np.int64)
    pairs, _ = _corner_pairs(topology)
    return components(topology.face_count, topology.corner_face[pairs])


def _triangle_sums(mesh: Mesh, values: Floats) -> Floats:
    """(f,) sums over the triangles of each face."""
    faces = mesh.topology.face_count
    return np.asarray(np.bincount(mesh.topology.triangle_faces, values, minlength=faces), float)


def _crosses(mesh: Mesh) -> tuple[Floats, Floats]:
    """Of each triangle its first corner, from the middle of the mesh, and twice its area as a
    vector, each (t, 3)."""
    middle = mesh.bounds.mean(axis=0)
    a, b, c = (mesh.positions[mesh.triangles[:, k]] - middle for k in range(3))
    return a, np.cross(b - a, c - a)


def face_areas(mesh: Mesh) -> Floats:
    """(f,) mm2, by the triangles that cover each face."""
    return _triangle_sums(mesh, np.linalg.norm(_crosses(mesh)[1], axis=1) / 2)


def without_area(mesh: Mesh, areas: Floats) -> Ints:
    """(k,) faces that have none to speak of, by the areas (f,) of all."""
    extent = float(np.ptp(mesh.bounds, axis=0).max())
    return np.flatnonzero(areas <= _NO_AREA * extent**2)


def face_volumes(mesh: Mesh) -> Floats:
    """(f,) the signed volume between each face and the middle of the mesh."""
    corner, twice = _crosses(mesh)
    return _triangle_sums(mesh, (corner * twice).sum(axis=1) / 6)


def volume(mesh: Mesh) -> float:
    """mm³ that it encloses; less than nothing where its faces look inward."""
    return float(face_volumes(mesh).sum())


def doubled_vertices(mesh: Mesh) -> Ints:
    """(k,) vertices that stand exactly where an earlier one does."""
    place = _places(mesh.positions)
    first = np.full(int(place.max(initial=-1)) + 1, len(place))
    np.minimum.at(first, place, np.arange(len(place)))
    return np.flatnonzero(first[place] != np.arange(len(place))).astype(np.int32)


def doubled_faces(mesh: Mesh) -> Ints:
    """(k,) faces whose corners stand at the same places as an earlier face's, whichever way
    round."""
    topology = mesh.topology
    place = _places(mesh.positions)[topology.corners]
    doubled = []
    for size in np.unique(topology.sizes).tolist():
        faces = np.flatnonzero(topology.sizes == size)
        rings = place[topology.offsets[faces][:, None] + np.arange(size)]
        first = np.unique(_canonical(rings), axis=0, return_index=True)[1]
        doubled.append(np.delete(faces, first))
    return np.sort(np.concatenate([np.zeros(0, np.int64), *doubled])).astype(np.int32)


def _canonical(rings: Ints) -> Ints:
    """(k, s) rings of places, each turned and reversed so that it comes first in order of all that
    are the same ring."""
    best = rings
    size = rings.shape[1]
    for way in (rings, rings[:, ::-1]):
        for by in range(size):
            other = np.roll(way, by, axis=1)
            best = np.where(_before(other, best)[:, None], other, best)
    return best


def _before(a: Ints, b: Ints) -> Mask:
    """(k,) whether a row comes before the other's, by its first number that differs."""
    at = np.argmax(a != b, axis=1)[:, None]
    first = np.take_along_axis(a, at, axis=1) < np.take_along_axis(b, at, axis=1)
    return np.asarray(first[:, 0])


def flipped_faces(mesh: Mesh) -> Ints:
    """(k,) the fewest faces to turn so that each shell is of one sense, and outward where it is
    closed."""
    topology = mesh.topology
    faces = topology.face_count
    if not faces:
        return np.zeros(0, np.int32)
    sense, piece = _senses(topology)
    against = sense < 0
    parts = int(piece.max()) + 1
    volume = np.bincount(piece, face_volumes(mesh) * sense, minlength=parts)
    many = np.bincount(piece, against, minlength=parts) * 2 > np.bincount(piece, minlength=parts)
    closed = ~_has_border(topology, piece)
    other = np.where(closed, volume < 0, many)
    return np.flatnonzero(against ^ other[piece]).astype(np.int32)


def _senses(topology: Topology) -> tuple[Floats, Ints]:
    """(f,) 1 or -1 for the two senses of a piece, and (f,) which piece each face is of.

    By two copies of each face, one for either sense: where two faces meet, copies that agree are
    joined; then the copies of a piece fall apart into one sense and the other.
    """
    faces = topology.face_count
    pairs, meeting = _corner_pairs(topology)
    pairs = pairs[meeting == 2]
    ends = topology.corners[pairs]
    # Neighbours of one sense run along their edge in opposite ways.
    apart = (ends[:, 0] == ends[:, 1]).astype(np.int64) * faces
    f, g = topology.corner_face[pairs].astype(np.int64).T
    joins = np.concatenate(
        [np.stack([f, g + apart], 1), np.stack([f + faces, g + faces - apart], 1)]
    )
    part = components(2 * faces, joins)
    # Pieces that hang together by such edges; what meets only where more do counts for itself.
    piece = components(faces, np.stack([f, g], axis=1))
    leader = np.full(int(piece.max()) + 1, faces)
    np.minimum.at(leader, piece, np.arange(faces))
    agrees = part[:faces] == part[:faces][leader[piece]]
    return np.where(agrees, 1.0, -1.0), piece


def _has_border(topology: Topology, piece: Ints) -> Mask:
    """(p,) of which pieces an edge is not shared by just two faces."""
    odd = topology.edge_face_count[topology.corner_edge] != 2
    return np.bincount(piece[topology.corner_face], odd) > 0
