"""A document packed beside another one: what its meshes differ by, instead of all they are."""

from __future__ import annotations

import zlib
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np

from dimetron.document.model import Document, MeshObject
from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.ply import from_ply, to_ply


class Spool(Protocol):
    """Where bytes are laid aside, and had again by their key."""

    def put(self, data: bytes) -> str:
        """Raises OSError."""

    def get(self, key: str) -> bytes:
        """Raises OSError."""


@dataclass(frozen=True, slots=True, eq=False)
class _Entry:
    """One mesh of a packed document. How it is had from the neighbour's mesh of the same id:
    moved: with vertices (k,) at positions (k, 3); whole: it is another; laid: another, compressed
    in the spool; with none of them it is the neighbour's. fill: makes the item of its mesh."""

    id: str
    fill: Callable[[Mesh], MeshObject]
    moved: tuple[Ints, Floats] | None = None
    whole: Mesh | None = None
    laid: str | None = None
    #: The neighbour's item itself.
    same: bool = False

    @property
    def nbytes(self) -> int:
        """What it takes in memory."""
        if self.moved is not None:
            return self.moved[0].nbytes + self.moved[1].nbytes
        if self.whole is None:
            return 0
        topology, layers = self.whole.topology, self.whole.layers.values()
        arrays = (self.whole.positions, topology.offsets, topology.corners)
        return sum(a.nbytes for a in (*arrays, *(layer.values for layer in layers)))

    def item(self, beside: MeshObject | None, spool: Spool | None) -> MeshObject:
        """Raises OSError, MeshError and zlib.error if it cannot be had from the spool any more."""
        if self.laid is not None:
            assert spool is not None
            return self.fill(from_ply(zlib.decompress(spool.get(self.laid))))
        if self.whole is not None:
            return self.fill(self.whole)
        assert beside is not None
        if self.same:
            return beside
        return self.fill(beside.mesh if self.moved is None else beside.mesh.with_moved(*self.moved))

    def laid_aside(self, spool: Spool) -> _Entry:
        """Raises OSError."""
        if self.whole is None:
            return self
        key = spool.put(zlib.compress(to_ply(self.whole), 1))
        return replace(self, whole=None, laid=key)


@dataclass(frozen=True, slots=True, eq=False)
class Packed:
    """rest: the document without its meshes."""

    rest: Document
    entries: tuple[_Entry, ...]

    @property
    def nbytes(self) -> int:
        """What it takes in memory."""
        return sum(entry.nbytes for entry in self.entries)

    def unpacked(self, beside: Document, spool: Spool | None) -> Document:
        """The document again, beside the one it was packed by. Raises OSError, MeshError and
        zlib.error if a part of it is lost."""
        known = {m.id: m for m in beside.meshes}
        meshes = tuple(entry.item(known.get(entry.id), spool) for entry in self.entries)
        return replace(self.rest, meshes=meshes)

    def laid_aside(self, spool: Spool) -> Packed:
        """With what takes room in the spool. Raises OSError."""
        return replace(self, entries=tuple(e.laid_aside(spool) for e in self.entries))


def packed(doc: Document, beside: Document) -> Packed:
    """A document by what it differs from a neighbour by."""
    known = {m.id: m for m in beside.meshes}
    entries = tuple(_entry(item, known.get(item.id)) for item in doc.meshes)
    return Packed(replace(doc, meshes=()), entries)


def _entry(item: MeshObject, beside: MeshObject | None) -> _Entry:
    mould = replace(item, mesh=_NONE)

    def fill(mesh: Mesh) -> MeshObject:
        return replace(mould, mesh=mesh)

    if item is beside:
        return _Entry(item.id, fill, same=True)
    if beside is not None and item.mesh is beside.mesh:
        return _Entry(item.id, fill)
    if beside is None or not _differ_by_moves(item.mesh, beside.mesh):
        return _Entry(item.id, fill, whole=item.mesh)
    now, then = item.mesh.positions, beside.mesh.positions
    other = now[:, 0] != then[:, 0]
    for axis in (1, 2):
        other |= now[:, axis] != then[:, axis]
    vertices = np.flatnonzero(other).astype(np.int32)
    return _Entry(item.id, fill, moved=(vertices, now[vertices]))


def _differ_by_moves(a: Mesh, b: Mesh) -> bool:
    same_layers = a.layers.keys() == b.layers.keys() and all(
        layer is b.layers[name] for name, layer in a.layers.items()
    )
    return a.topology is b.topology and same_layers


_NONE = from_ply(
    b"ply\nformat binary_little_endian 1.0\nelement vertex 0\nelement face 0\nend_header\n"
)
