"""Meshes made from outlines, and linked copies of meshes, which remember how: when what they were
made of changes, they are made anew.

A maker stands in one module of ``makers/`` and is registered by standing there.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import asdict, dataclass, replace
from functools import cache
from typing import Any, TypeAlias
from weakref import WeakKeyDictionary, ref

import numpy as np

from dimetron import standing
from dimetron.document.edits import free_name
from dimetron.document.model import Document, Made, MeshObject, new_id
from dimetron.document.outline import Outline, with_outline
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import Parameter, Sort, checked, parameters_of
from dimetron.mesh.seen_outline import outline_of
from dimetron.outlines.edit import path_through
from dimetron.outlines.path import OutlineError

#: What something is made of.
Source: TypeAlias = Outline | MeshObject
#: What a mesh says it was made by, before the maker's name.
_PREFIXES: dict[type[Source], str] = {Outline: "outline:", MeshObject: "copies:"}
#: Outlines of meshes miss them by at most this share of their extent.
_FINE = 5e-4


@dataclass(frozen=True, slots=True)
class Maker:
    """sentence: what it makes; needs: of how many outlines, at least and at most (0: any number);
    make: the mesh; order: among the makers; of: what kind of items it is made of."""

    name: str
    title: str
    sentence: str
    icon: str
    order: int
    needs: tuple[int, int]
    settings: type
    make: Callable[[Sequence[Any], Any], Mesh]
    of: type[Source] = Outline

    @property
    def by(self) -> str:
        """What a mesh says it was made by."""
        return _PREFIXES[self.of] + self.name

    @property
    def parameters(self) -> tuple[Parameter, ...]:
        """What can be typed."""
        return parameters_of(self.settings)

    def check(self, sources: Sequence[Source]) -> None:
        """Raises MeshError with what is to be chosen."""
        least, most = self.needs
        one, several = ("an outline", "outlines") if self.of is Outline else ("a mesh", "meshes")
        if len(sources) < least:
            many = one if least == 1 else f"{least} {several}"
            raise MeshError(f"Choose {many} to make this of.")
        if most and len(sources) > most:
            many = f"one {one.split()[1]}" if most == 1 else f"{most} {several}"
            raise MeshError(f"This is made of {many} at most; choose fewer.")


def makers(of: type[Source] = Outline) -> dict[str, Maker]:
    """All makers that make something of outlines, or of meshes, by name, in their order."""
    return _all_makers()[of]


@cache
def _all_makers() -> dict[type[Source], dict[str, Maker]]:
    modules = standing.modules_in("dimetron.document.makers")
    found = [maker for module in modules for maker in standing.values_in(module, Maker)]
    found.sort(key=lambda maker: maker.order)
    return {of: {maker.name: maker for maker in found if maker.of is of} for of in _PREFIXES}


def made_of(maker: Maker, sources: Sequence[Source], how: Any) -> Mesh:
    """The mesh. Raises MeshError for what has no meaning."""
    maker.check(sources)
    try:
        return maker.make(sources, checked(how))
    except OutlineError as error:
        raise MeshError(str(error)) from error


def with_made(
    doc: Document, maker: Maker, sources: Sequence[Source], how: Any
) -> tuple[Document, str]:
    """The project with what is made of outlines or meshes, and its id. Raises MeshError."""
    mesh = made_of(maker, sources, how)
    first = sources[0]
    made = Made(maker.by, tuple(asdict(how).items()), tuple(o.id for o in sources))
    if isinstance(first, MeshObject):
        name = free_name(doc, f"{first.name} copies")
        # A copy looks like what it is of.
        item = MeshObject(new_id(), name, mesh, made=made, smooth=first.smooth, colour=first.colour)
    else:
        called = f"{first.name.removesuffix(' outline')} {maker.title.lower()}"
        item = MeshObject(new_id(), free_name(doc, called), mesh, made=made)
    _note(mesh, sources, made)
    return replace(doc, meshes=(*doc.meshes, item)), item.id


def maker_of(item: MeshObject) -> Maker | None:
    """By which maker a mesh was made of outlines or meshes, if it was."""
    return None if item.made is None else _maker_by(item.made.by)


def _maker_by(by: str) -> Maker | None:
    for of, prefix in _PREFIXES.items():
        if by.startswith(prefix):
            return makers(of).get(by.removeprefix(prefix))
    return None


def how_made(item: MeshObject) -> Any:
    """The parameters it was made with. Raises MeshError if they have no meaning any more."""
    maker = _known_maker(item)
    assert item.made is not None
    known = {p.name for p in maker.parameters}
    return checked(maker.settings(**{k: v for k, v in item.made.numbers if k in known}))


def remade_with(doc: Document, id_: str, how: Any) -> Document:
    """The project with a mesh made anew with other numbers. Raises MeshError."""
    item = doc.mesh(id_)
    assert item.made is not None
    sources = sources_of(doc, item)
    mesh = made_of(_known_maker(item), sources, how)
    made = replace(item.made, numbers=tuple(asdict(how).items()))
    _note(mesh, sources, made)
    return _with(doc, replace(item, mesh=mesh, made=made))


#: What each mesh was last made of, for as long as it is there.
_made: WeakKeyDictionary[Mesh, tuple[Any, ...]] = WeakKeyDictionary()


def _key(sources: Iterable[Source], made: Made) -> tuple[Any, ...]:
    return made, tuple(
        (o.path, o.depth, o.half, o.view) if isinstance(o, Outline) else _Same(o.mesh)
        for o in sources
    )


class _Same:
    """A mesh that is the same only as itself; it is not kept for this."""

    def __init__(self, mesh: Mesh) -> None:
        self._mesh = ref(mesh)

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, _Same):
            return False
        mine = self._mesh()
        return mine is not None and mine is other._mesh()

    __hash__ = None  # type: ignore[assignment]


def _note(mesh: Mesh, sources: Sequence[Source], made: Made) -> None:
    _made[mesh] = _key(sources, made)


def sources_of(doc: Document, item: MeshObject) -> list[Source]:
    """What a mesh was made of and that is still there."""
    assert item.made is not None
    found = [doc.item(id_) for id_ in item.made.of]
    return [o for o in found if isinstance(o, _known_maker(item).of)]


def _with(doc: Document, item: MeshObject) -> Document:
    return replace(doc, meshes=tuple(item if m.id == item.id else m for m in doc.meshes))


def scaled_made(made: Made, factor: float) -> Made:
    """How it was made, its lengths that many times as long."""
    maker = _maker_by(made.by)
    if maker is None:
        return made
    sorts = {p.name: p.sort for p in maker.parameters}
    return replace(
        made, numbers=tuple((k, _scaled(sorts.get(k), v, factor)) for k, v in made.numbers)
    )


def _scaled(sort: Sort | None, value: Any, factor: float) -> Any:
    if sort is Sort.LENGTH:
        return float(value) * factor
    if sort is Sort.PLACES:
        return tuple((u, v, length * factor) for u, v, length in value)
    return value


def edited_by_hand(item: MeshObject) -> str:
    """What is said of a mesh that is plain from now on."""
    what = "its outlines do" if _known_maker(item).of is Outline else "what it is a copy of does"
    return f"{item.name} was edited by hand: {what} not change it now."


def remade(doc: Document, before: Document) -> tuple[Document, tuple[str, ...]]:
    """The project with meshes made anew whose sources are others than ``before``, and in words what
    could not be made: such a mesh stays as it is. One that was edited by hand meanwhile is plain
    from now on, which is said too."""
    said = []
    for item in doc.meshes:
        if maker_of(item) is None:
            continue
        assert item.made is not None
        known = _made.get(item.mesh)
        if known is None:
            if _by_hand(doc, before, item):
                doc = _with(doc, replace(item, made=None))
                said.append(edited_by_hand(item))
                continue
            # As it was read or came back: it is what its sources had made then.
            known = _key(sources_of(before, item), item.made)
            _made[item.mesh] = known
        sources = sources_of(doc, item)
        if known == _key(sources, item.made):
            continue
        try:
            mesh = made_of(_known_maker(item), sources, how_made(item))
        except MeshError as error:
            said.append(f"{item.name} stays as it is: {error}")
            continue
        _note(mesh, sources, item.made)
        doc = _with(doc, replace(item, mesh=mesh))
    return doc, tuple(said)


def _by_hand(doc: Document, before: Document, item: MeshObject) -> bool:
    """Whether a mesh is another one though what it was made of and how is the same; when all of it
    became larger or was moved together, it is made anew."""
    was = before.item(item.id)
    if not isinstance(was, MeshObject) or was.mesh is item.mesh or was.made is None:
        return False
    assert item.made is not None
    return _key(sources_of(before, was), was.made) == _key(sources_of(doc, item), item.made)


def _known_maker(item: MeshObject) -> Maker:
    maker = maker_of(item)
    assert maker is not None
    return maker


def with_outline_of(
    doc: Document, item: MeshObject, view: AnyView
) -> tuple[Document, tuple[str, ...]]:
    """The project with what a mesh looks like in a view, as outlines in its middle. Raises
    MeshError if that is nothing."""
    loops = outline_of(item.mesh, view)
    if not loops:
        raise MeshError("This mesh shows no outline.")
    depth = float((item.mesh.bounds.mean(axis=0)) @ view.directions.forward)
    made = []
    for loop in loops:
        path = path_through(loop, _FINE * float(np.ptp(loop, axis=0).max()))
        doc, id_ = with_outline(doc, path, view, f"{item.name} {view.title.lower()}", depth=depth)
        made.append(id_)
    return doc, tuple(made)
