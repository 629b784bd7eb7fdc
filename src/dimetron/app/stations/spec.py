"""What a station is: its tools, and in words how it stands and what is still to do."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

from dimetron.app.kit.instrument import Instrument
from dimetron.app.work.fitting import Fitting
from dimetron.app.work.registering import Registration
from dimetron.app.work.session import Session
from dimetron.mesh.operation import Operation


class Exported(Protocol):
    """Whoever hands off."""

    @property
    def exported(self) -> str: ...


class Place(Protocol):
    """What a station's words are about."""

    @property
    def session(self) -> Session: ...
    @property
    def registration(self) -> Registration: ...
    @property
    def fitting(self) -> Fitting: ...
    @property
    def hand_off(self) -> Exported: ...


def _nothing(place: Place) -> str:
    return ""


@dataclass(frozen=True, slots=True)
class StationSpec:
    """order: in which the stations stand. plain: the tool that is taken up on the way in; actions:
    commands shown below the tools; at_sheet: its tools work at the sheet, not at the board;
    operations: what it does at once, beside its tools; tools and operations fold by family where
    there are operations. compact: its tools are too many for a row each."""

    name: str
    title: str
    order: int
    state: Callable[[Place], str]
    to_do: Callable[[Place], str] = _nothing
    tools: tuple[type[Instrument], ...] = ()
    plain: str = ""
    actions: tuple[str, ...] = ()
    at_sheet: bool = False
    operations: tuple[Operation, ...] = ()
    shows_hand_off: bool = False
    compact: bool = False
