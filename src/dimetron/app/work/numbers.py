"""The parameters of an operation as what the route can show: fields, choices and switches."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from dimetron.app.kit.instrument import Field, Option, Switch
from dimetron.geometry.units import Unit, format_length
from dimetron.mesh.parameters import Parameter, Sort

_KINDS = {
    Sort.LENGTH: "length",
    Sort.NUMBER: "number",
    Sort.COUNT: "number",
    Sort.ANGLE: "angle",
}


class Wheel:
    """What the wheel does to numbers: a notch is one more of the first count that no drag drives.
    Parts of a notch, as of a touchpad, add up."""

    def __init__(self) -> None:
        self._left = 0.0

    def turned(self, parameters: Sequence[Parameter], how: Any, notches: float) -> Any:
        """The numbers afterwards, within their limits; None where there is no such count."""
        counts = (p for p in parameters if p.sort is Sort.COUNT and p.drag is None)
        first = next(counts, None)
        if first is None:
            return None
        steps = int(self._left + notches)
        self._left += notches - steps
        value = min(max(getattr(how, first.name) + steps, first.low), first.high)
        return replace(how, **{first.name: int(value)})


@dataclass(frozen=True, slots=True)
class Numbers:
    """parameters with their values ``how``; ``take`` is told of others, and may raise
    ValueError."""

    parameters: tuple[Parameter, ...]
    how: Any
    take: Callable[[Any], None]

    def fields(self) -> list[Field]:
        """What is typed: lengths, numbers, angles and counts."""
        return [
            Field(
                p.title.capitalize(),
                float(getattr(self.how, p.name)),
                self._entered(p),
                _KINDS[p.sort],
                p.hint,
            )
            for p in self.parameters
            if p.sort in _KINDS and p.counts(self.how)
        ]

    def options(self) -> list[Option]:
        """Choices among several."""
        return [
            Option(
                p.title.capitalize(),
                tuple(p.choices),
                getattr(self.how, p.name),
                self._entered(p),
                p.listed,
            )
            for p in self.parameters
            if p.sort is Sort.CHOICE and p.counts(self.how)
        ]

    def switches(self) -> list[Switch]:
        """What is on or off."""
        return [
            Switch(p.title.capitalize(), getattr(self.how, p.name), self._entered(p), p.hint)
            for p in self.parameters
            if p.sort is Sort.SWITCH and p.counts(self.how)
        ]

    def _entered(self, parameter: Parameter) -> Callable[[Any], None]:
        def enter(value: Any) -> None:
            self.take(replace(self.how, **{parameter.name: parameter.checked(value)}))

        return enter


def number_words(parameters: tuple[Parameter, ...], how: Any, unit: Unit) -> list[str]:
    """Values of parameters as they are read."""
    found = []
    for parameter in parameters:
        value = getattr(how, parameter.name)
        if parameter.sort is Sort.LENGTH:
            found.append(format_length(value, unit))
        elif parameter.sort is Sort.CHOICE:
            found.append(dict(parameter.choices)[value])
        elif parameter.sort is Sort.PLACES:
            found.append(", ".join(format_length(v, unit) for _, _, v in value) or "nowhere")
        elif parameter.sort is Sort.SWITCH:
            found.append(parameter.title if value else f"not {parameter.title}")
        else:
            suffix = "°" if parameter.sort is Sort.ANGLE else ""
            found.append(f"{value:.6g}{suffix}".replace("-", "−"))
    return found
