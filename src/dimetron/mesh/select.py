"""Selections of vertices, edges or faces as values, and how one kind follows from another."""

from __future__ import annotations

import enum
from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import Ints
from dimetron.mesh.mesh import Mesh


class Kind(enum.Enum):
    """What is selected: a whole mesh, or parts of it."""

    WHOLE = "whole"
    VERTEX = "vertex"
    EDGE = "edge"
    FACE = "face"

    @property
    def many(self) -> str:
        """Its word for more than one."""
        return _MANY[self]


_MANY = {
    Kind.WHOLE: "meshes",
    Kind.VERTEX: "vertices",
    Kind.EDGE: "edges",
    Kind.FACE: "faces",
}


def none() -> Ints:
    """Indices of nothing."""
    return np.zeros(0, np.int32)


@dataclass(frozen=True, eq=False)
class Selection:
    """``indices`` (k,) rising, of one kind; empty when the whole mesh is meant. last: the one that
    was picked last, by itself; -1 if none was."""

    kind: Kind
    indices: Ints
    last: int = -1

    def __post_init__(self) -> None:
        self.indices.setflags(write=False)


def every(mesh: Mesh, kind: Kind) -> Ints:
    """All parts of a kind; none of a mesh as a whole."""
    topology = mesh.topology
    if kind is Kind.EDGE:
        return np.arange(len(topology.edges), dtype=np.int32)
    counts = {Kind.WHOLE: 0, Kind.VERTEX: topology.vertex_count, Kind.FACE: topology.face_count}
    return np.arange(counts[kind], dtype=np.int32)


def combined(before: Ints, picked: Ints, how: str) -> Ints:
    """``how``: "replace", "add", "toggle" or "remove". Rising, without repeats."""
    if how == "add":
        return np.union1d(before, picked).astype(np.int32)
    if how == "toggle":
        return np.setxor1d(before, picked).astype(np.int32)
    if how == "remove":
        return np.setdiff1d(before, picked).astype(np.int32)
    return np.unique(picked).astype(np.int32)


def vertices_of(mesh: Mesh, kind: Kind, indices: Ints) -> Ints:
    """Vertices (k,) that a selection moves."""
    topology = mesh.topology
    if kind is Kind.WHOLE:
        return np.arange(topology.vertex_count, dtype=np.int32)
    if kind is Kind.VERTEX:
        return indices
    if kind is Kind.EDGE:
        return np.unique(topology.edges[indices]).astype(np.int32)
    chosen = np.zeros(topology.face_count, bool)
    chosen[indices] = True
    return np.unique(topology.corners[chosen[topology.corner_face]]).astype(np.int32)


def converted(mesh: Mesh, kind: Kind, indices: Ints, to: Kind) -> Ints:
    """The same place in another kind: what lies wholly within the selection's vertices."""
    if to is kind:
        return indices
    if to is Kind.WHOLE or kind is Kind.WHOLE:
        return none()
    held = np.zeros(mesh.topology.vertex_count, bool)
    held[vertices_of(mesh, kind, indices)] = True
    if to is Kind.VERTEX:
        return np.flatnonzero(held).astype(np.int32)
    if to is Kind.EDGE:
        return np.flatnonzero(held[mesh.topology.edges].all(axis=1)).astype(np.int32)
    whole = np.logical_and.reduceat(held[mesh.topology.corners], mesh.topology.offsets[:-1])
    return np.flatnonzero(whole).astype(np.int32)


def valid(mesh: Mesh, selection: Selection) -> Selection:
    """The selection without indices that the mesh does not have (any more)."""
    topology = mesh.topology
    count = {
        Kind.WHOLE: 0,
        Kind.VERTEX: topology.vertex_count,
        Kind.EDGE: len(topology.edges) if selection.kind is Kind.EDGE else 0,
        Kind.FACE: topology.face_count,
    }[selection.kind]
    kept = selection.indices[selection.indices < count]
    return selection if len(kept) == len(selection.indices) else Selection(selection.kind, kept)
