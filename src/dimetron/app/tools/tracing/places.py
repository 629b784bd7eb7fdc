"""Lengths at places that are picked on what is made: radii of edges, thicknesses."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any, NamedTuple

import numpy as np

from dimetron.app.kit.instrument import Action, Field, Switch
from dimetron.app.tools.base import REACH_PX, BoardEvent
from dimetron.app.tools.bench import Bench
from dimetron.document.outline import Outline
from dimetron.document.picked import on_plane, share_of
from dimetron.mesh.arrays import Floats
from dimetron.mesh.parameters import Parameter, Place, Sort
from dimetron.outlines.path import OutlineError
from dimetron.render.overlays import Label, Marks, Overlay


class Held(NamedTuple):
    """Numbers that can be changed, of which parameters they are, and of what outlines they make."""

    how: Any
    parameters: tuple[Parameter, ...]
    outlines: list[Outline]

    def places(self) -> tuple[Parameter, tuple[Place, ...]] | None:
        """The parameter that holds places, and those it holds; None where there is none."""
        for parameter in self.parameters:
            if parameter.sort is Sort.PLACES:
                return parameter, getattr(self.how, parameter.name)
        return None

    def with_places(self, places: tuple[Place, ...]) -> Any:
        """The numbers with other places; as they are where they hold none."""
        found = self.places()
        return self.how if found is None else replace(self.how, **{found[0].name: places})


class PickedPlaces:
    """While it is on, a click on what is made adds a place, or chooses one to type its length.
    ``held``: what there is to pick on; ``take`` is told of numbers with other places; words: a
    length as it is read."""

    def __init__(
        self,
        bench: Bench,
        held: Callable[[], Held],
        take: Callable[[Any], None],
        words: Callable[[float], str],
    ) -> None:
        self._bench, self._held, self._take, self._words = bench, held, take, words
        self.on = False
        self._chosen: int | None = None
        self._next: float | None = None

    def leave(self) -> None:
        """Nothing is picked any more."""
        self.on, self._chosen = False, None

    # Pointing.

    def press(self, event: BoardEvent) -> bool:
        """A click in the outlines' own view."""
        held = self._held()
        found, outlines = held.places(), held.outlines
        if not self.on or found is None or not outlines or event.view != outlines[0].view:
            return False
        _, places = found
        try:
            spots = _spots(outlines, places)
            at = share_of(outlines, outlines[0].view.to_plane(event.point))
        except OutlineError:
            return False
        if len(spots):
            away = np.hypot(*(event.camera.project(spots) - event.px).T)
            if away.min() < REACH_PX:
                self._chosen = int(np.argmin(away))
                self._bench.refresh()
                return True
        self._chosen = len(places)
        self._take(held.with_places((*places, (*at, self._value(held.how, places)))))
        return True

    def _value(self, how: Any, places: Sequence[Place]) -> float:
        """What is typed for the next one; else as large as the last one, or half as large again as
        the rest."""
        if self._next is not None:
            return self._next
        if places:
            return places[-1][2]
        names = ("rounding", "low", "high")
        usual = max(float(getattr(how, name)) for name in names if hasattr(how, name))
        return 1.5 * usual or 0.1 * float(getattr(how, "thickness", 10.0))

    # The panel.

    def fields(self) -> Sequence[Field]:
        """The length at the chosen place, or at the next one."""
        held = self._held()
        found = held.places()
        if found is None or not self.on:
            return ()
        parameter, places = found
        chosen = self._at(places)

        def enter(mm: float) -> None:
            mm = parameter.checked(((0.0, 0.0, mm),))[0][2]
            self._next = mm
            if chosen is None:
                self._bench.refresh()
                return
            changed = [(u, v, mm if k == chosen else old) for k, (u, v, old) in enumerate(places)]
            self._take(held.with_places(tuple(changed)))

        value = self._value(held.how, places) if chosen is None else places[chosen][2]
        return (Field(parameter.title.capitalize(), value, enter, hint=parameter.hint),)

    def switches(self) -> Sequence[Switch]:
        """Whether clicks pick."""
        held = self._held()
        found = held.places()
        if found is None or not held.outlines:
            return ()

        def turn(on: bool) -> None:
            self.on, self._chosen = on, None
            self._bench.refresh()

        hint = f"Clicks pick places: {found[0].hint[0].lower()}{found[0].hint[1:]}"
        return (Switch("Pick places", self.on, turn, hint),)

    def actions(self) -> Sequence[Action]:
        """What can be done with the chosen place."""
        found = self._held().places()
        if found is None or not self.on or not found[1]:
            return ()
        hint = "What holds elsewhere holds here again (Del)"
        ready = self._at(found[1]) is not None
        return (Action("drop-place", "Take it out", self.drop, hint, ready),)

    def drop(self) -> None:
        """Delete the chosen place, if one is."""
        held = self._held()
        found = held.places()
        chosen = self._at(found[1]) if found is not None and self.on else None
        if found is None or chosen is None:
            return
        self._chosen = None
        left = tuple(place for k, place in enumerate(found[1]) if k != chosen)
        self._take(held.with_places(left))

    def _at(self, places: Sequence[Place]) -> int | None:
        """The number of the chosen place, if there still is such a one."""
        return self._chosen if self._chosen is not None and self._chosen < len(places) else None

    def overlays(self) -> Sequence[Overlay]:
        """The places with their lengths, while they are picked."""
        held = self._held()
        found, outlines = held.places(), held.outlines
        if found is None or not self.on or not outlines:
            return ()
        try:
            spots = _spots(outlines, found[1])
        except OutlineError:
            return ()
        view, chosen = outlines[0].view, self._at(found[1])
        marks: list[Overlay] = []
        for k, (spot, place) in enumerate(zip(spots, found[1], strict=True)):
            role = "selection" if k == chosen else "accent"
            marks.append(Marks(spot[None], "ring", role, 9.0, only=view))
            marks.append(Label(spot, self._words(place[2]), role, only=view))
        return marks


def _spots(outlines: Sequence[Outline], places: Sequence[Place]) -> Floats:
    """(n, 3) places in space."""
    at = np.array([place[:2] for place in on_plane(outlines, places)]).reshape(-1, 2)
    return outlines[0].view.to_world(at, outlines[0].depth)
