"""Selections in words, as scripts give them: ``faces:facing=+x``, ``edges:sharp=30``."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from dimetron.mesh.arrays import Floats, Ints, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.select import Kind, Selection, every, none

#: How far off a direction may be and still count as it, in degrees.
_NEARLY_DEG = 1.0

KNOWN = (
    "all, none, faces:all, faces:facing=+x|-x|+y|-y|+z|-z, edges:all, edges:border, "
    "edges:sharp=DEG, edges:along=x|y|z, vertices:all"
)


def selected(mesh: Mesh, words: str) -> Selection:
    """The parts that words name. Raises MeshError for words that mean nothing."""
    if words == "all":
        return Selection(Kind.WHOLE, none())
    if words == "none":
        return Selection(Kind.FACE, none())
    kinds = {"faces": Kind.FACE, "edges": Kind.EDGE, "vertices": Kind.VERTEX}
    what, _, which = words.partition(":")
    name, _, value = which.partition("=")
    kind = kinds.get(what)
    if kind is not None and which == "all":
        return Selection(kind, every(mesh, kind))
    find = _WAYS.get((kind, name))
    if kind is None or find is None:
        raise MeshError(f"“{words}” selects nothing; write one of {KNOWN}.")
    return Selection(kind, find(mesh, value).astype(np.int32))


def _facing(mesh: Mesh, value: str) -> Ints:
    sign, axis = value[:1], value[1:]
    if sign not in ("+", "-") or axis not in ("x", "y", "z"):
        raise MeshError("faces:facing needs a direction: +x, -x, +y, -y, +z or -z.")
    along = mesh.face_normals[:, "xyz".index(axis)] * (1 if sign == "+" else -1)
    return np.flatnonzero(along >= np.cos(np.radians(_NEARLY_DEG)))


def _border(mesh: Mesh, value: str) -> Ints:
    return np.flatnonzero(mesh.topology.edge_face_count == 1)


def _sharp(mesh: Mesh, value: str) -> Ints:
    try:
        least = float(value)
    except ValueError as error:
        raise MeshError("edges:sharp needs an angle in degrees, such as edges:sharp=30.") from error
    return np.flatnonzero(turns(mesh) >= least)


def _along(mesh: Mesh, value: str) -> Ints:
    if value not in ("x", "y", "z"):
        raise MeshError("edges:along needs an axis: x, y or z.")
    ends = mesh.positions[mesh.topology.edges]
    way = ends[:, 1] - ends[:, 0]
    length = np.linalg.norm(way, axis=1)
    along = np.abs(way[:, "xyz".index(value)])
    return np.flatnonzero((length > 0) & (along >= np.cos(np.radians(_NEARLY_DEG)) * length))


def turns(mesh: Mesh) -> Floats:
    """(e,) by how many degrees the faces at each edge are turned against each other; 0 where there
    are not just two."""
    topology = mesh.topology
    pairs = np.flatnonzero(topology.edge_face_count == 2)
    offsets, faces = topology.edge_faces
    a, b = faces[offsets[pairs]], faces[offsets[pairs] + 1]
    normals = mesh.face_normals
    cosine = np.einsum("ij,ij->i", normals[a], normals[b]).clip(-1, 1)
    found = np.zeros(len(topology.edges))
    found[pairs] = np.degrees(np.arccos(cosine))
    return found


_WAYS: dict[tuple[Kind | None, str], Callable[[Mesh, str], Ints]] = {
    (Kind.FACE, "facing"): _facing,
    (Kind.EDGE, "border"): _border,
    (Kind.EDGE, "sharp"): _sharp,
    (Kind.EDGE, "along"): _along,
}
