"""A mesh in which some faces are others: how operations put in what they make."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dimetron.mesh.arrays import Floats, Ints, Mask, freeze
from dimetron.mesh.edited import NOTHING, Edited, Origin, rebuilt
from dimetron.mesh.layers import On, Source
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.select import Selection
from dimetron.mesh.topology import Topology, topology_of
from dimetron.mesh.triangulate import carried

_NO = np.zeros(0, np.int32)


@dataclass(frozen=True, eq=False)
class Faces:
    """New faces: sizes (k,), their vertices and for each the corner it is like (sum of sizes,), and
    the face each is like (k,); -1: like none. other, share (sum of sizes,): so much of the way from
    that corner to another one."""

    sizes: Ints
    vertices: Ints
    face: Ints
    corner: Ints
    other: Ints | None = None
    share: Floats | None = None


def polygons(vertices: Ints, face: Ints | None = None, corner: Ints | None = None) -> Faces:
    """Faces of as many corners each: vertices (k, s); face (k,); corner (k, s)."""
    count, size = vertices.shape
    none = np.full(count * size, -1, np.int32)
    return Faces(
        np.full(count, size, np.int32),
        vertices.ravel(),
        none[:count] if face is None else face,
        none if corner is None else corner.ravel(),
    )


def face_sizes(per_corner: Ints, sizes: Ints) -> Ints:
    """(k,) corners of faces of ``sizes`` (k,) when each of their corners becomes so many (sum of
    sizes,)."""
    total, ends = np.concatenate([[0], np.cumsum(per_corner)]), np.cumsum(sizes)
    return np.asarray(total[ends] - total[ends - sizes], np.int32)


def cleaned(faces: Faces) -> Faces:
    """Without corners at the same vertex as the one before, and without faces that keep fewer than
    three."""
    ends = np.cumsum(faces.sizes)
    before = np.arange(-1, len(faces.vertices) - 1)
    before[ends - faces.sizes] = ends - 1
    keep = faces.vertices != faces.vertices[before]
    if keep.all():
        return faces
    owner = np.repeat(np.arange(len(faces.sizes)), faces.sizes)
    sizes = np.bincount(owner[keep], minlength=len(faces.sizes))
    stays = sizes >= 3
    keep &= stays[owner]

    def kept(values: NDArray[Any] | None) -> Any:
        return None if values is None else values[keep]

    return Faces(
        sizes[stays].astype(np.int32),
        faces.vertices[keep],
        faces.face[stays],
        faces.corner[keep],
        kept(faces.other),
        kept(faces.share),
    )


@dataclass(frozen=True, eq=False)
class Points:
    """New vertices: positions (m, 3), each between two old ones a (m,) and b (m,), by how much of
    the way from a to b. Without b each is like a alone; -1: like none."""

    positions: Floats
    a: Ints
    b: Ints | None = None
    share: Floats | None = None

    def source(self, count: int) -> Source:
        """Where all vertices come from, when these stand behind ``count`` old ones."""
        every = np.arange(count, dtype=np.int32)
        if self.b is None:
            return np.concatenate([every, self.a]).astype(np.int32)
        from scipy.sparse import csr_matrix  # takes a while; only what is mixed needs it

        share = np.full(len(self.a), 0.5) if self.share is None else self.share
        weights = np.concatenate([np.ones(count), 1 - share, share])
        rows = np.concatenate([every, count + np.tile(np.arange(len(self.a)), 2)])
        columns = np.concatenate([every, self.a, self.b])
        real = (columns >= 0) & (weights != 0)
        where = rows[real], columns[real]
        return csr_matrix((weights[real], where), (count + len(self.a), count))


NO_POINTS = Points(np.zeros((0, 3)), _NO)


@dataclass(frozen=True, eq=False)
class Replacement:
    """What becomes of a mesh. gone (k,): faces that go; faces: that are added, in which n and more
    stand for the new points; renamed: corners (k,) and the vertices they name from now on;
    positions (n, 3): of the old vertices, where some moved (moved (k,))."""

    gone: Ints = field(default_factory=lambda: _NO)
    faces: Sequence[Faces] = ()
    points: Points = NO_POINTS
    renamed: tuple[Ints, Ints] = (_NO, _NO)
    positions: Floats | None = None
    moved: Ints = field(default_factory=lambda: _NO)


def replaced(mesh: Mesh, what: Replacement, chosen: Selection = NOTHING) -> Edited:
    """The mesh after the change: old faces keep their order, the added ones stand behind them.
    Vertices that no face uses any more go. chosen: carried along."""
    old = mesh.topology
    n = old.vertex_count
    stood = mesh.positions if what.positions is None else what.positions
    positions = np.concatenate([stood, what.points.positions])
    at, to = what.renamed
    sizes = np.concatenate([_NO, *(f.sizes for f in what.faces)]).astype(np.int32)
    corners = np.concatenate([_NO, *(f.vertices for f in what.faces)]).astype(np.int32)
    faces_from = np.concatenate([_NO, *(f.face for f in what.faces)]).astype(np.int32)
    face = np.concatenate([np.arange(old.face_count, dtype=np.int32), faces_from])
    origin = Origin(what.points.source(n), face, _corner_source(mesh, what.faces))
    touched = _touched(old, at, what.moved)
    if len(what.gone) or _freed(old, at, to, corners, len(positions)).any():
        return _without(mesh, what, positions, _Grown(sizes, corners), origin, chosen, touched)
    grown = old.patched(at, to, sizes, corners, len(positions))
    renewed = np.concatenate([np.flatnonzero(touched), np.arange(old.face_count, grown.face_count)])
    return rebuilt(mesh, positions, grown, origin, chosen, renewed)


@dataclass(frozen=True, eq=False)
class _Grown:
    """The faces that are added: sizes (a,), corners (sum of sizes,)."""

    sizes: Ints
    corners: Ints


def _corner_source(mesh: Mesh, faces: Sequence[Faces]) -> Source:
    """Where the corners of old and added faces come from."""
    count = len(mesh.topology.corners)
    first = np.concatenate([_NO, *(f.corner for f in faces)]).astype(np.int32)
    mixed = any(layer.on is On.CORNER for layer in mesh.layers.values())
    if not mixed or all(f.other is None for f in faces):
        return np.concatenate([np.arange(count, dtype=np.int32), first])
    other = np.concatenate([f.corner if f.other is None else f.other for f in faces])
    none = [np.zeros(len(f.corner)) if f.share is None else f.share for f in faces]
    return Points(np.zeros((0, 3)), first, other, np.concatenate(none)).source(count)


def _touched(old: Topology, at: Ints, moved: Ints) -> Mask:
    """(f,) faces that name other vertices, or whose vertices moved."""
    touched = np.zeros(old.face_count, bool)
    touched[old.corner_face[at]] = True
    if len(moved):
        there = np.zeros(old.vertex_count, bool)
        there[moved] = True
        touched[old.corner_face[there[old.corners]]] = True
    return touched


def _freed(old: Topology, at: Ints, to: Ints, added: Ints, count: int) -> Mask:
    """(count,) vertices that were named by renamed corners, and are by none now."""
    freed = np.zeros(count, bool)
    freed[old.corners[at]] = True
    if freed.any():
        left = freed[: old.vertex_count][old.corners]
        left[at] = False
        freed[old.corners[left]] = False
        freed[to] = False
        freed[added] = False
    return freed


def _without(
    mesh: Mesh,
    what: Replacement,
    positions: Floats,
    added: _Grown,
    origin: Origin,
    chosen: Selection,
    touched: Mask,
) -> Edited:
    old = mesh.topology
    named = old.corners.copy()
    named[what.renamed[0]] = what.renamed[1]
    kept = np.ones(old.face_count, bool)
    kept[what.gone] = False
    keep = kept[old.corner_face]
    corners = np.concatenate([named[keep], added.corners])
    used = np.ones(len(positions), bool)
    used[old.corners] = False
    used[old.vertex_count :] = False
    used[corners] = True
    new = (np.cumsum(used) - 1).astype(np.int32)
    sizes = np.concatenate([old.sizes[kept], added.sizes])
    topology = topology_of(sizes, new[corners], int(used.sum()))
    whole = np.ones(len(added.corners), bool)
    source = Origin(
        origin.vertex[np.flatnonzero(used)],
        origin.face[np.concatenate([kept, np.ones(len(added.sizes), bool)])],
        origin.corner[np.flatnonzero(np.concatenate([keep, whole]))],
    )
    made = rebuilt(mesh, positions[used], topology, source, chosen)
    if "triangles" in mesh.__dict__:
        before = new[mesh.triangles[kept[old.triangle_faces]]]
        fresh = np.arange(int(kept.sum()), topology.face_count)
        again = np.concatenate([np.flatnonzero(touched[kept]), fresh])
        triangles = carried(before, made.mesh.positions, topology, again)
        freeze(triangles)
        made.mesh.__dict__["triangles"] = triangles
    return made


def last_faces(mesh: Mesh, count: int) -> Ints:
    """The last faces of a mesh: those that were added."""
    return np.arange(mesh.topology.face_count - count, mesh.topology.face_count, dtype=np.int32)
