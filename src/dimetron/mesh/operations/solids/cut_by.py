"""One solid cut in two by the surface of others."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import choice
from dimetron.mesh.select import Selection
from dimetron.mesh.solids.booleans import parted

_KEEP = (("both", "both"), ("outside", "outside"), ("inside", "inside"))


@dataclass(frozen=True)
class CutBy:
    """Which parts stay."""

    keep: str = choice("both", _KEEP, hint="What lies outside the others, inside them, or both")


@operation("cut-by", title="Cut by others", icon="layers-cut", several=True, order=4, bare=True)
def cut_by(meshes: Sequence[Mesh], chosen: Selection, how: CutBy) -> Edited:
    """Cut the first closed mesh along the surfaces of the others, and keep the parts one wants,
    each closed; of both, the one inside becomes a mesh of its own."""
    return parted(meshes, how.keep)
