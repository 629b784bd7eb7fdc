"""Let faces look the same way."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edit import turned_over
from dimetron.mesh.edited import Edited
from dimetron.mesh.health import flipped_faces
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.select import Kind, Selection


@operation("alike", title="Look alike", icon="alike", takes=(Kind.FACE,), order=20)
def alike(mesh: Mesh, chosen: Selection, how: NoParameters) -> Edited:
    """Turn over the faces that look another way than the rest of their shell; outward where it is
    closed."""
    wrong = np.intersect1d(flipped_faces(mesh), chosen.indices)
    if not len(wrong):
        raise MeshError("All of these faces look the same way already.")
    return Edited(turned_over(mesh, wrong), chosen)
