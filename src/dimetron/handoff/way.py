"""A way to hand a project off: what can be chosen, and what files come of it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cache
from typing import TYPE_CHECKING, Any

from dimetron.document.model import Document
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.parameters import parameters_of
from dimetron.standing import modules_in, values_in

if TYPE_CHECKING:
    from dimetron.imaging.pyramid import Pyramid
    from dimetron.imaging.recipe import Recipe
    from dimetron.render.palette import Palette
    from dimetron.render.scene import PaneScene


class HandOffError(ValueError):
    """Nothing comes of it as asked for; the message says why and what to do."""


class Stopped(HandOffError):
    """Whoever asked does not want it any more."""


def unheard(share: float) -> None:
    """Progress that nobody follows."""


@dataclass(frozen=True, eq=False)
class Given:
    """What is handed off. stem: what files are called, without ending. chosen: ids of the chosen
    items. scenes: what the board shows, by "pane" (the one used last), "space" and "look 1" to
    "look 9"; pyramids: pictures that are read already. progress: told the share that is done; may
    raise Stopped."""

    doc: Document
    stem: str
    chosen: tuple[str, ...] = ()
    scenes: Mapping[str, PaneScene] = field(default_factory=dict)
    pyramids: Mapping[Recipe, Pyramid] = field(default_factory=dict)
    palette: Palette | None = None
    progress: Callable[[float], None] = unheard


@dataclass(frozen=True, slots=True)
class Way:
    """name: by which it is remembered; verb: on its button; order: among the others. how: a
    dataclass of parameters. ending: of the file that a name is asked for, with its dot; empty for a
    folder. write: names of files with their bytes, the main one with that ending. known: by this
    file an earlier folder of its kind is known, which may be replaced. copies: it is one picture,
    and can be had on the clipboard; tries: it can be tried against the receiving end."""

    name: str
    title: str
    verb: str
    hint: str
    order: int
    how: type
    ending: Callable[[Any], str]
    write: Callable[[Given, Any], dict[str, bytes]]
    known: str = ""
    copies: bool = False
    tries: bool = False

    def restored(self, numbers: Mapping[str, Any]) -> Any:
        """Its parameters with values that were remembered, as far as they have a meaning still."""
        found = {}
        for parameter in parameters_of(self.how):
            if parameter.name in numbers:
                try:
                    found[parameter.name] = parameter.checked(numbers[parameter.name])
                except (MeshError, TypeError, ValueError):
                    continue
        return self.how(**found)


@cache
def ways() -> tuple[Way, ...]:
    """All of them, in order."""
    package = f"{__name__.rpartition('.')[0]}.ways"
    found = [way for module in modules_in(package) for way in values_in(module, Way)]
    return tuple(sorted(found, key=lambda way: way.order))


def way(name: str) -> Way:
    """The way of a name. Raises KeyError."""
    return {way.name: way for way in ways()}[name]
