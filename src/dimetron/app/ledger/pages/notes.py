"""Notes that are pinned to places."""

from __future__ import annotations

from dimetron.app.ledger.page import LedgerPage, Place
from dimetron.app.ledger.table import Row
from dimetron.document.checks import with_note_text, without_note
from dimetron.geometry.units import format_length


def _rows(place: Place) -> list[Row]:
    doc = place.session.document
    rows = []
    for note in doc.notes:
        view = doc.view_by_key(note.view) if note.view else None
        where = " · ".join(format_length(v, doc.unit, suffix=False) for v in note.at)
        rows.append(Row(note.id, (note.text, "all" if view is None else view.title, where)))
    return rows


def _words(place: Place) -> str:
    count = len(place.session.document.notes)
    return "" if count else "Pin a note to a place with Pin a note, in the station Check."


def _type_over(place: Place, id_: str, column: int, text: str) -> None:
    place.session.commit(
        with_note_text(place.session.committed, id_, text), "Other words in a note"
    )


def _remove(place: Place, id_: str) -> None:
    place.session.commit(without_note(place.session.committed, id_), "Remove a note")


PAGE = LedgerPage(
    "notes",
    "Notes",
    70,
    ("note", "seen in", "where"),
    _rows,
    frozenset({0}),
    "Type other words over it",
    _type_over,
    remove=_remove,
    words=_words,
    widths=((0, 520),),
)
