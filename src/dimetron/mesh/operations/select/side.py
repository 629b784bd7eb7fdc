"""What lies on one side."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import AXIS, SIDES, choice, length
from dimetron.mesh.select import Kind, Selection, converted


@dataclass(frozen=True)
class Side:
    """Of which plane, and which side."""

    axis: str = choice("x", AXIS, hint="The axis that the plane stands square to")
    at: float = length(0.0, hint="Where on that axis it stands")
    which: str = choice("positive", SIDES, hint="The side that is selected")


@operation("side", title="Side", icon="sel-side", order=42, bare=True)
def side(mesh: Mesh, chosen: Selection, how: Side) -> Edited:
    """Select what lies on one side of a plane, with what lies in it."""
    kind = Kind.FACE if chosen.kind is Kind.WHOLE else chosen.kind
    sign = 1.0 if how.which == "positive" else -1.0
    away = (mesh.positions[:, "xyz".index(how.axis)] - how.at) * sign
    there = np.flatnonzero(away >= -1e-9).astype(np.int32)
    return Edited(mesh, Selection(kind, converted(mesh, Kind.VERTEX, there, kind)))
