"""Where landmarks lie, as far as the marks and what is known say."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from dimetron.document.model import Document
from dimetron.mesh.arrays import Floats

if TYPE_CHECKING:
    from dimetron.registration.solve import Solution  # slow to load


def landmark_places(doc: Document, solution: Solution | None) -> dict[str, Floats]:
    """(3,) of each that is known along all axes, by its name."""
    found = {}
    for mark in doc.landmarks:
        solved = None if solution is None else solution.points.get(mark.name)
        pairs = zip(mark.fixed, solved or (None, None, None), strict=True)
        known = [s if f is None else f for f, s in pairs]
        if all(value is not None for value in known):
            found[mark.name] = np.array(known, np.float64)
    return found
