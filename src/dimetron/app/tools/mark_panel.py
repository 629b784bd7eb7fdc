"""What can be chosen and typed for the landmark in hand and for the mark clicked last."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from dimetron.app.kit.instrument import Field, Option, Switch
from dimetron.app.tools.bench import Bench
from dimetron.document import registering
from dimetron.geometry.views import AXIS_NAMES

if TYPE_CHECKING:
    from dimetron.registration.gain import Gain
    from dimetron.registration.problem import Landmark, Sighting

#: A mark counts along every axis that its drawing shows.
ALL = "all"


def register_hint(gain: Gain | None) -> str:
    """What registering would do now."""
    if gain is None or not gain.determines:
        return "Mark the same landmark in two drawings, or give a length, and it says how they lie"
    if not gain.worth:
        return "The drawings lie as the marks say"
    return "Scale, turn and place the drawings as the marks say; what they leave open stays"


def counts_for(
    bench: Bench, mark: Sighting | None, usual: str, choose: Callable[[str], None]
) -> Option:
    """Along which axis the mark clicked last counts, or the next one will."""
    if mark is None:
        axes: Sequence[int] = range(3)
        value = usual
    else:
        drawing = bench.document.drawing(mark.picture)
        axes = [a for a in drawing.view.paper_axes if a is not None]
        value = ALL if mark.axis is None else str(mark.axis)
    choices = ((ALL, "all"), *((str(a), AXIS_NAMES[a]) for a in axes))
    name = "New marks count along" if mark is None else "This mark counts along"
    return Option(name, choices, value, choose)


def let_it_count(bench: Bench, mark: Sighting) -> Switch:
    drawing = bench.document.drawing(mark.picture)

    def turn(on: bool) -> None:
        doc = registering.counting(bench.committed, mark.landmark, mark.picture, on)
        words = "Count" if on else "Leave open"
        bench.commit(doc, f"{words} {mark.landmark} in {drawing.name}")

    hint = "Off: nothing follows from it, and by how much it misses stays to be seen"
    return Switch("This mark counts", mark.counts, turn, hint)


def picked_to(bench: Bench, mark: Sighting) -> Field:
    def enter(sigma_px: float) -> None:
        doc = registering.picked_to(bench.committed, mark.landmark, mark.picture, sigma_px)
        bench.commit(doc, f"Picked {mark.landmark} to {sigma_px:g} px")

    hint = "How exactly the mark was picked, in pixels of its drawing: less counts more"
    return Field("Picked to, px", mark.sigma_px, enter, "number", hint, beside=True)


def known_coordinates(bench: Bench, landmark: Landmark) -> list[Field]:
    def entering(axis: int) -> Callable[[float], None]:
        def enter(mm: float) -> None:
            doc = registering.with_fixed(bench.committed, landmark.name, axis, mm)
            bench.commit(doc, f"Say {AXIS_NAMES[axis]} of {landmark.name}")

        return enter

    hint = "Where it is known to lie: 0 for Z is the ground, 0 for X the centre plane"
    return [
        Field(
            f"Known {AXIS_NAMES[axis]}",
            landmark.fixed[axis],
            entering(axis),
            hint=hint,
            beside=axis > 0,
        )
        for axis in range(3)
    ]


def mirrored_by(bench: Bench, name: str) -> Option:
    """Which landmark mirrors the one in hand about the centre plane."""

    def mirror(twin: str) -> None:
        doc = registering.with_mirror(bench.committed, name, twin or None)
        words = f"Mirror {name} by {twin}" if twin else f"Let {name} have no twin"
        bench.commit(doc, words)

    names = [m.name for m in bench.document.landmarks if m.name != name]
    others = (("", "no other"), *((n, n) for n in names))
    return Option("Mirrored by", others, _twin(bench, name), mirror, listed=True)


def _twin(bench: Bench, name: str) -> str:
    """The landmark beyond the centre plane that mirrors one, or nothing."""
    for mark in bench.document.landmarks:
        if mark.name == name and mark.mirror:
            return mark.mirror
        if mark.mirror == name:
            return mark.name
    return ""
