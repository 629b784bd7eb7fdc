"""How far an outline misses the drawing it lies on, in millimetres."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from dimetron.app.kit.instrument import Field
from dimetron.app.tools.bench import Bench
from dimetron.document.model import Document, Drawing
from dimetron.document.outline import Outline, to_px
from dimetron.geometry.views import AnyView
from dimetron.outlines.onink import off_ink
from dimetron.outlines.path import Path

#: By how much an outline may miss the ink unless it is typed, in mm.
USUAL_MISS = 0.3


class Miss(NamedTuple):
    """Mean and largest, in mm."""

    mean: float
    most: float


def drawing_of(doc: Document, item: Outline) -> Drawing | None:
    """The drawing an outline is held against: the one it was drawn on, else the first shown one
    of its view."""
    if item.drawing is not None:
        found = doc.item(item.drawing)
        if isinstance(found, Drawing) and found.view == item.view:
            return found
    return shown_in(doc, item.view)


def shown_in(doc: Document, view: AnyView) -> Drawing | None:
    """The first shown drawing of a view."""
    return next((d for d in doc.planes if d.view == view and doc.visible(d)), None)


def miss_field(now: float, take: Callable[[float], None]) -> Field:
    """By how much outlines may miss the ink, to be typed."""

    def enter(mm: float) -> None:
        if not 0.001 <= mm <= 1000:
            raise ValueError("Type a miss of more than nothing, such as 0.3 mm.")
        take(mm)

    hint = "How far an outline may lie off the ink; the farther, the fewer points it takes"
    return Field("Miss at most", now, enter, hint=hint)


def miss_of(bench: Bench, drawing: Drawing, path: Path) -> Miss | None:
    """How far a path of a drawing's view misses its ink; None if no ink is near, or its picture is
    not there yet."""
    pyramid = bench.pyramid(drawing)
    if pyramid is None or path.piece_count < 1:
        return None
    found = off_ink(pyramid, to_px(drawing, path))
    scale = drawing.placement.mm_per_px
    return Miss(found.mean * scale, found.most * scale) if found.told else None
