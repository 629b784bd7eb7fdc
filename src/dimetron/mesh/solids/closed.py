"""Closed meshes as manifold3d's solids, and back with their faces as they were."""

from __future__ import annotations

from collections.abc import Sequence

import manifold3d
import numpy as np

from dimetron.counting import counted
from dimetron.mesh.arrays import Floats, Ints, Mask, MeshError
from dimetron.mesh.dissolving import without_edges
from dimetron.mesh.edit import turned_over
from dimetron.mesh.edited import NOTHING, Edited, Origin, rebuilt
from dimetron.mesh.layers import Layer, On, layers
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.topology import Topology


def need_closed(mesh: Mesh, which: str = "The mesh") -> None:
    """Raises MeshError unless every edge lies between two faces that look the same way."""
    t = mesh.topology
    if not t.face_count:
        raise MeshError(f"{which} has no faces.")
    meeting = t.edge_face_count
    if (meeting == 1).any():
        count = int((meeting == 1).sum())
        words = counted(count, "edge is open", "edges are open")
        raise MeshError(f"{which} is not closed: {words}. Fill its holes first.")
    if (meeting > 2).any():
        raise MeshError(f"{which} has edges at which more than two faces meet; part them first.")
    up = t.corners < t.corners[t.next_corner]
    if (np.bincount(t.corner_edge, up) != 1).any():
        raise MeshError(f"Faces of {which.lower()} look different ways; let them look alike first.")


def as_solid(mesh: Mesh, id_: int = -1, which: str = "The mesh") -> manifold3d.Manifold:
    """A closed mesh as a solid whose triangles remember their faces. Raises MeshError."""
    if not mesh.topology.face_count:
        need_closed(mesh, which)
    triangles = np.ascontiguousarray(mesh.triangles, np.uint64)
    if id_ < 0:
        id_ = manifold3d.Manifold.reserve_ids(1)
    raw = manifold3d.Mesh64(
        vert_properties=np.array(mesh.positions),
        tri_verts=triangles,
        run_index=np.array([0, triangles.size], np.uint64),
        run_original_id=np.array([id_], np.uint32),
        face_id=mesh.topology.triangle_faces.astype(np.uint64),
    )
    solid = manifold3d.Manifold(raw)
    if solid.status() != manifold3d.Error.NoError:
        need_closed(mesh, which)
        raise MeshError(f"{which} is not a solid: its surface meets itself at an edge.")
    if solid.volume() < 0:
        return as_solid(turned_over(mesh), id_, which)
    return solid


def as_solids(meshes: Sequence[Mesh]) -> list[manifold3d.Manifold]:
    """Each with an id of its own, counted on. Raises MeshError."""
    first = manifold3d.Manifold.reserve_ids(len(meshes))
    words = ["The mesh"] if len(meshes) == 1 else [f"Mesh {k + 1}" for k in range(len(meshes))]
    return [as_solid(mesh, first + at, words[at]) for at, mesh in enumerate(meshes)]


def told_back(mesh: Mesh, solid: manifold3d.Manifold, others: Sequence[Mesh] = ()) -> Edited:
    """A solid made of a mesh, and of others: what lies in the plane of an old face becomes one face
    again where it has no hole. What was known of the first mesh's faces and vertices stays; the
    faces that are not of it are selected. Raises MeshError if nothing is left."""
    if solid.is_empty() or not solid.num_tri():
        raise MeshError("Nothing would be left.")
    raw = solid.to_mesh64()
    positions = np.ascontiguousarray(np.asarray(raw.vert_properties, np.float64)[:, :3])
    triangles = np.asarray(raw.tri_verts).astype(np.int32)
    ids = np.asarray(raw.run_original_id)
    runs = np.repeat(ids, np.diff(np.asarray(raw.run_index)) // 3)
    of_first = runs == ids.min() if len(ids) else np.zeros(len(triangles), bool)
    old_face = np.asarray(raw.face_id).astype(np.int64)
    face = np.where(of_first & (old_face < mesh.topology.face_count), old_face, -1).astype(np.int32)
    topology = Topology(
        np.arange(0, triangles.size + 1, 3, dtype=np.int32), triangles.ravel(), len(positions)
    )
    none = np.full(triangles.size, -1, np.int32)
    # Which vertices are old ones is looked for only where something is known of them.
    known = any(layer.on in (On.VERTEX, On.EDGE) for layer in mesh.layers.values())
    nowhere = np.full(len(positions), -1, np.int32)
    vertex = _vertices_from(mesh.positions, positions) if known else nowhere
    origin = Origin(vertex, face, none)
    made = rebuilt(mesh, positions, topology, origin, NOTHING).mesh
    key = runs.astype(np.int64) * (int(old_face.max(initial=0)) + 1) + old_face
    if all((one.topology.sizes == 3).all() for one in (mesh, *others)):
        return Edited(made, Selection(Kind.FACE, np.flatnonzero(face < 0).astype(np.int32)))
    return _faced(made, key, face < 0)


def _vertices_from(old: Floats, new: Floats) -> Ints:
    """(n',) the old vertex that stands where each new one does; -1 for none."""
    from scipy.spatial import cKDTree  # takes a while; only solids need it

    away, at = cKDTree(old).query(new)
    return np.where(away <= 1e-9 * max(float(np.abs(old).max(initial=0.0)), 1.0), at, -1)


def _faced(mesh: Mesh, key: Ints, fresh: Mask) -> Edited:
    """Triangles of one key (f,) as one face. fresh (f,): what is to be selected."""
    t = mesh.topology
    starts, corners = t.edge_corners
    pairs = np.flatnonzero(t.edge_face_count == 2)
    a, b = t.corner_face[corners[starts[pairs]]], t.corner_face[corners[starts[pairs] + 1]]
    out = np.zeros(len(t.edges), bool)
    out[pairs[key[a] == key[b]]] = True
    marked = mesh.with_layer(_FRESH, _layer(fresh))
    done, _ = without_edges(marked, out, np.zeros(t.vertex_count, bool))
    chosen = np.flatnonzero(done.mesh.layers[_FRESH].values).astype(np.int32)
    kept = {name: layer for name, layer in done.mesh.layers.items() if name != _FRESH}
    plain = Mesh(done.mesh.positions, done.mesh.topology, layers(**kept))
    return Edited(plain, Selection(Kind.FACE, chosen))


_FRESH = "of others"


def _layer(fresh: Mask) -> Layer:
    return Layer(On.FACE, fresh.astype(np.int32))
