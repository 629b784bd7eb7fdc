"""A mesh several times over, each copy elsewhere."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.mesh.arrays import MOST_CORNERS, Floats, MeshError
from dimetron.mesh.edited import Edited, Origin, rebuilt
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.topology import topology_of


def repeated(mesh: Mesh, places: Sequence[Floats]) -> Edited:
    """One mesh of copies, by the positions (n, 3) of each. Raises MeshError if they are too
    many."""
    t = mesh.topology
    times = len(places)
    if len(t.corners) * times > MOST_CORNERS:
        raise MeshError("That would be more faces than can be worked with; take fewer copies.")
    step = np.repeat(np.arange(times) * t.vertex_count, len(t.corners))
    topology = topology_of(
        np.tile(t.sizes, times),
        np.tile(t.corners, times) + step,
        t.vertex_count * times,
    )
    vertex, face, corner = (
        np.tile(np.arange(count, dtype=np.int32), times)
        for count in (t.vertex_count, t.face_count, len(t.corners))
    )
    return Edited(
        rebuilt(mesh, np.concatenate(places), topology, Origin(vertex, face, corner)).mesh
    )
