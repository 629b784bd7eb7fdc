"""Shapes of known measure for the tests of operations, and what is asked of any result."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.health import Health, health
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.select_words import selected

CUBE = box((0, 0, 0), (10, 10, 10))
#: The cube with three quads along each edge.
GRID = by_name("loops")(CUBE, selected(CUBE, "edges:all"), loops=2).mesh
#: The same without its top.
TROUGH = by_name("delete")(GRID, selected(GRID, "faces:facing=+z")).mesh


def edges_where(mesh: Mesh, **at: float) -> Selection:
    """Edges that lie wholly at a coordinate: x=0.0, z=10.0 ..."""
    ends = mesh.positions[mesh.topology.edges]
    keep = np.ones(len(ends), bool)
    for axis, value in at.items():
        keep &= np.isclose(ends[:, :, "xyz".index(axis)], value).all(axis=1)
    return Selection(Kind.EDGE, np.flatnonzero(keep).astype(np.int32))


def faces_where(mesh: Mesh, **at: float) -> Selection:
    """Faces whose middle lies at a coordinate."""
    keep = np.ones(mesh.topology.face_count, bool)
    for axis, value in at.items():
        keep &= np.isclose(mesh.face_centres[:, "xyz".index(axis)], value)
    return Selection(Kind.FACE, np.flatnonzero(keep).astype(np.int32))


def vertex_at(mesh: Mesh, *place: float) -> int:
    """The vertex nearest to a place."""
    return int(np.argmin(((mesh.positions - place) ** 2).sum(axis=1)))


def euler(mesh: Mesh) -> int:
    """Vertices less edges plus faces: 2 for each closed shell without a hole through it."""
    t = mesh.topology
    return t.vertex_count - len(t.edges) + t.face_count


def sound(mesh: Mesh, shells: int = 1) -> Health:
    """Its health, once it is closed, of one sense, and without anything doubled or loose."""
    told = health(mesh)
    assert told.closed
    assert told.shells == shells
    for name in ("nonmanifold_edges", "doubled_faces", "flipped_faces", "loose_vertices"):
        assert getattr(told, name) == 0, name
    return told
