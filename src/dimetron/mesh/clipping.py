"""What of a mesh lies on one side of a plane square to an axis, with an open border there."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.around import expanded
from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.edited import NOTHING, Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.replaced import Faces, Points, Replacement, cleaned, face_sizes, replaced
from dimetron.mesh.select import Selection

#: Vertices nearer to the plane than this share of the extent lie on it.
_ON_IT = 1e-7


def clipped(
    mesh: Mesh, axis: int, at: float, sign: float = 1.0, chosen: Selection = NOTHING
) -> Edited:
    """The faces beyond ``at`` along an axis (before it, for a sign of minus one); those that cross
    the plane are cut there, and those that lie in it go. Vertices on the plane stand exactly
    there."""
    t = mesh.topology
    near = _ON_IT * max(float(np.ptp(mesh.bounds, axis=0).max()), abs(at), 1e-9)
    away = (mesh.positions[:, axis] - at) * sign
    away = np.where(np.abs(away) <= near, 0.0, away)
    side = np.sign(away)[t.corners]
    first = t.offsets[:-1]
    none = not t.face_count
    some = np.zeros(0, bool) if none else np.maximum.reduceat(side, first) > 0
    crossed = np.zeros(0, bool) if none else some & (np.minimum.reduceat(side, first) < 0)
    faces = np.flatnonzero(crossed)
    a, b = t.edges.T
    cuts = np.flatnonzero(away[a] * away[b] < 0)
    share = away[a[cuts]] / (away[a[cuts]] - away[b[cuts]])
    where = (
        mesh.positions[a[cuts]] * (1 - share[:, None]) + mesh.positions[b[cuts]] * share[:, None]
    )
    where[:, axis] = at
    new = np.full(len(t.edges), -1)
    new[cuts] = t.vertex_count + np.arange(len(cuts))
    made = _halves(mesh, faces, side, new, away)
    stood = mesh.positions.copy()
    on = np.flatnonzero(away == 0)
    stood[on, axis] = at
    what = Replacement(
        gone=np.flatnonzero(~some | crossed),
        faces=(made,),
        points=Points(where, a[cuts], b[cuts], share),
        positions=stood,
        moved=on,
    )
    return replaced(mesh, what, chosen)


def _halves(mesh: Mesh, faces: Ints, side: Ints, new: Ints, away: Floats) -> Faces:
    """The faces without their corners on the far side, with points where they cross the plane."""
    t = mesh.topology
    corners = t.corners_of(faces)
    crossing = new[t.corner_edge[corners]]
    keep = (side[corners] >= 0).astype(np.int64)
    sizes = keep + (crossing >= 0)
    step, who = expanded(np.zeros(len(corners), np.int64), sizes)
    is_new = (step == 1) | (keep[who] == 0)
    vertices = np.where(is_new, crossing[who], t.corners[corners[who]])
    own = corners[who]
    begin, end = away[t.corners[own]], away[t.corners[t.next_corner[own]]]
    share = np.where(is_new, begin / np.where(begin == end, 1.0, begin - end), 0.0)
    return cleaned(
        Faces(
            face_sizes(sizes, t.sizes[faces]),
            vertices.astype(np.int32),
            faces.astype(np.int32),
            own,
            t.next_corner[own],
            share,
        )
    )
