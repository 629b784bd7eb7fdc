"""Faces of many corners divided into quads."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import Ints, MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import choice
from dimetron.mesh.replaced import Faces, Points, Replacement, last_faces, replaced
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.topology import Topology

_WAYS = (("middle", "around a middle"), ("across", "from side to side"))


@dataclass(frozen=True)
class SplitFaces:
    """How."""

    way: str = choice(
        "middle",
        _WAYS,
        hint="Around a new vertex in the middle, or by edges from side to side",
    )


@operation(
    "split-faces",
    title="Into quads",
    icon="split-faces",
    takes=(Kind.FACE,),
    order=55,
    bare=True,
)
def split_faces(mesh: Mesh, chosen: Selection, how: SplitFaces) -> Edited:
    """Divide faces of more than four corners into quads; of an odd number a triangle is left.

    The faces that come of it are selected.
    """
    t = mesh.topology
    large = chosen.indices[t.sizes[chosen.indices] > 4]
    if not len(large):
        raise MeshError("None of these faces has more than four corners.")
    if how.way == "middle":
        made, points = _around(mesh, large)
    else:
        made, points = _across(t, large), Points(np.zeros((0, 3)), np.zeros(0, np.int32))
    done = replaced(mesh, Replacement(gone=large, faces=(made,), points=points)).mesh
    return Edited(done, Selection(Kind.FACE, last_faces(done, len(made.sizes))))


def _around(mesh: Mesh, faces: Ints) -> tuple[Faces, Points]:
    """Quads of two edges each and the middle."""
    t = mesh.topology
    sizes, flat, corner, owner = [], [], [], []
    middle = t.vertex_count
    for face in faces.tolist():
        ring = np.arange(t.offsets[face], t.offsets[face + 1])
        for at in range(0, len(ring), 2):
            part = ring[np.arange(at, min(at + 3, len(ring) + 1)) % len(ring)]
            sizes.append(len(part) + 1)
            flat.append(np.append(t.corners[part], middle))
            corner.append(np.append(part, part[0]))
            owner.append(face)
        middle += 1
    made = Faces(
        np.array(sizes, np.int32),
        np.concatenate(flat).astype(np.int32),
        np.array(owner, np.int32),
        np.concatenate(corner).astype(np.int32),
    )
    first = t.corners[t.offsets[faces]]
    return made, Points(mesh.face_centres[faces], first)


def _across(t: Topology, faces: Ints) -> Faces:
    """Quads in a row, from the first two corners to the last ones."""
    sizes, corner, owner = [], [], []
    for face in faces.tolist():
        low, high = int(t.offsets[face]), int(t.offsets[face + 1]) - 1
        while high - low >= 2:
            part = [low, low + 1, high - 1, high] if high - low >= 3 else [low, low + 1, high]
            sizes.append(len(part))
            corner.extend(part)
            owner.append(face)
            low, high = low + 1, high - 1
    at = np.array(corner, np.int32)
    return Faces(np.array(sizes, np.int32), t.corners[at], np.array(owner, np.int32), at)
