"""What the route shows of a tool, be it for the board or for a sheet: values to type, choices to
make, things to do at once."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import ClassVar


@dataclass(frozen=True, slots=True, eq=False)
class Field:
    """A value that can be typed. ``enter`` may raise ValueError, saying what is wrong.

    kind: "length", "number", "angle" or "percent". slide: the ends of a slider beside it, and
    ``sliding`` is told while it is dragged, ``enter`` when it is let go.
    """

    name: str
    value: float | None
    enter: Callable[[float], None]
    kind: str = "length"
    hint: str = ""
    #: Waits to be typed: it gets the keyboard when this becomes true.
    first: bool = False
    slide: tuple[float, float] | None = None
    sliding: Callable[[float], None] | None = None
    #: Takes text that names numbers of drawings; may raise ValueError. follows: the formula that
    #: the value comes from, if any.
    formula: Callable[[str], None] | None = None
    follows: str = ""
    #: Short enough to stand in one row with the field before it.
    beside: bool = False


@dataclass(frozen=True, slots=True, eq=False)
class Option:
    """A choice of a tool, remembered while the window is open. More than four choices, or a
    ``listed`` one, unfold as a list."""

    name: str
    choices: tuple[tuple[str, str], ...]
    value: str
    choose: Callable[[str], None]
    listed: bool = False


@dataclass(frozen=True, slots=True, eq=False)
class Switch:
    """Something that is on or off."""

    name: str
    on: bool
    turn: Callable[[bool], None]
    hint: str = ""


@dataclass(frozen=True, slots=True, eq=False)
class Act:
    """Something to do at once, as a button."""

    name: str
    title: str
    run: Callable[[], None]
    hint: str
    enabled: bool = True
    main: bool = False
    #: Stands above what can be chosen and typed: it is wanted again and again.
    above: bool = False


class Instrument:
    """A tool as the route knows it."""

    name: ClassVar[str]
    title: ClassVar[str]
    icon: ClassVar[str]
    hint: ClassVar[str]

    def words(self) -> str:
        """What the mouse does now, for the title block."""
        return self.hint

    def abandon(self) -> bool:
        """Escape, or another tool was taken: drop what is under way. True if there was anything."""
        return False

    def fields(self) -> Sequence[Field]:
        return ()

    def options(self) -> Sequence[Option]:
        return ()

    def switches(self) -> Sequence[Switch]:
        return ()

    def acts(self) -> Sequence[Act]:
        return ()

    def told(self) -> str:
        """A result or a hint under the fields."""
        return ""
