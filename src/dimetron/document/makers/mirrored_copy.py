"""A linked mirror image of a mesh."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dimetron.document.making import Maker
from dimetron.document.model import MeshObject
from dimetron.mesh.edit import turned_over
from dimetron.mesh.evening import mirrored_points
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import AXIS, choice, length


@dataclass(frozen=True)
class MirrorImage:
    """Across which plane."""

    axis: str = choice("x", AXIS, hint="The axis across which it is mirrored")
    at: float = length(0.0, hint="Where on the axis the mirror stands")


def make(sources: Sequence[MeshObject], how: MirrorImage) -> Mesh:
    """The image alone."""
    mesh, axis = sources[0].mesh, "xyz".index(how.axis)
    return turned_over(mesh.with_positions(mirrored_points(mesh.positions, axis, how.at)))


MAKER = Maker(
    "mirrored", "Mirrored", "A mirror image.", "mirrored", 3, (1, 1), MirrorImage, make, MeshObject
)
