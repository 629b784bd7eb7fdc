"""The steps done so far."""

from __future__ import annotations

from typing import TYPE_CHECKING

from dimetron.app.ledger.page import LedgerPage, Place
from dimetron.app.ledger.table import Row

if TYPE_CHECKING:
    from dimetron.document.history import History


def _rows(place: Place) -> list[Row]:
    return step_rows(place.session.history)


def step_rows(history: History) -> list[Row]:
    """The steps done so far, the last one first; those that were undone stand above the current
    one."""
    found = []
    for number, step in enumerate(history.steps):
        words = step.label or "as it was opened"
        if number > history.at:
            words += "  (undone)"
        found.append(Row(str(number), (str(number), words)))
    return found[::-1]


def _go_to(place: Place, key: str) -> None:
    place.session.go_to(int(key))


def _current(place: Place) -> int:
    history = place.session.history
    return len(history.steps) - 1 - history.at


PAGE = LedgerPage(
    "steps",
    "Steps",
    90,
    ("step", "what was done"),
    _rows,
    hint="Click a step to go back or forth to it",
    go_to=_go_to,
    current=_current,
)
