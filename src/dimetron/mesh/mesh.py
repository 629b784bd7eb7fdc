"""The mesh value: positions, the topology of its faces, and layers of what else is known."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike

from dimetron.mesh.arrays import Floats, Ints, MeshError, extent, freeze
from dimetron.mesh.index import Index, indexed
from dimetron.mesh.layers import Layer, Layers, On, layers
from dimetron.mesh.topology import Topology, topology_of
from dimetron.mesh.triangulate import retriangulated, triangulated


@dataclass(frozen=True, eq=False)
class Mesh:
    """positions (n, 3) float64 mm; layers: named values on its elements."""

    positions: Floats
    topology: Topology
    layers: Layers = field(default_factory=layers)

    def __post_init__(self) -> None:
        if self.positions.shape != (self.topology.vertex_count, 3):
            raise MeshError("Positions must be (n, 3), one for each vertex.")
        if not np.isfinite(self.positions).all():
            raise MeshError("A vertex position is not a finite number.")
        for name, layer in self.layers.items():
            if len(layer.values) != self.count(layer.on):
                raise MeshError(f"{name} must be given for every {layer.on.value} or for none.")
        freeze(self.positions)

    def count(self, on: On) -> int:
        """How many elements of a kind there are."""
        topology = self.topology
        if on is On.EDGE:
            return len(topology.edges)
        return {
            On.VERTEX: topology.vertex_count,
            On.FACE: topology.face_count,
            On.CORNER: len(topology.corners),
        }[on]

    def with_layer(self, name: str, layer: Layer) -> Mesh:
        """With a layer added, or put in place of the one of that name."""
        return self._with_layers({**self.layers, name: layer})

    def without_layer(self, name: str) -> Mesh:
        """Without the layer of that name, if there is one."""
        return self._with_layers({n: layer for n, layer in self.layers.items() if n != name})

    def _with_layers(self, named: dict[str, Layer]) -> Mesh:
        mesh = Mesh(self.positions, self.topology, layers(**named))
        for known in _OF_SHAPE:
            if known in self.__dict__:
                mesh.__dict__[known] = self.__dict__[known]
        return mesh

    @cached_property
    def triangles(self) -> Ints:
        """(t, 3) vertex triples that cover the faces, in face order."""
        result = triangulated(self.positions, self.topology)
        freeze(result)
        return result

    @cached_property
    def bounds(self) -> Floats:
        """(2, 3) lowest and highest corner; zeros for an empty mesh."""
        if not len(self.positions):
            return np.zeros((2, 3))
        return extent(self.positions)

    @cached_property
    def face_centres(self) -> Floats:
        """(f, 3) mean of each face's corners."""
        sums = np.add.reduceat(self.positions[self.topology.corners], self.topology.offsets[:-1])
        return np.asarray(sums / self.topology.sizes[:, None], dtype=np.float64)

    @cached_property
    def face_normals(self) -> Floats:
        """(f, 3) unit normals by Newell's method; zero where a face has no area."""
        p = self.positions[self.topology.corners]
        q = p[self.topology.next_corner]
        areas = np.add.reduceat(np.cross(p, q), self.topology.offsets[:-1])
        length = np.linalg.norm(areas, axis=1, keepdims=True)
        return np.asarray(np.divide(areas, length, out=np.zeros_like(areas), where=length > 1e-12))

    @cached_property
    def index(self) -> Index:
        """The spatial index of ``triangles``; brought up to date from that of the mesh this one
        was made from, if it has one."""
        before = self.__dict__.pop("_before", None)
        return indexed(self.positions, self.triangles) if before is None else before.index_of(self)

    def let_follow(self, mesh: Mesh, change: Change) -> None:
        """Let a mesh that was made from this one by a change use what is indexed of it."""
        if "index" in self.__dict__:
            mesh.__dict__["_before"] = _Before(self.index, change)
        elif "_before" in self.__dict__:
            before = self.__dict__["_before"]
            mesh.__dict__["_before"] = _Before(before.index, before.change.then(change))

    def ready(self) -> Mesh:
        """The mesh with everything derived that drawing it needs, as a worker does beforehand."""
        for _ in (self.triangles, self.topology.edges, self.bounds):
            pass
        return self

    def with_positions(self, positions: Floats) -> Mesh:
        """The same faces elsewhere. The triangulation is made anew when it is asked for."""
        return Mesh(np.ascontiguousarray(positions, np.float64), self.topology, self.layers)

    def with_similar(self, positions: Floats) -> Mesh:
        """The same faces moved, turned or scaled as a whole; the triangulation stays."""
        mesh = self.with_positions(positions)
        if "triangles" in self.__dict__:
            mesh.__dict__["triangles"] = self.triangles
            self.let_follow(mesh, Change(everything=True))
        return mesh

    def with_moved(self, vertices: Ints, positions: Floats) -> Mesh:
        """Put some vertices (k,) at positions (k, 3); triangulation follows only around them."""
        changed = self.positions.copy()
        changed[vertices] = positions
        mesh = Mesh(changed, self.topology, self.layers)
        if "triangles" in self.__dict__:
            again = retriangulated(self.triangles, changed, self.topology, vertices)
            freeze(again)
            mesh.__dict__["triangles"] = again
            self.let_follow(mesh, Change(vertices=vertices))
        return mesh


_NONE = np.zeros(0, np.int32)


@dataclass(frozen=True, eq=False)
class Change:
    """Which vertices (k,) moved, and which faces (k,) are others; or everything."""

    vertices: Ints = field(default_factory=lambda: _NONE)
    faces: Ints = field(default_factory=lambda: _NONE)
    everything: bool = False

    def then(self, other: Change) -> Change:
        """Both changes, one after the other."""
        vertices = np.union1d(self.vertices, other.vertices)
        faces = np.union1d(self.faces, other.faces)
        return Change(vertices, faces, self.everything or other.everything)


@dataclass(frozen=True, eq=False)
class _Before:
    """The index of an earlier mesh, and what was changed since."""

    index: Index
    change: Change

    def index_of(self, mesh: Mesh) -> Index:
        if self.change.everything:
            return self.index.refitted(mesh.positions, mesh.triangles, None)
        old = self.index.triangles
        now = mesh.triangles[: len(old)]
        moved = np.zeros(len(mesh.positions), bool)
        moved[self.change.vertices] = True
        touched = np.zeros(len(old), bool)
        for side in range(3):
            touched |= moved[now[:, side]]
            if now is not old:
                touched |= now[:, side] != old[:, side]
        if len(self.change.faces):
            other = np.zeros(mesh.topology.face_count, bool)
            other[self.change.faces] = True
            touched |= other[mesh.topology.triangle_faces[: len(old)]]
        return self.index.refitted(mesh.positions, mesh.triangles, touched)


#: What is derived of positions and faces alone.
_OF_SHAPE = ("triangles", "index", "bounds", "face_centres", "face_normals")


def from_faces(positions: ArrayLike, faces: list[list[int]] | Ints) -> Mesh:
    """A mesh from vertex positions (n, 3) and faces as lists of vertex indices."""
    points = np.array(positions, dtype=np.float64).reshape(-1, 3)
    if isinstance(faces, np.ndarray):
        sizes = np.full(len(faces), faces.shape[1] if faces.ndim == 2 else 0)
        corners = faces.ravel()
    else:
        sizes = np.array([len(f) for f in faces], dtype=np.int64)
        corners = np.array([v for f in faces for v in f], dtype=np.int64)
    return Mesh(points, topology_of(sizes, corners, len(points)))
