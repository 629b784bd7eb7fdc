"""What a page of the ledger is: a table of what is known, with what can be typed and done."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol

from dimetron.app.kit.instrument import Action, Field
from dimetron.app.ledger.table import Row
from dimetron.app.work.fitting import Fitting
from dimetron.app.work.registering import Registration
from dimetron.app.work.session import Session

#: Instead of what is not known.
NONE = "–"
#: Where the greatest miss is less than this, in mm (or as a share of a length), bars stay short.
_LEAST = 0.01


class Place(Protocol):
    """What a page is about."""

    @property
    def session(self) -> Session: ...
    @property
    def registration(self) -> Registration: ...
    @property
    def fitting(self) -> Fitting: ...

    @property
    def row(self) -> str | None:
        """The key of the row gone to; None if none is."""

    def light(self, landmark: str) -> None:
        """Light up a landmark's marks in the panes."""

    def mend(self, operation: str, numbers: dict[str, object]) -> None:
        """Do an operation to what is selected."""


def _nothing(place: Place) -> str:
    return ""


def _none(place: Place) -> Sequence[Action]:
    return ()


def _no_fields(place: Place) -> Sequence[Field]:
    return ()


@dataclass(frozen=True, slots=True)
class LedgerPage:
    """order: in which the pages stand. typed: the columns that can be typed over, ``type_over`` a
    key, a column and a text, which may raise ValueError. go_to: a row by its key; remove: what a
    row is of; words: what is said above the table; marks: it is about marks and known lengths,
    which are typed, read and written below it; actions: what else can be done, as buttons."""

    name: str
    title: str
    order: int
    columns: tuple[str, ...]
    rows: Callable[[Place], list[Row]]
    typed: frozenset[int] = frozenset()
    hint: str = ""
    type_over: Callable[[Place, str, int, str], None] | None = None
    go_to: Callable[[Place, str], None] | None = None
    remove: Callable[[Place, str], None] | None = None
    words: Callable[[Place], str] = _nothing
    marks: bool = False
    #: The row that is lit up, whatever was gone to.
    current: Callable[[Place], int] | None = None
    #: Columns that are not as wide as usual: (number, pixels).
    widths: tuple[tuple[int, int], ...] = ()
    actions: Callable[[Place], Sequence[Action]] = _none
    #: Values that can be typed below the table.
    fields: Callable[[Place], Sequence[Field]] = _no_fields


def share(miss: float | None, most: float) -> float:
    """How long a row's bar is."""
    return 0.0 if miss is None else min(1.0, abs(miss) / max(most, _LEAST))
