"""What several solids enclose together."""

from __future__ import annotations

from collections.abc import Sequence

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.select import Selection
from dimetron.mesh.solids.booleans import combined


@operation("union", title="Union", icon="layers-union", several=True, order=1)
def union(meshes: Sequence[Mesh], chosen: Selection, how: NoParameters) -> Edited:
    """Make one solid of several closed meshes: all that any of them encloses."""
    return combined(meshes, "union")
