"""Fewer faces for much the same surface."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited, Origin, rebuilt
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import count
from dimetron.mesh.select import Selection


@dataclass(frozen=True)
class Reduce:
    """To how many."""

    faces: int = count(1000, low=4, hint="How many triangles are left")


@operation("reduce", title="Fewer faces", icon="reduce", order=50)
def reduce(mesh: Mesh, chosen: Selection, how: Reduce) -> Edited:
    """Take faces out where they matter least, until so many triangles are left.

    Source: M. Garland and P. S. Heckbert, Surface simplification using quadric error metrics,
    SIGGRAPH 1997.
    """
    import fast_simplification  # takes a while; only this needs it
    from scipy.spatial import cKDTree

    triangles = mesh.triangles
    if len(triangles) <= how.faces:
        raise MeshError(f"The mesh has {len(triangles)} triangles, no more than are wanted.")
    middle = mesh.bounds.mean(axis=0)
    points, faces = fast_simplification.simplify(
        np.ascontiguousarray(mesh.positions - middle),
        np.array(triangles, np.int32),
        target_count=how.faces,
    )
    points = np.asarray(points, np.float64) + middle
    made = from_faces(points, np.asarray(faces, np.int32))
    vertex = cKDTree(mesh.positions).query(points)[1].astype(np.int32)
    none = np.full(made.topology.face_count, -1, np.int32)
    corner = np.full(len(made.topology.corners), -1, np.int32)
    return Edited(rebuilt(mesh, points, made.topology, Origin(vertex, none, corner)).mesh)
