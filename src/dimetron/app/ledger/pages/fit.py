"""How far the meshes miss each drawing."""

from __future__ import annotations

from dimetron.app.ledger.page import NONE, LedgerPage, Place, share
from dimetron.app.ledger.table import Row
from dimetron.app.tools.miss import summary
from dimetron.document.fitting import Fit, compared, counts
from dimetron.geometry.units import Unit, format_area, format_length

#: Behind the key of a drawing's row, that of its inner lines.
_INNER = ":inner"


def _rows(place: Place) -> list[Row]:
    fits = place.fitting.fits()
    most = max((one.miss.largest for one in fits if one.miss is not None), default=0.0)
    unit = place.session.document.unit
    return [row for one in fits for row in (_row(one, unit, most), *_inner_rows(one, unit, most))]


def _inner_rows(one: Fit, unit: Unit, most: float) -> list[Row]:
    """A row of its own for the lines within the outline, where they are compared."""
    inner, drawing = one.inner, one.drawing
    if inner is None:
        return []
    figures = [format_length(v, unit) for v in (inner.mean, inner.p95, inner.largest)]
    at = " · ".join(format_length(float(v), unit, suffix=False) for v in inner.at)
    texts = (drawing.view.title, drawing.name, *figures, at, *[NONE] * 3, "inner lines")
    return [Row(f"{drawing.id}{_INNER}", texts, share(inner.largest, most))]


def _row(one: Fit, unit: Unit, most: float) -> Row:
    drawing, miss = one.drawing, one.miss
    names = drawing.view.title, drawing.name
    if miss is None or one.at is None:
        return Row(drawing.id, (*names, *[NONE] * 3, one.problem, *[NONE] * 3, NONE))
    areas = miss.areas
    where = " · ".join(format_length(float(v), unit, suffix=False) for v in one.at)
    texts = (
        *names,
        *(format_length(v, unit) for v in (miss.mean, miss.p95, miss.largest)),
        where,
        *(format_area(v, unit) for v in (areas.over, areas.short)),
        f"{areas.common:.1%}",
        "over" if miss.worst[2] > 0 else "short",
    )
    return Row(drawing.id, texts, share(miss.largest, most))


def _words(place: Place) -> str:
    doc = place.session.document
    if not compared(doc):
        return "No placed drawing is shown; place one first."
    if not any(counts(doc, item) for item in doc.meshes):
        return "No mesh with faces is shown; model or show one first."
    return summary(place.fitting.fits(), doc.unit) or "The drawings are being read…"


def _go_to(place: Place, id_: str) -> None:
    """The drawing is chosen; on the board the worst place of its view has a mark."""
    place.session.choose((id_.removesuffix(_INNER),))
    place.fitting.show(True)


PAGE = LedgerPage(
    "fit",
    "Fit",
    40,
    ("view", "drawing", "mean", "95 %", "largest", "where", "over", "short", "common", "miss"),
    _rows,
    go_to=_go_to,
    words=_words,
    widths=((5, 168),),
)
