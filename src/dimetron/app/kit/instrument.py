"""What the route shows of a tool, be it for the board or for a sheet: values to type, choices to
make, things to do at once."""

from __future__ import annotations

import functools
import logging
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar


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
    ``listed`` one, unfold as a list. plain: its choices say what it is."""

    name: str
    choices: tuple[tuple[str, str], ...]
    value: str
    choose: Callable[[str], None]
    listed: bool = False
    plain: bool = False


@dataclass(frozen=True, slots=True, eq=False)
class Switch:
    """Something that is on or off."""

    name: str
    on: bool
    turn: Callable[[bool], None]
    hint: str = ""


@dataclass(frozen=True, slots=True, eq=False)
class Text:
    """Words that are typed; ``enter`` is told with every key."""

    name: str
    value: str
    enter: Callable[[str], None]
    hint: str = ""


@dataclass(frozen=True, slots=True, eq=False)
class Action:
    """Something to do at once, as a button."""

    name: str
    title: str
    run: Callable[[], None]
    hint: str
    enabled: bool = True
    main: bool = False
    #: Stands above what can be chosen and typed: it is wanted again and again.
    above: bool = False


_LOG = logging.getLogger(__name__)
#: What is asked of a tool while it is in hand, and the answer of one whose object is gone.
_SHOWN: dict[str, Any] = {
    **{"words": "", "told": "", "overlays": (), "marks": (), "cursor": "", "about": None},
    **{"frame": None, "glass": None, "veil": None},
    **{"fields": (), "options": (), "switches": (), "actions": (), "texts": ()},
}
_DONE: dict[str, Any] = {
    **{"press": False, "move": None, "release": None, "key": False, "wheel": False},
}
_Method = Callable[..., Any]


def _ending_quietly(name: str, method: _Method) -> _Method:
    """The document may be another one at any moment (undo, a worker that is done, a project that is
    opened), so a tool may look for something that is gone. Then what is under way ends."""
    otherwise = {**_SHOWN, **_DONE}[name]

    @functools.wraps(method)
    def guarded(self: Instrument, *given: Any, **named: Any) -> Any:
        try:
            return method(self, *given, **named)
        except (LookupError, StopIteration):
            _LOG.debug("%s.%s: what it was at is gone", self.name, name, exc_info=True)
            self.abandon()
        except ValueError as error:
            _LOG.debug("%s.%s: refused", self.name, name, exc_info=True)
            # A drag stays where it had a meaning last; the others are told why nothing comes of it.
            if name in _DONE and name != "move":
                self.abandon()
                self.refuse(str(error))
        return otherwise

    return guarded


class Instrument:
    """A tool as the route knows it. None of the methods by which it is used raises because the
    object it works on is gone."""

    name: ClassVar[str]
    title: ClassVar[str]
    icon: ClassVar[str]
    hint: ClassVar[str]
    #: A click with it selects, or works on what is selected by a click.
    selects: ClassVar[bool] = True
    #: The key that takes it in hand, and where it stands among many.
    shortcut: ClassVar[str] = ""
    family: ClassVar[str] = ""

    def __init_subclass__(cls, **given: Any) -> None:
        super().__init_subclass__(**given)
        for name in (*_SHOWN, *_DONE):
            method = cls.__dict__.get(name)
            if method is not None:
                setattr(cls, name, _ending_quietly(name, method))

    def refuse(self, words: str) -> None:
        """Say why nothing came of what was done."""

    def words(self) -> str:
        """What the mouse does now, for the title block."""
        return self.hint

    def abandon(self) -> bool:
        """Escape, or another tool was taken: drop what is under way. True if there was anything."""
        return False

    @property
    def alone(self) -> bool:
        """Whether its own numbers leave no room for those of what was done last."""
        return False

    def about(self) -> object:
        """What its typed values are for; half typed, they do not go over to something else."""
        return None

    def fields(self) -> Sequence[Field]:
        return ()

    def texts(self) -> Sequence[Text]:
        return ()

    def options(self) -> Sequence[Option]:
        return ()

    def switches(self) -> Sequence[Switch]:
        return ()

    def actions(self) -> Sequence[Action]:
        return ()

    def told(self) -> str:
        """A result or a hint under the fields."""
        return ""
