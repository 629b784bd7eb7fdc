"""How far an outline misses the drawing it lies on, in millimetres."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from dimetron.app.tools.bench import Bench
from dimetron.document.model import Document, Drawing
from dimetron.document.outline import Outline
from dimetron.outlines.onink import off_ink
from dimetron.outlines.path import Path, mapped


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
    return next((d for d in doc.planes if d.view == item.view and doc.visible(d)), None)


def to_px(drawing: Drawing, path: Path) -> Path:
    """A path of a drawing's view in the drawing's pixels."""
    matrix = np.linalg.inv(drawing.placement.matrix)
    anchor = drawing.placement.to_px(np.zeros(2))
    return mapped(path, matrix, anchor)


def to_mm(drawing: Drawing, path: Path) -> Path:
    """A path in a drawing's pixels in its view's plane."""
    return mapped(path, drawing.placement.matrix, drawing.placement.to_plane(np.zeros(2)))


def miss_of(bench: Bench, drawing: Drawing, path: Path) -> Miss | None:
    """How far a path of a drawing's view misses its ink; None if no ink is near, or its picture is
    not there yet."""
    pyramid = bench.pyramid(drawing)
    if pyramid is None or path.piece_count < 1:
        return None
    found = off_ink(pyramid, to_px(drawing, path))
    scale = drawing.placement.mm_per_px
    return Miss(found.mean * scale, found.most * scale) if found.told else None
