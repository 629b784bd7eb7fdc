"""Skinned: a skin over outlines at several depths."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.document.making import Maker
from dimetron.document.outline import Outline, closed_polygons
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import count
from dimetron.mesh.solids.swept import evenly, skinned


@dataclass(frozen=True)
class Skinned:
    """In how many quads."""

    rows: int = count(4, low=1, high=500, hint="Quads from one outline to the next")
    sides: int = count(48, low=3, high=720, hint="Quads around")


def make(outlines: Sequence[Outline], how: Skinned) -> Mesh:
    """Outlines of one view in the order of their depths, others as they were chosen. Raises
    MeshError."""
    ordered = list(outlines)
    if all(o.view == ordered[0].view for o in ordered):
        ordered.sort(key=lambda o: o.depth)
    sections = [
        np.asarray(o.view.to_world(evenly(closed_polygons(o)[0], how.sides, True), o.depth))
        for o in ordered
    ]
    return skinned(sections, how.rows)


MAKER = Maker(
    "skinned", "Skinned", "A skin over outlines at several depths.", "stack-2", 40, (2, 0),
    Skinned, make,
)  # fmt: skip
