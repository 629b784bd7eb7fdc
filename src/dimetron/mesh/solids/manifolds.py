"""Meshes and sections as manifold3d has them."""

from __future__ import annotations

from collections.abc import Sequence

import manifold3d
import numpy as np

from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.mesh import Mesh, from_faces


def as_mesh(solid: manifold3d.Manifold) -> Mesh:
    """A solid's surface as a triangle mesh, its vertices to full precision."""
    raw = solid.to_mesh64()
    positions = np.asarray(raw.vert_properties, np.float64)[:, :3]
    return from_faces(positions, np.asarray(raw.tri_verts).astype(np.int32))


def section_of(loops: Sequence[Floats]) -> manifold3d.CrossSection:
    """What loops (n, 2) enclose, whichever way they run: what lies in an even number of them is a
    hole. Raises MeshError if that is nothing."""
    parts = [np.asarray(loop, np.float64) for loop in loops if len(loop) > 2]
    section = manifold3d.CrossSection(parts, manifold3d.FillRule.EvenOdd)
    if not parts or section.is_empty() or section.area() <= 0:
        raise MeshError("These outlines enclose nothing.")
    return section


def joined_section(loops: Sequence[Floats]) -> manifold3d.CrossSection:
    """What lies within any of some loops (n, 2) that run counter-clockwise, and not in a hole."""
    parts = [np.asarray(loop, np.float64) for loop in loops if len(loop) > 2]
    return manifold3d.CrossSection(parts, manifold3d.FillRule.NonZero)


def grown(loops: Sequence[Floats], by: float) -> list[Floats]:
    """Loops (n, 2) with their holes, run out by so much beyond what they enclose; corners stay
    sharp. Raises MeshError."""
    mitre = manifold3d.JoinType.Miter
    return [np.asarray(loop) for loop in section_of(loops).offset(by, mitre, 4.0).to_polygons()]
