"""What a project is made of."""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass, field, replace
from typing import Any, Protocol, TypeVar

from dimetron.geometry.placement import Placement
from dimetron.geometry.units import Unit
from dimetron.geometry.views import Projection, View
from dimetron.mesh.mesh import Mesh


def new_id() -> str:
    """A short random id; ids are never reused, so history and file can refer to them."""
    return secrets.token_hex(6)


@dataclass(frozen=True, slots=True)
class Source:
    """A picture file as it came in, byte for byte. ``size_px`` is (width, height), upright.

    ``data`` is None where the project file had lost it; the drawing keeps its place.
    """

    id: str
    name: str
    extension: str
    size_px: tuple[int, int]
    sha256: str
    data: bytes | None = field(repr=False)
    mm_per_px: float | None = None


def source_from(
    data: bytes, name: str, extension: str, size_px: tuple[int, int], mm_per_px: float | None = None
) -> Source:
    return Source(
        new_id(), name, extension, size_px, hashlib.sha256(data).hexdigest(), data, mm_per_px
    )


@dataclass(frozen=True, slots=True)
class Drawing:
    """One view of the object on an image plane. ``fade`` is its opacity, 0 to 1."""

    id: str
    name: str
    view: View
    source: str
    placement: Placement
    shown: bool = True
    held: bool = False
    fade: float = 0.85
    aspect_locked: bool = True


@dataclass(frozen=True, slots=True)
class MeshObject:
    id: str
    name: str
    mesh: Mesh
    shown: bool = True
    held: bool = False


@dataclass(frozen=True, slots=True)
class Document:
    """All of a project. Tuples are in tray order."""

    unit: Unit = Unit.MM
    projection: Projection = Projection.THIRD_ANGLE
    sources: tuple[Source, ...] = ()
    drawings: tuple[Drawing, ...] = ()
    meshes: tuple[MeshObject, ...] = ()

    def source(self, id_: str) -> Source:
        return _by_id(self.sources, id_)

    def drawing(self, id_: str) -> Drawing:
        return _by_id(self.drawings, id_)

    def mesh(self, id_: str) -> MeshObject:
        return _by_id(self.meshes, id_)

    def item(self, id_: str) -> Drawing | MeshObject | None:
        """The drawing or mesh with this id, or None."""
        both: tuple[Drawing | MeshObject, ...] = (*self.drawings, *self.meshes)
        return next((item for item in both if item.id == id_), None)

    def size_px(self, drawing: Drawing) -> tuple[int, int]:
        return self.source(drawing.source).size_px

    @property
    def empty(self) -> bool:
        return not self.drawings and not self.meshes


class _Identified(Protocol):
    @property
    def id(self) -> str: ...


_Item = TypeVar("_Item", bound=_Identified)


def _by_id(items: tuple[_Item, ...], id_: str) -> _Item:
    for item in items:
        if item.id == id_:
            return item
    raise KeyError(id_)


def with_item(doc: Document, id_: str, **changes: Any) -> Document:
    """The document with fields of one drawing or mesh replaced. Raises KeyError."""
    if doc.item(id_) is None:
        raise KeyError(id_)
    return replace(
        doc,
        drawings=tuple(replace(d, **changes) if d.id == id_ else d for d in doc.drawings),
        meshes=tuple(replace(m, **changes) if m.id == id_ else m for m in doc.meshes),
    )
