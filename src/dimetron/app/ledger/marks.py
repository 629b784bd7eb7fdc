"""How well the marks agree, in words, and what the pages about them share."""

from __future__ import annotations

from typing import TYPE_CHECKING

from dimetron.app.ledger.page import Place
from dimetron.geometry.units import format_length

if TYPE_CHECKING:
    from dimetron.registration.solve import Solution


def said(place: Place) -> str:
    """How well the marks agree, what does not, and what cannot be known: a line each."""
    doc, registration = place.session.document, place.registration
    if not doc.sightings:
        return "Mark the same point in two drawings; it is listed here."
    solution, fault = registration.solution(doc), registration.fault(doc)
    if solution is None or fault:
        return fault
    told = [f"Mismatch {format_length(solution.rms_mm, doc.unit)}"]
    told += [*registration.suspected_words(doc), *registration.problems(doc), *solution.said]
    return "\n".join(told)


def worst_marks(solution: Solution | None) -> dict[str, float]:
    """The largest mismatch of each landmark's marks, in mm."""
    found: dict[str, float] = {}
    if solution is not None:
        for mark, off in zip(solution.problem.sightings, solution.off_mm, strict=True):
            found[mark.landmark] = max(found.get(mark.landmark, 0.0), float(off))
    return found
