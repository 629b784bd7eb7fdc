"""Without its rim."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import count
from dimetron.mesh.select import Kind, Selection, every
from dimetron.mesh.spreading import grown


@dataclass(frozen=True)
class Shrink:
    """How far."""

    steps: int = count(1, high=10_000, hint="How many times over")


@operation(
    "shrink",
    title="Shrink",
    icon="sel-shrink",
    order=31,
    takes=(Kind.FACE, Kind.EDGE, Kind.VERTEX),
    bare=True,
)
def shrink(mesh: Mesh, chosen: Selection, how: Shrink) -> Edited:
    """Let go of what lies at the rim of the selection."""
    found = chosen
    for _ in range(how.steps):
        rest = np.setdiff1d(every(mesh, chosen.kind), found.indices).astype(np.int32)
        outside = grown(mesh, Selection(chosen.kind, rest))
        found = Selection(chosen.kind, np.setdiff1d(found.indices, outside).astype(np.int32))
    return Edited(mesh, found)
