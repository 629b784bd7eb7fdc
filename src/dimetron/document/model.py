"""What a project is made of."""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass, field, replace
from typing import Any, Protocol, TypeVar

from dimetron.geometry.placement import Placement
from dimetron.geometry.units import Unit
from dimetron.geometry.views import Projection, View
from dimetron.imaging.frame import (
    LEVEL,
    UNTOUCHED,
    Crop,
    Flattening,
    Frame,
    Straightening,
)
from dimetron.imaging.page import FIRST, Page
from dimetron.imaging.recipe import Recipe, frame_of
from dimetron.imaging.tone import PLAIN, Tone
from dimetron.mesh.mesh import Mesh


def new_id() -> str:
    """A short random id; ids are never reused, so history and file can refer to them."""
    return secrets.token_hex(6)


@dataclass(frozen=True, slots=True)
class Source:
    """A picture file as it came in, byte for byte. ``size_px`` is (width, height), upright, of its
    first page.

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
class Sheet:
    """One page of a source, as it is prepared. size_px (width, height) and mm_per_px are those of
    the page as it came; mm_per_px is None until its resolution or a length is known."""

    id: str
    name: str
    source: str
    size_px: tuple[int, int]
    page: Page = FIRST
    mm_per_px: float | None = None
    flattening: Flattening = UNTOUCHED
    tone: Tone = PLAIN

    @property
    def fresh(self) -> bool:
        """Whether nothing was done to it."""
        return self.flattening == UNTOUCHED and self.tone == PLAIN


@dataclass(frozen=True, slots=True)
class Drawing:
    """One view of the object, cut from a sheet. ``fade`` is its opacity, 0 to 1.

    crop: None for all of the sheet. tone: None for the sheet's. placed: whether it stands on its
    image plane; until then its placement is only a proposal. named: whether ``view`` was told;
    unsure: why a proposed drawing should be looked at, empty when it is sure.
    """

    id: str
    name: str
    view: View
    sheet: str
    placement: Placement
    crop: Crop | None = None
    straightening: Straightening = LEVEL
    tone: Tone | None = None
    placed: bool = True
    named: bool = True
    unsure: str = ""
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
    sheets: tuple[Sheet, ...] = ()
    drawings: tuple[Drawing, ...] = ()
    meshes: tuple[MeshObject, ...] = ()

    def source(self, id_: str) -> Source:
        return _by_id(self.sources, id_)

    def sheet(self, id_: str) -> Sheet:
        return _by_id(self.sheets, id_)

    def drawing(self, id_: str) -> Drawing:
        return _by_id(self.drawings, id_)

    def mesh(self, id_: str) -> MeshObject:
        return _by_id(self.meshes, id_)

    def item(self, id_: str) -> Drawing | MeshObject | None:
        """The drawing or mesh with this id, or None."""
        both: tuple[Drawing | MeshObject, ...] = (*self.drawings, *self.meshes)
        return next((item for item in both if item.id == id_), None)

    @property
    def planes(self) -> tuple[Drawing, ...]:
        """The drawings that stand in space."""
        return tuple(d for d in self.drawings if d.placed)

    def cut_from(self, sheet: str) -> tuple[Drawing, ...]:
        """The drawings of a sheet."""
        return tuple(d for d in self.drawings if d.sheet == sheet)

    def recipe(self, item: Drawing | Sheet) -> Recipe:
        """How the picture of a drawing, or of a whole prepared sheet, is made."""
        if isinstance(item, Sheet):
            return Recipe(item.source, item.page, item.size_px, item.flattening, tone=item.tone)
        sheet = self.sheet(item.sheet)
        return Recipe(
            sheet.source,
            sheet.page,
            sheet.size_px,
            sheet.flattening,
            item.crop,
            item.straightening,
            sheet.tone if item.tone is None else item.tone,
        )

    def frame(self, item: Drawing | Sheet) -> Frame:
        return frame_of(self.recipe(item))

    def size_px(self, drawing: Drawing) -> tuple[int, int]:
        return self.frame(drawing).size_px

    def data(self, drawing: Drawing) -> bytes | None:
        """The bytes of the file a drawing comes from; None if the project has lost them."""
        return self.source(self.sheet(drawing.sheet).source).data

    @property
    def board_empty(self) -> bool:
        """Whether nothing stands in space yet."""
        return not self.planes and not self.meshes

    @property
    def empty(self) -> bool:
        return not self.sheets and not self.meshes


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
