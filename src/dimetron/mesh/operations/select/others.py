"""All but these."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.select import Kind, Selection, every


@operation(
    "others",
    title="Others",
    icon="sel-others",
    order=50,
    takes=(Kind.FACE, Kind.EDGE, Kind.VERTEX),
)
def others(mesh: Mesh, chosen: Selection, how: NoParameters) -> Edited:
    """Select what is not selected, and let go of what is."""
    rest = np.setdiff1d(every(mesh, chosen.kind), chosen.indices).astype(np.int32)
    return Edited(mesh, Selection(chosen.kind, rest))
