"""Places picked on what something is made of: kept as shares of the box round the outlines, so that
they go with them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.document.outline import Outline, closed_polygons
from dimetron.mesh.arrays import Floats
from dimetron.mesh.parameters import Place


def on_plane(outlines: Sequence[Outline], places: Sequence[Place]) -> list[Place]:
    """Places as shares to places in the outlines' plane, mm. Raises OutlineError where an outline
    is open."""
    low, size = _box(outlines)
    return [
        (float(low[0] + u * size[0]), float(low[1] + v * size[1]), value) for u, v, value in places
    ]


def share_of(outlines: Sequence[Outline], at: Floats) -> tuple[float, float]:
    """A place (2,) in the outlines' plane as shares of their box."""
    low, size = _box(outlines)
    u, v = (at - low) / size
    return float(u), float(v)


def _box(outlines: Sequence[Outline]) -> tuple[Floats, Floats]:
    points = np.concatenate([loop for outline in outlines for loop in closed_polygons(outline)])
    low, high = points.min(axis=0), points.max(axis=0)
    return low, np.maximum(high - low, 1e-9)
