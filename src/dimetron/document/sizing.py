"""Making the whole project larger or smaller. Pure functions ``document -> document``."""

from __future__ import annotations

import math
from dataclasses import replace

from dimetron.document.kind import kinds
from dimetron.document.model import Document
from dimetron.document.serial import ProjectError, check
from dimetron.geometry.placement import PlacementError
from dimetron.geometry.views import Auxiliary, Triple


def scaled_project(doc: Document, factor: float) -> Document:
    """Everything that many times as large, about the origin: items of all kinds, auxiliary views,
    known coordinates of landmarks, and what saved looks look at.

    Known lengths stay: they are the truth. Raises PlacementError for a factor without meaning.
    """
    if not (math.isfinite(factor) and 1e-6 < factor < 1e6):
        raise PlacementError("The size must be more than zero.")
    views = {a.id: _scaled_view(a, factor) for a in doc.auxiliaries}
    after = replace(
        doc,
        auxiliaries=tuple(views.values()),
        landmarks=tuple(
            replace(m, fixed=(_maybe(x, factor), _maybe(y, factor), _maybe(z, factor)))
            for m in doc.landmarks
            for x, y, z in (m.fixed,)
        ),
        notes=tuple(replace(note, at=_times(note.at, factor)) for note in doc.notes),
        looks=tuple(
            replace(
                k,
                focus=_times(k.focus, factor),
                mm_per_px=k.mm_per_px * factor,
                target=_times(k.target, factor),
                orbit_mm_per_px=k.orbit_mm_per_px * factor,
            )
            for k in doc.looks
        ),
    )
    for kind in kinds():
        after = kind.put(after, [kind.scaled(item, factor, views) for item in kind.of(doc)])
    try:
        check(after)
    except ProjectError as error:
        raise PlacementError(
            "It would become larger or smaller than a project can hold."
        ) from error
    return after


def _scaled_view(view: Auxiliary, factor: float) -> Auxiliary:
    hinge = view.hinge
    return replace(
        view,
        through=_times(view.through, factor),
        hinge=None if hinge is None else replace(hinge, point=_times(hinge.point, factor)),
    )


def _maybe(value: float | None, factor: float) -> float | None:
    return None if value is None else value * factor


def _times(point: Triple, factor: float) -> Triple:
    return point[0] * factor, point[1] * factor, point[2] * factor
