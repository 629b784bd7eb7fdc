"""Turn faces over."""

from __future__ import annotations

from dimetron.mesh.edit import turned_over
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.select import Kind, Selection


@operation("flip", title="Turn over", icon="layers-intersect", takes=(Kind.FACE,))
def flip(mesh: Mesh, chosen: Selection, how: NoParameters) -> Edited:
    """Let faces look the other way."""
    return Edited(turned_over(mesh, chosen.indices), chosen)
