"""Known lengths, and how they come out."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from dimetron.app.ledger.marks import said
from dimetron.app.ledger.page import NONE, LedgerPage, Place, share
from dimetron.app.ledger.table import Row
from dimetron.document import registering
from dimetron.document.model import Document
from dimetron.geometry.lengths import parse_length
from dimetron.geometry.units import format_length
from dimetron.geometry.views import AXIS_NAMES
from dimetron.registration.problem import Length, PictureLength

if TYPE_CHECKING:
    from dimetron.registration.solve import Solution

#: Instead of how exactly a length is known: as lengths usually are; or it does not count.
_USUAL, _CHECK = "usual", "only a check"


def _rows(place: Place) -> list[Row]:
    doc = place.session.document
    return length_rows(doc, place.registration.solution(doc))


def every_length(doc: Document) -> tuple[Length | PictureLength, ...]:
    """All known lengths in the order of their rows."""
    return (*doc.lengths, *doc.drawing_lengths)


def length_rows(doc: Document, solution: Solution | None) -> list[Row]:
    offs = [_length_off(solution, length) for length in every_length(doc)]
    shares = [
        abs(off) / length.mm if off is not None else 0.0
        for off, length in zip(offs, every_length(doc), strict=True)
    ]
    most = max(shares, default=0.0)
    return [
        _length_row(doc, number, length, off, share(part, most))
        for number, (length, off, part) in enumerate(
            zip(every_length(doc), offs, shares, strict=True)
        )
    ]


def _length_row(
    doc: Document, number: int, length: Length | PictureLength, off: float | None, bar: float
) -> Row:
    if isinstance(length, Length):
        along = "straight" if length.axis is None else AXIS_NAMES[length.axis]
        ends = length.a, length.b, along
    else:
        ends = "two points", f"in {doc.drawing(length.picture).name}", "straight"
    tolerance = length.tolerance_mm
    exactly = _USUAL if tolerance is None else format_length(tolerance, doc.unit)
    texts = (
        *ends,
        format_length(length.mm, doc.unit),
        _CHECK if not length.counts else exactly,
        NONE if off is None else format_length(length.mm + off, doc.unit),
        NONE if off is None else format_length(off, doc.unit),
    )
    return Row(str(number), texts, bar)


def _length_off(solution: Solution | None, length: Length | PictureLength) -> float | None:
    """By how much a known length comes out longer, in mm."""
    if solution is None:
        return None
    if isinstance(length, PictureLength):
        pose = solution.poses.get(length.picture)
        if pose is None:
            return None
        ends = pose.to_plane(np.array([length.a_px, length.b_px]))
        return float(np.hypot(*(ends[1] - ends[0]))) - length.mm
    found = solution.problem.lengths
    if length in found:
        return float(solution.length_off_mm[found.index(length)])
    p, q = solution.points.get(length.a), solution.points.get(length.b)
    axes = range(3) if length.axis is None else (length.axis,)
    ways = [(p[k], q[k]) for k in axes] if p and q else []
    if not ways or any(a is None or b is None for a, b in ways):
        return None
    apart = [b - a for a, b in ways if a is not None and b is not None]
    return float(np.linalg.norm(apart)) - length.mm


def _type_over(place: Place, key: str, column: int, text: str) -> None:
    doc = place.session.committed
    old = every_length(doc)[int(key)]
    if column == 3:
        new = replace(old, mm=parse_length(text, doc.unit))
    else:
        check = text.lower() in ("check", _CHECK)
        plain = "" if check or text == _USUAL else text
        tolerance = parse_length(plain, doc.unit) if plain else None
        new = replace(old, tolerance_mm=tolerance, counts=not check)
    if new != old:
        place.session.commit(registering.with_other_length(doc, old, new), "Known length")


def _go_to(place: Place, key: str) -> None:
    """The landmark it begins at lights up, or the drawing it lies in is chosen."""
    length = every_length(place.session.document)[int(key)]
    if isinstance(length, Length):
        place.light(length.a)
    else:
        place.session.choose((length.picture,))


def _remove(place: Place, key: str) -> None:
    doc = place.session.committed
    gone = every_length(doc)[int(key)]
    place.session.commit(registering.with_other_length(doc, gone, None), "Forget a length")


PAGE = LedgerPage(
    "lengths",
    "Lengths",
    20,
    ("from", "to", "along", "known", "±", "comes out", "off by"),
    _rows,
    frozenset({3, 4}),
    "Type over it. ±: how exactly it is known; empty: as lengths usually are; check: it "
    "does not count and is only compared",
    _type_over,
    _go_to,
    _remove,
    said,
    marks=True,
)
