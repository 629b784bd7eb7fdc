"""Landmarks: where they lie, and how far their marks miss."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from dimetron.app.ledger.marks import said, worst_marks
from dimetron.app.ledger.page import NONE, LedgerPage, Place, share
from dimetron.app.ledger.table import Row
from dimetron.document import registering
from dimetron.document.checks import ties_of
from dimetron.document.landmarked import landmark_places
from dimetron.document.model import Document
from dimetron.geometry.lengths import parse_length
from dimetron.geometry.units import format_length
from dimetron.geometry.views import AXIS_NAMES
from dimetron.registration.problem import Landmark

if TYPE_CHECKING:
    from dimetron.registration.solve import Solution


def _rows(place: Place) -> list[Row]:
    doc = place.session.document
    return landmark_rows(doc, place.registration.solution(doc))


def landmark_rows(doc: Document, solution: Solution | None) -> list[Row]:
    worst = worst_marks(solution)
    most = max(worst.values(), default=0.0)
    places = landmark_places(doc, solution)
    off = {
        name: float(np.linalg.norm(places[name] - at))
        for _, name, at in ties_of(doc)
        if name in places
    }
    return [
        _landmark_row(doc, m, solution, (worst.get(m.name), off.get(m.name)), most)
        for m in doc.landmarks
    ]


def _landmark_row(
    doc: Document,
    landmark: Landmark,
    solution: Solution | None,
    offs: tuple[float | None, float | None],
    most: float,
) -> Row:
    """offs: by how much its marks miss at worst, and the vertex that is tied to it."""
    at = solution.points.get(landmark.name) if solution else None
    by = solution.sigmas.get(landmark.name) if solution else None
    texts = [landmark.name]
    for axis in range(3):
        fixed = landmark.fixed[axis]
        value = fixed if at is None else at[axis]
        held = "" if fixed is None else " *"
        texts.append(NONE if value is None else format_length(value, doc.unit) + held)
    known = [v for v in by or () if v is not None]
    texts.append(format_length(float(np.linalg.norm(known)), doc.unit) if known else NONE)
    ids = [m.picture for m in doc.sightings if m.landmark == landmark.name]
    there = [d.view.title.lower() for d in doc.planes if d.id in ids]
    texts.append(", ".join(there) or "nowhere yet")
    miss, tied = offs
    texts += [NONE if mm is None else format_length(mm, doc.unit) for mm in (tied, miss)]
    return Row(landmark.name, tuple(texts), share(miss, most))


def _type_over(place: Place, name: str, column: int, text: str) -> None:
    session = place.session
    doc = session.committed
    if column == 0:
        if text != name:
            after = registering.renamed_landmark(doc, name, text)
            session.commit(after, f"Rename {name}")
            place.light(text)
        return
    axis = column - 1
    plain = text.rstrip("* ").strip()
    value = None if plain in ("", NONE) else parse_length(plain, doc.unit)
    after = registering.with_fixed(doc, name, axis, value)
    if after != doc:
        session.commit(after, f"Say {AXIS_NAMES[axis]} of {name}")


def _go_to(place: Place, name: str) -> None:
    place.light(name)


def _remove(place: Place, name: str) -> None:
    doc = registering.without_landmark(place.session.committed, name)
    place.session.commit(doc, f"Remove {name}")


PAGE = LedgerPage(
    "landmarks",
    "Landmarks",
    10,
    ("landmark", "X", "Y", "Z", "±", "marked in", "on the mesh", "mismatch"),
    _rows,
    frozenset({0, 1, 2, 3}),
    "Type over it; a coordinate that is emptied is left open",
    _type_over,
    _go_to,
    _remove,
    said,
    marks=True,
)
