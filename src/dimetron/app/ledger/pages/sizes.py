"""Sizes that meshes are to have, and whether they hold."""

from __future__ import annotations

from dimetron.app.ledger.page import NONE, LedgerPage, Place, share
from dimetron.app.ledger.table import Row
from dimetron.document.checks import Sized, said_of, sized, with_size, without_size
from dimetron.document.model import SizeCheck
from dimetron.geometry.lengths import parse_length
from dimetron.geometry.units import format_length


def _found(place: Place) -> list[tuple[SizeCheck, Sized]]:
    doc = place.session.document
    known = place.registration.places(doc)
    return [(check, sized(doc, check, known)) for check in doc.sizes]


def _rows(place: Place) -> list[Row]:
    doc = place.session.document
    found = _found(place)
    most = max((abs(now.off(check) or 0.0) for check, now in found), default=0.0)
    rows = []
    for check, now in found:
        off = now.off(check)
        texts = (
            check.name,
            said_of(doc, check),
            format_length(check.mm, doc.unit),
            format_length(check.tolerance_mm, doc.unit),
            NONE if now.mm is None else format_length(now.mm, doc.unit),
            "gone" if off is None else ("holds" if now.holds(check) else "does not hold"),
            NONE if off is None else format_length(off, doc.unit),
        )
        rows.append(Row(check.id, texts, 0.0 if now.holds(check) else share(off, most)))
    return rows


def _words(place: Place) -> str:
    found = _found(place)
    if not found:
        return "Check a size with Size check, in the station Check; it is listed here."
    hold = sum(now.holds(check) for check, now in found)
    return f"Size checks: {hold} of {len(found)} hold"


def _type_over(place: Place, id_: str, column: int, text: str) -> None:
    doc = place.session.committed
    name = next(check.name for check in doc.sizes if check.id == id_)
    if column == 0:
        after = with_size(doc, id_, name=text)
    else:
        mm = parse_length(text, doc.unit)
        after = with_size(doc, id_, **{"mm" if column == 2 else "tolerance_mm": mm})
    if after != doc:
        place.session.commit(after, f"Check {name}")


def _remove(place: Place, id_: str) -> None:
    place.session.commit(without_size(place.session.committed, id_), "No size check")


PAGE = LedgerPage(
    "sizes",
    "Sizes",
    50,
    ("check", "of", "wanted", "±", "is", "holds", "off by"),
    _rows,
    frozenset({0, 2, 3}),
    "Type over it: what it is called, how large it is to be, how far off it may be",
    _type_over,
    remove=_remove,
    words=_words,
    widths=((1, 230),),
)
