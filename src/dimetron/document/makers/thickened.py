"""Thickened: outlines filled with quads, of a thickness that may change."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dimetron.document.making import Maker
from dimetron.document.outline import Outline, closed_polygons
from dimetron.document.picked import on_plane
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import Place, choice, length, places
from dimetron.mesh.solids.thickened import thickened


@dataclass(frozen=True)
class Thickened:
    """How thick at both ends, and at places in between."""

    low: float = length(6.0, low=0.0, title="thick, low", hint="Where it is lowest, or leftmost")
    high: float = length(
        6.0, low=0.0, title="thick, high", hint="Where it is highest, or rightmost"
    )
    along: str = choice("up", (("up", "up"), ("across", "across")), hint="Which way it changes")
    size: float = length(8.0, low=0.0, title="quads", hint="How large its quads are")
    others: tuple[Place, ...] = places(
        title="thick here", low=0.0, hint="How thick it is at a place that is picked"
    )


def make(outlines: Sequence[Outline], how: Thickened) -> Mesh:
    """Raises MeshError."""
    first = outlines[0]
    if any(o.view != first.view for o in outlines):
        raise MeshError("What is thickened is made of outlines of one view.")
    loops = [loop for outline in outlines for loop in closed_polygons(outline)]
    side = 1 if how.along == "up" else 0
    picked = on_plane(outlines, how.others)
    return thickened(loops, first.view, first.depth, how.size, (how.low, how.high), side, picked)


MAKER = Maker(
    "thickened", "Thickened", "Outlines filled, of a thickness that may change.", "stack-push", 70,
    (1, 0), Thickened, make,
)  # fmt: skip
