"""Cut a solid with a plane."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import AXIS, SIDES, choice, length
from dimetron.mesh.select import Selection
from dimetron.mesh.solids.closed import as_solid, told_back


@dataclass(frozen=True)
class Cut:
    """Where, and what stays."""

    axis: str = choice("z", AXIS, hint="The axis that the plane stands square to")
    at: float = length(0.0, hint="Where on that axis it stands")
    keep: str = choice("positive", SIDES, hint="The side that stays")


@operation("cut", title="Cut off", icon="cut-off", paired=True, order=30)
def cut(mesh: Mesh, chosen: Selection, how: Cut) -> Edited:
    """Cut a closed mesh at a plane square to an axis and keep one side, closed.

    The new faces are selected.
    """
    sign = 1.0 if how.keep == "positive" else -1.0
    normal = np.zeros(3)
    normal["xyz".index(how.axis)] = sign
    solid = as_solid(mesh).trim_by_plane(normal.tolist(), how.at * sign)
    return told_back(mesh, solid)
