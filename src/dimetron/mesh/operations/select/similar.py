"""What is like it."""

from __future__ import annotations

from dataclasses import dataclass

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import choice, number
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.spreading import similar_to

_BY = (("size", "size"), ("corners", "number of corners"), ("way", "direction"))


@dataclass(frozen=True)
class Similar:
    """What is to be alike, and how much."""

    by: str = choice("size", _BY, hint="What is the same about them")
    within: float = number(5.0, low=0.0, high=100.0, hint="How many per cent it may differ")


@operation(
    "similar",
    title="Similar",
    icon="sel-similar",
    order=43,
    takes=(Kind.FACE, Kind.EDGE, Kind.VERTEX),
    bare=True,
)
def similar(mesh: Mesh, chosen: Selection, how: Similar) -> Edited:
    """Select what is like the chosen: as large, as many-cornered, or facing the same way."""
    return Edited(mesh, Selection(chosen.kind, similar_to(mesh, chosen, how.by, how.within / 100)))
