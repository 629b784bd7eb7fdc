"""Slab: outlines run out along their view."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dimetron.document.making import Maker
from dimetron.document.outline import Outline, closed_polygons
from dimetron.document.picked import on_plane
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import Place, angle, choice, length, places
from dimetron.mesh.solids.slab import slab

_WAYS = (("both", "both ways"), ("away", "away"), ("toward", "toward"))


@dataclass(frozen=True)
class Slab:
    """How thick, and how its sides and edges are."""

    thickness: float = length(20.0, low=0.0, hint="From one face to the other")
    way: str = choice("both", _WAYS, hint="Which way from the outlines: along the view, or back")
    taper: float = angle(0.0, low=-80.0, high=80.0, hint="By how much the sides lean inward")
    rounding: float = length(0.0, low=0.0, hint="Radius of the edges at both faces")
    others: tuple[Place, ...] = places(
        title="edges here",
        low=0.0,
        hint="Radius of the edges from corner to corner where it is picked",
    )


def make(outlines: Sequence[Outline], how: Slab) -> Mesh:
    """Raises MeshError."""
    if any(o.view != outlines[0].view for o in outlines):
        raise MeshError("A slab is made of outlines of one view.")
    loops = [loop for outline in outlines for loop in closed_polygons(outline)]
    at = outlines[0].depth
    near, far = {
        "both": (at - how.thickness / 2, at + how.thickness / 2),
        "away": (at, at + how.thickness),
        "toward": (at - how.thickness, at),
    }[how.way]
    others = on_plane(outlines, how.others)
    return slab(loops, outlines[0].view, near, far, how.taper, how.rounding, others)


MAKER = Maker("slab", "Slab", "Outlines run out along their view.", "box", 10, (1, 0), Slab, make)
