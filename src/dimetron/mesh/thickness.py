"""How thick the walls of a mesh are."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.health import face_volumes, shells
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.rays import first_met

#: A wall's other side looks away from this one: at least by so much, as a cosine.
_OTHER_SIDE = 0.2
#: How far inside the surface a ray begins, as a share of what is looked through.
_INSIDE = 1e-6


def thicknesses(mesh: Mesh, most: float) -> Floats:
    """(t,) mm of what lies behind each triangle, straight inward from its middle, up to its other
    side; infinity beyond ``most``, and where the way ends on what is no other side of its shell."""
    triangles = mesh.triangles
    corner = mesh.positions[triangles]
    normal = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
    long = np.linalg.norm(normal, axis=1)
    there = np.flatnonzero(long > 0)
    inward = -normal[there] / long[there, None]
    away = np.full(len(triangles), np.inf)
    middle = corner[there].mean(axis=1)
    shell = _solid_parts(mesh)
    rays = mesh.index, mesh.positions, middle, inward
    found, behind = first_met(*rays, most * _INSIDE, most, (shell[there], shell))
    facing = np.einsum(
        "ij,ij->i", normal[behind] / np.maximum(long[behind], 1e-300)[:, None], inward
    )
    away[there] = np.where((behind >= 0) & (facing > _OTHER_SIDE), found, np.inf)
    return away


def thin_faces(mesh: Mesh, under: float) -> Ints:
    """(k,) faces behind which there is less than ``under`` mm."""
    thin = thicknesses(mesh, under) < under
    return np.unique(mesh.topology.triangle_faces[thin]).astype(np.int32)


def _solid_parts(mesh: Mesh) -> Ints:
    """(t,) the shell of each triangle: what another one has there is no wall of this one. Shells
    that look inward are cavities, of whichever it is: -1."""
    shell = shells(mesh.topology)
    inward = np.bincount(shell, face_volumes(mesh)) < 0
    return np.asarray(np.where(inward[shell], -1, shell)[mesh.topology.triangle_faces])
