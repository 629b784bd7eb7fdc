"""Operations as data: what is changed of a mesh, by which numbers, and how it is called.

An operation stands in one module of ``mesh/operations/<family>/`` and is registered by standing
there. Route, shortcuts, command finder, guide and ``dimetron mesh`` follow from it.
"""

from __future__ import annotations

import typing
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cache
from typing import Any

from dimetron.mesh import select
from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import NoParameters, Parameter, checked, parameters_of
from dimetron.mesh.select import Kind, Selection
from dimetron.standing import modules_in, values_in

#: The operations' own folder.
_FOLDER = f"{__name__.rpartition('.')[0]}.operations"

#: On a mesh; or on several, the first of which is the one that becomes another.
Apply = Callable[[Any, Selection, Any], Edited]
#: The direction (3,) in which a drag along counts.
Way = Callable[[Mesh, Selection], Floats]


@dataclass(frozen=True, slots=True)
class Family:
    """Operations of one kind, as the package of their folder names them; order: among families;
    columns: how many of their titles stand side by side."""

    title: str
    icon: str
    order: int
    name: str = ""
    columns: int = 2


@dataclass(frozen=True, slots=True)
class Operation:
    """takes: the kinds of parts it works on, none for the mesh as a whole; parts of other kinds are
    converted into the first of them, and a mesh chosen as a whole counts with all its parts of that
    kind. several: it makes one mesh of it and further ones. asides: it looks at further meshes,
    those that are set aside as guides, and leaves them as they are. paired: the first two
    parameters are written as one, ``FIRST:SECOND``, on the command line. bare: it is written there
    without any value too. slow: it takes a while even on a small mesh. order: among those of its
    family."""

    name: str
    title: str
    sentence: str
    takes: tuple[Kind, ...]
    icon: str
    parameters: tuple[Parameter, ...]
    settings: type
    apply: Apply
    key: str = ""
    order: int = 50
    way: Way | None = None
    several: bool = False
    asides: bool = False
    paired: bool = False
    bare: bool = False
    slow: bool = False
    family: Family = Family("", "", 0)

    @property
    def dragged(self) -> tuple[Parameter, ...]:
        """The parameters that a drag drives, each by its own way; the first one is shown at it."""
        return tuple(p for p in self.parameters if p.drag is not None)

    def driven(self, how: Any) -> tuple[Parameter, ...]:
        """Those of them that count with parameters ``how``."""
        return tuple(p for p in self.dragged if p.counts(how))

    @property
    def stations(self) -> tuple[Parameter, ...]:
        """The parameters that say where on an axis it begins and ends."""
        return tuple(p for p in self.parameters if p.station)

    def made(self, **numbers: Any) -> Any:
        """Its parameters with these values, the rest as usual. Raises MeshError."""
        return checked(self.settings(**numbers))

    def __call__(
        self,
        mesh: Mesh,
        chosen: Selection | None = None,
        others: Sequence[Mesh] = (),
        **numbers: Any,
    ) -> Edited:
        """Do it: chosen None means the whole mesh. Raises MeshError."""
        whole = Selection(Kind.WHOLE, select.none())
        return self.run(mesh, chosen or whole, self.settings(**numbers), others)

    def run(self, mesh: Mesh, chosen: Selection, how: Any, others: Sequence[Mesh] = ()) -> Edited:
        """Do it with parameters ``how``; others: further meshes, of an operation that takes
        several. Raises MeshError where it has no meaning."""
        if self.several or self.asides:
            return self.apply((mesh, *others), self.parts(mesh, chosen), checked(how))
        return self.apply(mesh, self.parts(mesh, chosen), checked(how))

    def parts(self, mesh: Mesh, chosen: Selection) -> Selection:
        """What it works on. Raises MeshError if that is nothing."""
        if not self.takes or (chosen.kind in self.takes and len(chosen.indices)):
            return chosen
        kind = self.takes[0]
        if chosen.kind is Kind.WHOLE:
            found = select.every(mesh, kind)
        else:
            found = select.converted(mesh, chosen.kind, chosen.indices, kind)
        if not len(found):
            raise MeshError(f"Select {kind.many} first.")
        return Selection(kind, found)


def operation(
    name: str,
    *,
    title: str,
    icon: str,
    takes: tuple[Kind, ...] = (),
    key: str = "",
    order: int = 50,
    way: Way | None = None,
    several: bool = False,
    asides: bool = False,
    paired: bool = False,
    bare: bool = False,
    slow: bool = False,
) -> Callable[[Apply], Operation]:
    """Make an operation of a function ``(mesh, chosen, how)``, or ``(meshes, chosen, how)`` of one
    that takes several. Its sentence is the first of the
    function's docstring, its parameters those of the dataclass that ``how`` is."""

    def made(apply: Apply) -> Operation:
        hints = typing.get_type_hints(apply)
        settings = hints.get("how", NoParameters)
        sentence = (apply.__doc__ or "").strip().partition("\n\n")[0]
        return Operation(
            name,
            title,
            " ".join(sentence.split()),
            takes,
            icon,
            parameters_of(settings),
            settings,
            apply,
            key,
            order,
            way,
            several,
            asides,
            paired,
            bare,
            slow,
        )

    return made


@cache
def operations() -> dict[str, Operation]:
    """Every operation there is, by name, family by family."""
    found = [
        replace(value, family=family)
        for family, package in _families()
        for module in modules_in(package)
        for value in values_in(module, Operation)
    ]
    found.sort(key=lambda o: (o.family.order, o.order, o.title))
    return {o.name: o for o in found}


@cache
def families() -> dict[str, Family]:
    """Every family there is, by name, in order."""
    found = sorted((family for family, _ in _families()), key=lambda f: f.order)
    return {family.name: family for family in found}


def _families() -> list[tuple[Family, str]]:
    return [
        (replace(family, name=package.__name__.rpartition(".")[2]), package.__name__)
        for package in modules_in(_FOLDER)
        for family in values_in(package, Family)
    ]


def by_name(name: str) -> Operation:
    """Raises MeshError with the names there are."""
    found = operations().get(name)
    if found is None:
        raise MeshError(f"“{name}” is no operation; there is {', '.join(operations())}.")
    return found
