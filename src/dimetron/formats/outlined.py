"""A project's outlines as a file holds them: on a layer for each view, in the file's unit."""

from __future__ import annotations

import numpy as np

from dimetron.document.model import Document
from dimetron.document.outline import outlines_of, whole_paths
from dimetron.formats.drawn import DrawnPath
from dimetron.outlines.path import mapped


def drawn_paths(doc: Document, mm: float) -> tuple[DrawnPath, ...]:
    """Whole outlines, as seen in their views: right and up in units of ``mm`` millimetres."""
    scale = np.eye(2) / mm
    return tuple(
        DrawnPath(item.name, mapped(path, scale), item.view.title)
        for item in outlines_of(doc)
        if doc.visible(item)
        for path in whole_paths(item)
    )
