"""Hollow a solid out."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.offsets import offset_ways
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import length
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.shells import keep_sense, shell
from dimetron.mesh.solids.closed import need_closed

_FOLDS = "The wall is too thick: the inside would fold over itself. Take a thinner one."


@dataclass(frozen=True)
class Hollow:
    """How thick the wall is."""

    wall: float = length(2.0, low=1e-6, hint="How thick the wall is, inward from the surface")


@operation("hollow", title="Hollow", icon="hollow", order=50)
def hollow(mesh: Mesh, chosen: Selection, how: Hollow) -> Edited:
    """Hollow a closed mesh out, so that a wall is left; the inner surface is selected."""
    need_closed(mesh)
    inner = mesh.with_positions(mesh.positions - offset_ways(mesh) * how.wall)
    keep_sense(mesh, inner, _FOLDS)
    done = shell(mesh, 0.0, -how.wall)
    count = mesh.topology.face_count
    inside = np.arange(count, 2 * count, dtype=np.int32)
    return Edited(done.mesh, Selection(Kind.FACE, inside))
