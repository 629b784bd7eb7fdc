"""What lies next to it."""

from __future__ import annotations

from dataclasses import dataclass

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import count
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.spreading import grown


@dataclass(frozen=True)
class Grow:
    """How far."""

    steps: int = count(1, high=10_000, hint="How many times over")


@operation(
    "grow",
    title="Grow",
    icon="sel-grow",
    order=30,
    takes=(Kind.FACE, Kind.EDGE, Kind.VERTEX),
    bare=True,
)
def grow(mesh: Mesh, chosen: Selection, how: Grow) -> Edited:
    """Select what touches the selection, too."""
    found = chosen
    for _ in range(how.steps):
        more = grown(mesh, found)
        if len(more) == len(found.indices):
            break
        found = Selection(chosen.kind, more)
    return Edited(mesh, found)
