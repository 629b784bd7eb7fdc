"""Outlines with their names, as files hold them: curves in a plane, grouped in layers."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.outlines.path import Floats, Path, bounds


@dataclass(frozen=True, slots=True)
class DrawnPath:
    """A path in the file's plane, and what it and its layer are called."""

    name: str
    path: Path
    layer: str = ""


def layers(paths: Sequence[DrawnPath]) -> dict[str, list[DrawnPath]]:
    """The paths by layer, in the order in which layers first come."""
    found: dict[str, list[DrawnPath]] = {}
    for drawn in paths:
        found.setdefault(drawn.layer, []).append(drawn)
    return found


def reach(paths: Sequence[DrawnPath]) -> Floats:
    """(2, 2) lowest and highest place of all paths."""
    boxes = np.array([bounds(drawn.path) for drawn in paths])
    return np.stack([boxes[:, 0].min(axis=0), boxes[:, 1].max(axis=0)])
