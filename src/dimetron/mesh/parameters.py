"""Parameters of an operation: what can be typed, dragged, or given on the command line.

The parameters of an operation are a frozen dataclass whose fields are made by ``length``,
``number``, ``station``, ``angle``, ``count``, ``choice``, ``switch`` and ``places``; the words and
limits stand with them.
"""

from __future__ import annotations

import dataclasses
import enum
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from dimetron.mesh.arrays import MeshError

#: Where, across and up as shares of the box of what something is made of, and the length there.
Place = tuple[float, float, float]


class Drag(enum.Enum):
    """What of a drag drives a parameter: its way along the direction that the operation names, or
    its way across the pane, to the right for more."""

    ALONG = "along"
    ACROSS = "across"


class Sort(enum.Enum):
    """What kind of value a parameter takes."""

    LENGTH = "length"
    NUMBER = "number"
    ANGLE = "angle"
    COUNT = "count"
    CHOICE = "choice"
    SWITCH = "switch"
    PLACES = "places"


@dataclass(frozen=True, slots=True)
class Parameter:
    """name: in code and on the command line; title: beside its field; low, high: what it may be,
    both included; choices: as (value, title). Lengths in mm, angles in degrees."""

    name: str
    title: str
    sort: Sort
    default: Any
    hint: str
    low: float
    high: float
    drag: Drag | None = None
    choices: Sequence[tuple[str, str]] = ()
    #: Its choices unfold as a list, few as they are.
    listed: bool = False
    #: Where on an axis, as a share of what it is done to: 0 lowest, 1 highest.
    station: bool = False
    #: Whether it has a say, by the parameters; it always has if that is not said.
    when: Callable[[Any], bool] | None = None

    def counts(self, how: Any) -> bool:
        """Whether it has a say in what these parameters ``how`` do."""
        return self.when is None or self.when(how)

    def checked(self, value: Any) -> Any:
        """The value as it is kept. Raises MeshError for one that has no meaning."""
        if self.sort is Sort.SWITCH:
            return bool(value)
        if self.sort is Sort.PLACES:
            return tuple(self._place(place) for place in value)
        if self.sort is Sort.CHOICE:
            if value not in dict(self.choices):
                names = ", ".join(name for name, _ in self.choices)
                raise MeshError(f"The {self.title} must be one of {names}.")
            return value
        number = self._number(value)
        return round(number) if self.sort is Sort.COUNT else number

    def _number(self, value: Any) -> float:
        number = float(value)
        if not math.isfinite(number):
            raise MeshError(f"The {self.title} must be a number.")
        if not self.low <= number <= self.high:
            raise MeshError(f"The {self.title} must be {self._limits()}.")
        return number

    def _place(self, place: Any) -> Place:
        across, up, value = place
        if not (math.isfinite(across) and math.isfinite(up)):
            raise MeshError(f"A place of the {self.title} must be two numbers.")
        return float(across), float(up), self._number(value)

    def _limits(self) -> str:
        if self.high == math.inf:
            return f"{self.low:g} or more"
        if self.low == -math.inf:
            return f"{self.high:g} or less"
        return f"between {self.low:g} and {self.high:g}"


def only(name: str, *values: str) -> Callable[[Any], bool]:
    """That another parameter, a choice, has one of some values."""
    return lambda how: getattr(how, name) in values


def _field(sort: Sort, default: Any, given: dict[str, Any]) -> Any:
    made = {"hint": "", "low": -math.inf, "high": math.inf, "title": "", **given}
    return dataclasses.field(default=default, metadata={"sort": sort, **made})


def length(default: float, **given: Any) -> Any:
    """A length in mm. given: title, hint, low, high, drag, when."""
    return _field(Sort.LENGTH, default, given)


def number(default: float, **given: Any) -> Any:
    """A plain number."""
    return _field(Sort.NUMBER, default, given)


def station(default: float, **given: Any) -> Any:
    """A place on an axis, as a share of the extent of what it is done to."""
    limits = {"low": -10.0, "high": 10.0, "station": True}
    return _field(Sort.NUMBER, default, {**limits, **given})


def angle(default: float, **given: Any) -> Any:
    """An angle in degrees."""
    return _field(Sort.ANGLE, default, given)


def count(default: int, **given: Any) -> Any:
    """How many; a whole number, 1 or more unless said otherwise."""
    return _field(Sort.COUNT, default, {"low": 1, **given})


def choice(default: str, choices: Sequence[tuple[str, str]], **given: Any) -> Any:
    """One of several, each as (value, title). given: title, hint, when, listed."""
    return _field(Sort.CHOICE, default, {"choices": choices, **given})


def switch(default: bool, **given: Any) -> Any:
    """On or off."""
    return _field(Sort.SWITCH, default, given)


def places(**given: Any) -> Any:
    """A length at each of some places that are picked."""
    return _field(Sort.PLACES, (), given)


def parameters_of(kind: type) -> tuple[Parameter, ...]:
    """The parameters that a dataclass holds, in order."""
    found = []
    for field in dataclasses.fields(kind):
        words = dict(field.metadata)
        title = words.pop("title") or field.name.replace("_", " ")
        found.append(Parameter(name=field.name, title=title, default=field.default, **words))
    return tuple(found)


def checked(how: Any) -> Any:
    """Parameters with values as they are kept. Raises MeshError."""
    kept = {p.name: p.checked(getattr(how, p.name)) for p in parameters_of(type(how))}
    return dataclasses.replace(how, **kept)


AXIS = (("x", "X"), ("y", "Y"), ("z", "Z"))
#: Of a plane square to an axis.
SIDES = (("positive", "positive"), ("negative", "negative"))


@dataclass(frozen=True)
class NoParameters:
    """Of an operation that asks for nothing."""
