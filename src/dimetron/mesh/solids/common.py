"""The largest solid that several views allow: their outlines run out along the line of sight, and
what is common to all."""

from __future__ import annotations

from collections.abc import Sequence

import manifold3d
import numpy as np

from dimetron.mesh.mesh import Mesh
from dimetron.mesh.solids.manifolds import as_mesh, section_of
from dimetron.mesh.solids.seen import Seen, box_of, nothing_in_common


def common(seen: Sequence[Seen]) -> Mesh:
    """The solid, as triangles. Raises MeshError if the views leave nothing in common, or the depth
    open."""
    box = box_of(seen)
    # Long enough to reach through the box, whichever way it is seen.
    reach = float(np.abs(box).max()) * 2 + float(np.linalg.norm(box[1] - box[0]))
    solids = [_run_out(one, reach) for one in seen]
    whole = manifold3d.Manifold.batch_boolean(solids, manifold3d.OpType.Intersect)
    if whole.is_empty() or whole.volume() <= 0:
        raise nothing_in_common()
    return as_mesh(whole)


def _run_out(one: Seen, reach: float) -> manifold3d.Manifold:
    solid = manifold3d.Manifold.extrude(section_of(one.loops), 2 * reach)
    right, up, forward = one.view.directions
    # Extruded toward the eye, so that right, up and along make a right-handed frame.
    frame = np.stack([right, up, -forward, forward * reach], axis=1)
    return solid.transform(frame)
