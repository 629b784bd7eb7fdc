"""What several solids have in common."""

from __future__ import annotations

from collections.abc import Sequence

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.select import Selection
from dimetron.mesh.solids.booleans import combined


@operation("intersection", title="Intersection", icon="layers-common", several=True, order=3)
def intersection(meshes: Sequence[Mesh], chosen: Selection, how: NoParameters) -> Edited:
    """Keep what all of several closed meshes enclose."""
    return combined(meshes, "intersection")
