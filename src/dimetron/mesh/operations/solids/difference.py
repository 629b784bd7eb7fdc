"""What one solid encloses without others."""

from __future__ import annotations

from collections.abc import Sequence

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.select import Selection
from dimetron.mesh.solids.booleans import combined


@operation("difference", title="Difference", icon="layers-difference", several=True, order=2)
def difference(meshes: Sequence[Mesh], chosen: Selection, how: NoParameters) -> Edited:
    """Take from the first closed mesh what the others enclose."""
    return combined(meshes, "difference")
