"""Sheet: outlines filled, as one face or with even quads."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dimetron.document.making import Maker
from dimetron.document.outline import Outline, closed_polygons
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import choice, length
from dimetron.mesh.solids.manifolds import grown
from dimetron.mesh.solids.sheet import even_sheet, one_face


@dataclass(frozen=True)
class Sheet:
    """Of how many faces, and how far it reaches."""

    faces: str = choice("quads", (("quads", "even quads"), ("one", "one face")), hint="Its faces")
    size: float = length(8.0, low=0.0, title="quads", hint="How large even quads are")
    beyond: float = length(0.0, low=0.0, hint="By how much its edges run out beyond the outlines")


def make(outlines: Sequence[Outline], how: Sheet) -> Mesh:
    """Raises MeshError."""
    first = outlines[0]
    if any(o.view != first.view for o in outlines):
        raise MeshError("A sheet is made of outlines of one view.")
    loops = [loop for outline in outlines for loop in closed_polygons(outline)]
    if how.beyond:
        loops = grown(loops, how.beyond)
    if how.faces == "quads":
        return even_sheet(loops, first.view, first.depth, how.size)
    if len(loops) > 1:
        raise MeshError("One face has one outline and no holes; fill these with quads.")
    return one_face(loops[0], first.view, first.depth)


MAKER = Maker("sheet", "Sheet", "Outlines filled, flat.", "square", 60, (1, 0), Sheet, make)
