"""What a project is made of."""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass, field, replace
from typing import Any, Protocol

from dimetron.document.names import plain_name
from dimetron.document.parts import USUAL, Group, LoosePicture, Reference, SavedLook, Showing
from dimetron.geometry.placement import Placement
from dimetron.geometry.units import Unit
from dimetron.geometry.views import AnyView, Auxiliary, Projection, View
from dimetron.imaging.figure.kind import Kind
from dimetron.imaging.figure.said import AS_FOUND, Figure
from dimetron.imaging.frame import LEVEL, UNTOUCHED, Crop, Flattening, Frame, Straightening
from dimetron.imaging.page import FIRST, Page
from dimetron.imaging.recipe import Recipe, frame_of
from dimetron.imaging.tone import PLAIN, Tone
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import Place
from dimetron.registration.problem import Landmark, Length, PictureLength, Sighting


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
    """A source of a file's bytes, under a new id."""
    return Source(
        new_id(),
        plain_name(name),
        extension,
        size_px,
        hashlib.sha256(data).hexdigest(),
        data,
        mm_per_px,
    )


@dataclass(frozen=True, slots=True)
class Sheet:
    """One page of a source, as it is prepared. size_px (width, height) and mm_per_px are those of
    the page as it came; mm_per_px is None until its resolution or a length is known. figure: what
    was said about what is drawn on it."""

    id: str
    name: str
    source: str
    size_px: tuple[int, int]
    page: Page = FIRST
    mm_per_px: float | None = None
    flattening: Flattening = UNTOUCHED
    tone: Tone = PLAIN
    figure: Figure = AS_FOUND

    @property
    def fresh(self) -> bool:
        """Whether nothing was done to it."""
        return (self.flattening, self.tone, self.figure) == (UNTOUCHED, PLAIN, AS_FOUND)


@dataclass(frozen=True, slots=True)
class Drawing:
    """One view of the object, cut from a sheet. opacity: 0 to 1.

    crop: None for all of the sheet. tone: None for the sheet's. placed: whether it stands on its
    image plane; until then its placement is only a proposal. named: whether ``view`` was told;
    unsure: why a proposed drawing should be looked at, empty when it is sure. stand_auto: it stands
    just behind everything there is; else where its placement says. formulas: numbers that follow
    from other drawings', as (number, text). body: what it is one with in size (``bodies``); empty:
    the other drawings of its sheet. drawn: what it consists of, if a person said so. fit_by: what
    of it meshes are held against, its "ink" or the "outlines" traced on it; left_out: polygons in
    its pixels within which nothing is.
    """

    id: str
    name: str
    view: AnyView
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
    opacity: float = 0.85
    aspect_locked: bool = True
    showing: Showing = USUAL
    stand_auto: bool = True
    group: str | None = None
    formulas: tuple[tuple[str, str], ...] = ()
    body: str = ""
    drawn: Kind | None = None
    fit_by: str = "ink"
    left_out: tuple[tuple[tuple[float, float], ...], ...] = ()


@dataclass(frozen=True, slots=True)
class Made:
    """How a mesh was made. by: an operation's or a solid's name; numbers: its parameters by name,
    as plain values, or as lengths at picked places; of: ids of the items it was made from."""

    by: str
    numbers: tuple[tuple[str, float | str | bool | tuple[Place, ...]], ...] = ()
    of: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Smoothing:
    """How a mesh shows the smooth surface that its faces are the cage of. view, export: how often
    each face is divided on the board and in files, 0 for not at all; shown: "both", or the "smooth"
    surface or the "cage" alone."""

    view: int = 0
    export: int = 0
    shown: str = "both"


#: A mesh as it is.
FACETED = Smoothing()


@dataclass(frozen=True, slots=True)
class MeshObject:
    """even: axes ("x", "y", "z") across which it is the same on both sides, and stays so. made:
    how, if it can be made anew. colour: "#rrggbb", or none of its own; opacity: 0 to 1, beside that
    of the look; guide: it is set aside, seen through and out of reach."""

    id: str
    name: str
    mesh: Mesh
    shown: bool = True
    held: bool = False
    group: str | None = None
    even: tuple[str, ...] = ()
    made: Made | None = None
    smooth: Smoothing = FACETED
    colour: str = ""
    opacity: float = 1.0
    guide: bool = False

    @property
    def is_smooth(self) -> bool:
        """Whether it is the cage of a smooth surface, on the board or in files."""
        return self.smooth.view > 0 or self.smooth.export > 0


@dataclass(frozen=True, slots=True)
class SizeEnd:
    """A marked place of a mesh, by its ids, or a landmark by its name."""

    mesh: str = ""
    spot: str = ""
    landmark: str = ""


@dataclass(frozen=True, slots=True)
class SizeCheck:
    """A size that meshes are to have, in mm: the distance of two ends, straight or along an axis;
    without ends the extent along an axis, of a mesh by its id or of all that are shown."""

    id: str
    name: str
    mm: float
    tolerance_mm: float
    axis: int | None = None
    ends: tuple[SizeEnd, ...] = ()
    of: str = ""


#: Numbers and choices by name.
Numbers = tuple[tuple[str, float | str | bool], ...]


@dataclass(frozen=True, slots=True)
class PinnedNote:
    """view: the key of the one it is seen in; empty: in all. at: where in space, mm."""

    id: str
    text: str
    view: str
    at: tuple[float, float, float]


#: What is made from a sheet.
Pictured = Drawing | LoosePicture


class Thing(Protocol):
    """What every item has, of whatever kind."""

    @property
    def id(self) -> str:
        """Unlike any other's."""

    @property
    def name(self) -> str:
        """What people call it."""

    @property
    def shown(self) -> bool:
        """Unless it is hidden by itself."""

    @property
    def held(self) -> bool:
        """Protected from being chosen and moved."""

    @property
    def group(self) -> str | None:
        """The id of the group it lies in."""


#: What has a card in the tray.
Item = Drawing | MeshObject | LoosePicture | Reference | Thing

#: Fields of the document that hold one kind of item each, and the one for all other kinds.
KEPT_APART, FURTHER = ("drawings", "meshes", "loose", "references"), "further"


@dataclass(frozen=True, slots=True, weakref_slot=True)
class Document:
    """All of a project. order: ids of cards and groups as they lie in the tray; what it does not
    name follows. solo: cards that are shown alone among their kind. sightings: of landmarks, in
    drawings by id; pinned: drawings that others are registered to; trust: how much marks of a
    drawing count, by id, where it is not 1. further: items of other kinds (``kind.py``). sizes,
    notes: what it is checked for, and what is pinned to places. hand_off: how it was handed off
    last, by the name of the way."""

    unit: Unit = Unit.MM
    projection: Projection = Projection.THIRD_ANGLE
    sources: tuple[Source, ...] = ()
    sheets: tuple[Sheet, ...] = ()
    drawings: tuple[Drawing, ...] = ()
    meshes: tuple[MeshObject, ...] = ()
    auxiliaries: tuple[Auxiliary, ...] = ()
    loose: tuple[LoosePicture, ...] = ()
    references: tuple[Reference, ...] = ()
    further: tuple[Thing, ...] = ()
    groups: tuple[Group, ...] = ()
    looks: tuple[SavedLook, ...] = ()
    order: tuple[str, ...] = ()
    solo: tuple[str, ...] = ()
    landmarks: tuple[Landmark, ...] = ()
    sightings: tuple[Sighting, ...] = ()
    lengths: tuple[Length, ...] = ()
    drawing_lengths: tuple[PictureLength, ...] = ()
    pinned: tuple[str, ...] = ()
    trust: tuple[tuple[str, float], ...] = ()
    sizes: tuple[SizeCheck, ...] = ()
    notes: tuple[PinnedNote, ...] = ()
    hand_off: tuple[tuple[str, Numbers], ...] = ()
    #: What is derived from it and kept beside it, by what it is; no part of the value.
    derived: dict[str, dict[str, Any]] = field(
        default_factory=dict, init=False, repr=False, compare=False
    )

    def source(self, id_: str) -> Source:
        """The source with this id. Raises KeyError."""
        return self._by_id("sources")[id_]  # type: ignore[no-any-return]

    def sheet(self, id_: str) -> Sheet:
        """The sheet with this id. Raises KeyError."""
        return self._by_id("sheets")[id_]  # type: ignore[no-any-return]

    def drawing(self, id_: str) -> Drawing:
        """The drawing with this id. Raises KeyError."""
        return self._by_id("drawings")[id_]  # type: ignore[no-any-return]

    def mesh(self, id_: str) -> MeshObject:
        """The mesh with this id. Raises KeyError."""
        return self._by_id("meshes")[id_]  # type: ignore[no-any-return]

    def _by_id(self, kind: str) -> dict[str, Any]:
        """What there is of a kind, by id; looked up thousands of times for one frame."""
        index = self.derived.get(kind)
        if index is None:
            index = self.derived[kind] = {thing.id: thing for thing in getattr(self, kind)}
        return index

    @property
    def items(self) -> tuple[Item, ...]:
        """Everything that has a card, by kind."""
        return (*self.drawings, *self.meshes, *self.loose, *self.references, *self.further)

    def item(self, id_: str) -> Item | None:
        """The item with this id, or None."""
        return self._by_id("items").get(id_)

    def group(self, id_: str | None) -> Group | None:
        """The group with this id, or None."""
        return None if id_ is None else self._by_id("groups").get(id_)

    def visible(self, item: Item) -> bool:
        """Whether it is shown, its group too, and none of its kind is shown alone instead."""
        group = self.group(item.group)
        if not item.shown or (group is not None and not group.shown):
            return False
        kind = type(item)
        alone = [i for i in self.solo if isinstance(self.item(i), kind)] if self.solo else []
        return not alone or item.id in alone

    def free(self, item: Item) -> bool:
        """Whether it can be chosen on the board: neither it nor its group is held."""
        group = self.group(item.group)
        aside = isinstance(item, MeshObject) and item.guide
        return not item.held and not aside and (group is None or not group.held)

    @property
    def views(self) -> tuple[AnyView, ...]:
        """The principal views and the project's auxiliary ones."""
        return (*View, *self.auxiliaries)

    def view_by_key(self, key: str) -> AnyView | None:
        """The principal or auxiliary view with this key, or None."""
        return next((view for view in self.views if view.key == key), None)

    @property
    def planes(self) -> tuple[Drawing, ...]:
        """The drawings that stand in space."""
        return tuple(d for d in self.drawings if d.placed)

    def cut_from(self, sheet: str) -> tuple[Drawing, ...]:
        """The drawings of a sheet."""
        cut = self.derived.get("cut")
        if cut is None:
            cut = self.derived["cut"] = {}
            for drawing in self.drawings:
                cut.setdefault(drawing.sheet, []).append(drawing)
        return tuple(cut.get(sheet, ()))

    def recipe(self, item: Pictured | Sheet) -> Recipe:
        """How the picture of a drawing, or of a whole prepared sheet, is made."""
        kept = self.derived.setdefault("recipes", {})
        known = kept.get(item.id)
        if known is None or known[0] is not item:
            known = kept[item.id] = item, self._recipe(item)
        return known[1]

    def _recipe(self, item: Pictured | Sheet) -> Recipe:
        if isinstance(item, Sheet):
            return Recipe(
                item.source, item.page, item.size_px, item.flattening, tone=item.tone,
                figure=item.figure,
            )  # fmt: skip
        sheet = self.sheet(item.sheet)
        drawn = item.drawn if isinstance(item, Drawing) else None
        return Recipe(
            sheet.source,
            sheet.page,
            sheet.size_px,
            sheet.flattening,
            item.crop,
            item.straightening,
            sheet.tone if item.tone is None else item.tone,
            sheet.figure if drawn is None else replace(sheet.figure, kind=drawn),
        )

    def frame(self, item: Pictured | Sheet) -> Frame:
        """How the pixels of its file become those of its prepared picture."""
        kept = self.derived.setdefault("frames", {})
        recipe = self.recipe(item)
        known = kept.get(item.id)
        if known is None or known[0] is not recipe:
            known = kept[item.id] = recipe, frame_of(recipe)
        return known[1]

    def size_px(self, drawing: Pictured) -> tuple[int, int]:
        """(width, height) of its prepared picture."""
        return self.frame(drawing).size_px

    def data(self, drawing: Pictured) -> bytes | None:
        """The bytes of the file a drawing comes from; None if the project has lost them."""
        return self.source(self.sheet(drawing.sheet).source).data

    def needed(self, sheet: str) -> bool:
        """Whether a drawing or a loose picture comes from a sheet."""
        return any(item.sheet == sheet for item in self.pictured)

    @property
    def pictured(self) -> tuple[Pictured, ...]:
        """What is made from a sheet."""
        return (*self.drawings, *self.loose)

    @property
    def board_empty(self) -> bool:
        """Whether nothing stands in space yet."""
        return not self.planes and not self.meshes

    @property
    def empty(self) -> bool:
        """Whether there is nothing that a file would be wanted for."""
        return not self.sheets and not self.meshes and not self.further


def with_item(doc: Document, id_: str, **changes: Any) -> Document:
    """The document with fields of one item replaced. Raises KeyError."""
    if "name" in changes:
        changes["name"] = plain_name(changes["name"])
    for field_ in (*KEPT_APART, FURTHER):
        items = getattr(doc, field_)
        if any(item.id == id_ for item in items):
            changed = tuple(replace(i, **changes) if i.id == id_ else i for i in items)
            return replace(doc, **{field_: changed})  # type: ignore[arg-type]
    raise KeyError(id_)
