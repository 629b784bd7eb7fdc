"""Drawings: how much their marks count, and how far they miss."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from dimetron.app.ledger.marks import said
from dimetron.app.ledger.page import NONE, LedgerPage, Place, share
from dimetron.app.ledger.table import Row
from dimetron.document import registering
from dimetron.document.model import Document, with_item
from dimetron.geometry.lengths import parse_number
from dimetron.geometry.units import format_length
from dimetron.registration.problem import RegistrationError

if TYPE_CHECKING:
    from dimetron.registration.solve import Solution


def _rows(place: Place) -> list[Row]:
    doc = place.session.document
    return drawing_rows(doc, place.registration.solution(doc))


def drawing_rows(doc: Document, solution: Solution | None) -> list[Row]:
    missed: dict[str, list[float]] = {}
    if solution is not None:
        for mark, off in zip(solution.problem.sightings, solution.off_mm, strict=True):
            missed.setdefault(mark.picture, []).append(float(off))
    rms = {id_: float(np.sqrt(np.mean(np.square(v)))) for id_, v in missed.items()}
    most = max(rms.values(), default=0.0)
    rows = []
    for drawing in doc.planes:
        pose = solution.poses.get(drawing.id) if solution is not None else None
        count = sum(m.picture == drawing.id for m in doc.sightings)
        miss = rms.get(drawing.id)
        texts = (
            drawing.name,
            f"{registering.trust_of(doc, drawing.id):g}",
            "yes" if drawing.id in doc.pinned else "no",
            "no" if drawing.aspect_locked else "yes",
            NONE if pose is None else f"{pose.rotation_deg:.2f}°",
            str(count),
            NONE if miss is None else format_length(miss, doc.unit),
        )
        rows.append(Row(drawing.id, texts, share(miss, most)))
    return rows


def _type_over(place: Place, id_: str, column: int, text: str) -> None:
    doc = place.session.committed
    name = doc.drawing(id_).name
    if column == 1:
        after, words = registering.with_trust(doc, id_, parse_number(text)), f"Trust {name}"
    else:
        yes = text.lower() in ("yes", "y", "1", "true")
        if not yes and text.lower() not in ("no", "n", "0", "false"):
            raise RegistrationError("Type yes or no.")
        if column == 2:
            after = registering.with_pinned(doc, id_, yes)
            words = f"Pin {name}" if yes else f"Let go of {name}"
        else:
            after = with_item(doc, id_, aspect_locked=not yes)
            words = f"Scale {name} apart" if yes else f"Scale {name} alike"
    if after != doc:
        place.session.commit(after, words)


def _go_to(place: Place, id_: str) -> None:
    place.session.choose((id_,))


PAGE = LedgerPage(
    "drawings",
    "Drawings",
    30,
    ("drawing", "trust", "stays", "scaled apart", "turned", "marks", "mismatch"),
    _rows,
    frozenset({1, 2, 3}),
    "Trust: how much its marks count. Stays, scaled apart: yes or no",
    _type_over,
    _go_to,
    words=said,
    marks=True,
)
