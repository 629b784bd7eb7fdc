"""What the project needs to know of a kind of item; each kind is a module in ``kinds/``.

A kind beyond the document's own four (drawings, meshes, loose pictures, size references) keeps its
items in ``Document.further``.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import ArrayLike

from dimetron import standing
from dimetron.document.model import KEPT_APART, Document, Item
from dimetron.geometry.views import AnyView, Auxiliary, Vector
from dimetron.mesh.arrays import Floats

Json = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Naming:
    """An entry of ``field`` names things of ``kind``; ``names`` tells which. One that names what is
    not there is dropped, or if ``without`` is given changed to what that makes of it."""

    field: str
    kind: str
    names: Callable[[Any], Iterable[str]]
    without: Callable[[Any, frozenset[str]], Any] | None = None


@dataclass(frozen=True, slots=True)
class Reading:
    """What an item's JSON refers to: views by key, and what its own file in the project held."""

    views: Mapping[str, AnyView]
    members: Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class Member:
    """A file of its own beside project.json, without which its item is left out. name: inside the
    project; held: what of the item it holds; written and read as bytes. read raises ValueError for
    damage."""

    name: Callable[[Any], str]
    held: Callable[[Any], Any]
    write: Callable[[Any], bytes]
    read: Callable[[bytes], Any]


class Extent(NamedTuple):
    """Points (n, k) of which only the coordinates along k world axes are known."""

    axes: Sequence[int]
    points: Floats


@dataclass(frozen=True, slots=True)
class Told:
    """What ``dimetron info`` tells of items: under which key, as plain data, and in a line."""

    key: str
    data: Callable[[Document, Any], Json]
    words: Callable[[Json], str]


def _nowhere(doc: Document, items: Sequence[Any]) -> Iterable[Extent]:
    return ()


def _as_it_is(item: Any, factor: float, views: Mapping[str, Auxiliary]) -> Any:
    return item


@dataclass(frozen=True, slots=True, eq=False)
class ItemKind:
    """A kind of item.

    name: what it is called where ids are named. field: its key in project.json, and the document's
    field if it has one of its own. schema: of one item, unless it stands in project.schema.json.
    names: what its items name, beside their group. bounds: how far items reach, where that is part
    of the object's size. lies: points (n, 3) that an item reaches in space, None if it is not
    there. scaled: an item that many times as large about the origin, with the auxiliary views as
    they are then. moved: by (right, up) mm in a view's plane; None if the board does not slide it.
    lines: polylines (n, 3) it is drawn with and picked by, in a view along a direction or (None) in
    space; drawn: in which of the palette's colours, and how wide, in pixels; over: over all else.
    """

    name: str
    field: str
    of_class: type
    to_json: Callable[[Any], Json]
    from_json: Callable[[Json, Reading], Any]
    told: Told
    schema: Json | None = None
    names: tuple[Naming, ...] = ()
    member: Member | None = None
    bounds: Callable[[Document, Sequence[Any]], Iterable[Extent]] = _nowhere
    lies: Callable[[Document, Any], Floats | None] = lambda doc, item: None
    scaled: Callable[[Any, float, Mapping[str, Auxiliary]], Any] = _as_it_is
    moved: Callable[[Any, ArrayLike, AnyView], Any] | None = None
    lines: Callable[[Any, Vector | None], Sequence[Floats]] | None = None
    drawn: tuple[str, float] = ("soft_ink", 1.1)
    over: bool = False

    def of(self, doc: Document) -> tuple[Any, ...]:
        """The document's items of this kind."""
        if self.field in KEPT_APART:
            return tuple(getattr(doc, self.field))
        return tuple(item for item in doc.further if isinstance(item, self.of_class))

    def put(self, doc: Document, items: Iterable[Any]) -> Document:
        """The document with these as its items of this kind."""
        if self.field in KEPT_APART:
            own: dict[str, Any] = {self.field: tuple(items)}
            return replace(doc, **own)
        others = tuple(item for item in doc.further if not isinstance(item, self.of_class))
        return replace(doc, further=(*others, *items))


@cache
def kinds() -> tuple[ItemKind, ...]:
    """All kinds of item, by their modules' names."""
    modules = standing.modules_in("dimetron.document.kinds")
    return tuple(kind for module in modules for kind in standing.values_in(module, ItemKind))


def kind_of(item: Item) -> ItemKind:
    """The kind of an item. Raises KeyError if none is registered for it."""
    return _by_type()[type(item)]


@cache
def _by_type() -> dict[type, ItemKind]:
    return {kind.of_class: kind for kind in kinds()}


def filed(doc: Document) -> Iterator[tuple[Member, Any]]:
    """Every item that has a file of its own in the project, with what that is."""
    for kind in kinds():
        if kind.member is not None:
            for item in kind.of(doc):
                yield kind.member, item


def lines_of(item: Item, forward: Vector | None) -> Sequence[Floats]:
    """Polylines (n, 3) that an item is drawn with; none if it is no line drawing."""
    lines = kind_of(item).lines
    return () if lines is None else lines(item, forward)


def lined_items(doc: Document) -> list[Item]:
    """The items of all kinds that are drawn with lines."""
    return [item for kind in kinds() if kind.lines is not None for item in kind.of(doc)]


def lying(doc: Document, items: Iterable[Item]) -> Floats | None:
    """(2, 3) lowest and highest corner of what items reach in space, or None."""
    parts = [kind_of(item).lies(doc, item) for item in items]
    points = [part for part in parts if part is not None and len(part)]
    if not points:
        return None
    low = [part.min(axis=0) for part in points]
    high = [part.max(axis=0) for part in points]
    return np.stack([np.min(low, axis=0), np.max(high, axis=0)])


def moved(doc: Document, item: Item, by: ArrayLike, view: AnyView) -> Document:
    """The document with an item slid by (right, up) mm in a view's plane, if it can be."""
    kind = kind_of(item)
    if kind.moved is None:
        return doc
    to = kind.moved(item, by, view)
    return kind.put(doc, [to if other.id == item.id else other for other in kind.of(doc)])


def only(doc: Document, ids: Collection[str]) -> Document:
    """The document with no items but these."""
    for kind in kinds():
        doc = kind.put(doc, [item for item in kind.of(doc) if item.id in ids])
    return doc
