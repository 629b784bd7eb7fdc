"""Outlines stamped through a mesh along their view."""

from __future__ import annotations

from collections.abc import Sequence

import manifold3d
import numpy as np

from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.solids.manifolds import as_mesh, section_of


def stamped(
    mesh: Mesh,
    loops: Sequence[Floats],
    view: AnyView,
    keep: str = "outside",
    depth: tuple[float, float] | None = None,
) -> Mesh:
    """What of a closed mesh lies outside loops (n, 2) in a view's plane, or "inside" them, run out
    along its line of sight; depth: only between two depths. Of triangles. Raises MeshError."""
    solid = as_manifold(mesh)
    ahead = mesh.positions @ view.directions.forward
    low, high = float(ahead.min()), float(ahead.max())
    room = 0.05 * (high - low) + 1.0
    near, far = (low - room, high + room) if depth is None else sorted(depth)
    if not far > near:
        raise MeshError("The depth to cut to must be more than nothing.")
    stamp = manifold3d.Manifold.extrude(section_of(loops), far - near)
    right, up, forward = view.directions
    # Extruded toward the eye, from the far end on.
    stamp = stamp.transform(np.stack([right, up, -forward, forward * far], axis=1))
    cut = solid ^ stamp if keep == "inside" else solid - stamp
    if cut.is_empty() or cut.volume() <= 0:
        raise MeshError("Nothing of the mesh would be left.")
    return as_mesh(cut)


def nearest(mesh: Mesh, view: AnyView) -> float:
    """The depth of what of a mesh is nearest to the eye in a view."""
    return float((mesh.positions @ view.directions.forward).min())


def as_manifold(mesh: Mesh) -> manifold3d.Manifold:
    """A closed mesh for cutting and joining. Raises MeshError if it is open."""
    # Copies: it takes no arrays that are read-only.
    positions, triangles = np.array(mesh.positions, order="C"), mesh.triangles.astype(np.uint64)
    raw = manifold3d.Mesh64(positions, triangles)
    raw.merge()
    solid = manifold3d.Manifold(raw)
    if solid.status() != manifold3d.Error.NoError or solid.is_empty():
        raise MeshError("This mesh is open or crosses itself; close it before it is cut.")
    return solid
