"""Which fields of a project hold ids or landmarks' names, in one table
(items' own with their kinds), and how to take things out
of it so that nothing is left that names what is gone."""

from __future__ import annotations

from collections.abc import Callable, Collection, Hashable, Iterable
from dataclasses import replace
from functools import cache
from typing import Any

from dimetron.document.kind import ItemKind, Naming, kinds
from dimetron.document.model import FURTHER, KEPT_APART, Document

#: Everything that can be named, by what kind of thing it is.
_Known = dict[str, frozenset[str]]


def _one(attribute: str) -> Callable[[Any], Iterable[str]]:
    return lambda entry: (getattr(entry, attribute),)


def _maybe(attribute: str) -> Callable[[Any], Iterable[str]]:
    return lambda entry: () if getattr(entry, attribute) is None else (getattr(entry, attribute),)


def _cleared(attribute: str) -> Callable[[Any, frozenset[str]], Any]:
    return lambda entry, _: replace(entry, **{attribute: None})


def _looked_at(look: Any) -> Iterable[str]:
    return (pane.view for _, pane in look.panes)


def _meshes_sized(check: Any) -> Iterable[str]:
    return [id_ for id_ in (check.of, *(end.mesh for end in check.ends)) if id_]


def _other_view(look: Any, there: frozenset[str]) -> Any:
    """A pane that looked at a view that is gone is left as the board has it."""
    return replace(look, panes=tuple(p for p in look.panes if p[1].view in there))


def _fewer_drawings(look: Any, there: frozenset[str]) -> Any:
    return replace(look, drawings=tuple(id_ for id_ in look.drawings if id_ in there))


_OF_ITEMS = (
    Naming("order", "card", lambda id_: (id_,)),
    Naming("solo", "item", lambda id_: (id_,)),
    Naming("sightings", "drawing", _one("picture")),
    Naming("sightings", "landmark", _one("landmark")),
    Naming("drawing_lengths", "drawing", _one("picture")),
    Naming("pinned", "drawing", lambda id_: (id_,)),
    Naming("trust", "drawing", lambda pair: (pair[0],)),
    Naming("lengths", "landmark", lambda length: (length.a, length.b)),
    Naming("landmarks", "landmark", _maybe("mirror"), _cleared("mirror")),
    Naming("sizes", "item", _meshes_sized),
    Naming("sizes", "landmark", lambda check: [e.landmark for e in check.ends if e.landmark]),
    Naming("notes", "looked-at", lambda note: (note.view,) if note.view else ()),
    Naming("looks", "drawing", lambda look: look.drawings, _fewer_drawings),
    Naming("looks", "looked-at", _looked_at, _other_view),
)
#: Entries of these are there once for each key.
_ONCE: tuple[tuple[str, Callable[[Any], Hashable]], ...] = (
    ("sightings", lambda m: (m.landmark, m.picture, m.axis)),
    ("landmarks", lambda m: m.name),
    ("pinned", lambda id_: id_),
    ("trust", lambda pair: pair[0]),
    ("order", lambda id_: id_),
    ("solo", lambda id_: id_),
)


@cache
def _table() -> tuple[Naming, ...]:
    """From the top down: what an entry names is settled before the entry itself is named."""
    of_kinds = [naming for kind in kinds() for naming in kind.names]
    # What was made of other items comes after those.
    of_kinds.sort(key=lambda naming: naming.kind == "item")
    grouped = (Naming(k.field, "group", _maybe("group"), _cleared("group")) for k in kinds())
    return Naming("sheets", "source", _one("source")), *of_kinds, *grouped, *_OF_ITEMS


@cache
def _by_field() -> dict[str, ItemKind]:
    return {kind.field: kind for kind in kinds()}


#: Where things stand that have an id of their own.
_OWNERS = ("sources", "sheets", *KEPT_APART, FURTHER, "auxiliaries", "groups", "looks")


def _known(doc: Document) -> _Known:
    items = frozenset(item.id for item in doc.items)
    groups = frozenset(g.id for g in doc.groups)
    return {
        "source": frozenset(s.id for s in doc.sources),
        "sheet": frozenset(s.id for s in doc.sheets),
        **{kind.name: frozenset(item.id for item in kind.of(doc)) for kind in kinds()},
        "auxiliary": frozenset(a.id for a in doc.auxiliaries),
        "looked-at": frozenset((*(v.key for v in doc.views), "3d")),
        "group": groups,
        "item": items,
        "card": items | groups,
        "landmark": frozenset(m.name for m in doc.landmarks),
    }


def without(doc: Document, ids: Collection[str]) -> Document:
    """The project without the things of these ids, whatever they are, and without what names them:
    drawings go with their sheet, marks and lengths with their drawing."""
    gone = frozenset(ids)
    changes: dict[str, Any] = {
        field: kept
        for field in _OWNERS
        if len(kept := tuple(i for i in getattr(doc, field) if i.id not in gone))
        < len(getattr(doc, field))
    }
    return tidied(replace(doc, **changes))


def tidied(doc: Document) -> Document:
    """The project without what names something that is not there, or stands there twice; the very
    same one if there is nothing of the kind."""
    for naming in _table():
        there = _known(doc)[naming.kind]
        entries = _entries(doc, naming.field)
        kept = tuple(_settled(naming, entries, there))
        if len(kept) < len(entries) or any(a is not b for a, b in zip(kept, entries, strict=True)):
            doc = _with(doc, naming.field, kept)
    for field, key in _ONCE:
        entries = getattr(doc, field)
        keys = [key(entry) for entry in entries]
        if len(set(keys)) < len(keys):
            first = {k: at for at, k in reversed(list(enumerate(keys)))}
            doc = _with(doc, field, tuple(entries[at] for at in sorted(first.values())))
    return doc


def _entries(doc: Document, field: str) -> tuple[Any, ...]:
    kind = _by_field().get(field)
    return getattr(doc, field) if kind is None else kind.of(doc)


def _with(doc: Document, field: str, entries: tuple[Any, ...]) -> Document:
    kind = _by_field().get(field)
    if kind is not None:
        return kind.put(doc, entries)
    changed: dict[str, Any] = {field: entries}
    return replace(doc, **changed)


def _settled(naming: Naming, entries: Iterable[Any], there: frozenset[str]) -> Iterable[Any]:
    for entry in entries:
        if all(name in there for name in naming.names(entry)):
            yield entry
        elif naming.without is not None:
            yield naming.without(entry, there)
