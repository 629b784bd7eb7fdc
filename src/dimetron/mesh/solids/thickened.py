"""A flat sheet of quads given a thickness that may change from place to place."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.interpolate import RBFInterpolator
from scipy.spatial import cKDTree

from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import Place
from dimetron.mesh.solids.rings import assembled
from dimetron.mesh.solids.sheet import even_sheet

#: Both ends are held at so many places.
_ENDS = 5


def thickened(
    loops: Sequence[Floats],
    view: AnyView,
    depth: float,
    size: float,
    thickness: tuple[float, float],
    side: int = 1,
    picked: Sequence[Place] = (),
) -> Mesh:
    """What loops (n, 2) enclose, in quads about ``size`` mm large, half as thick to both sides of
    ``depth``: as thick as the first number where it is lowest along a side of the paper (0: across,
    1: up), as the second where it is highest, and as ``picked`` places of the plane say in between.
    Raises MeshError."""
    if not min(*thickness, *(place[2] for place in picked)) > 0:
        raise MeshError("The thickness must be more than nothing everywhere.")
    sheet = even_sheet(loops, view, depth, size)
    plane = view.to_plane(sheet.positions)
    half = _thick(plane, thickness, side, picked)[:, None] / 2
    forward = view.directions.forward
    count = len(sheet.positions)
    points = np.concatenate([sheet.positions - half * forward, sheet.positions + half * forward])
    quads = sheet.topology.corners.reshape(-1, 4)
    a, b = quads.ravel(), np.roll(quads, -1, axis=1).ravel()
    # An edge that no other quad runs back along is on the rim.
    lone = ~np.isin(a.astype(np.int64) * count + b, b.astype(np.int64) * count + a)
    walls = np.stack([b[lone], a[lone], a[lone] + count, b[lone] + count], axis=1)
    return assembled(points, [quads, quads[:, ::-1] + count, walls])


def _thick(plane: Floats, ends: tuple[float, float], side: int, picked: Sequence[Place]) -> Floats:
    """(n,) how thick it is at places (n, 2): even from one end to the other, and through what is
    picked by the surface that bends least (thin-plate spline), within what was said."""
    along = plane[:, side]
    share = (along - along.min()) / max(float(np.ptp(along)), 1e-12)
    even = ends[0] + (ends[1] - ends[0]) * share
    if not picked:
        return np.asarray(even)
    # Both ends stay as they are: so much is added at the places, and nothing at the ends.
    at, last = np.unique([place[:2] for place in picked][::-1], axis=0, return_index=True)
    value = np.array([place[2] for place in picked][::-1])[last]
    known = np.interp(at[:, side], [along.min(), along.max()], ends)
    low, high = plane.min(axis=0), plane.max(axis=0)
    across = np.linspace(low[1 - side], high[1 - side], _ENDS)
    rims = [
        np.stack([across, np.full(_ENDS, end)][:: 1 if side == 1 else -1], axis=1)
        for end in (low[side], high[side])
    ]
    points = np.concatenate([at, *rims])
    more = np.concatenate([value - known, np.zeros(2 * _ENDS)])
    keep = np.append(np.ones(len(at), bool), cKDTree(at).query(points[len(at) :])[0] > 1e-9)
    added = RBFInterpolator(points[keep], more[keep], kernel="thin_plate_spline")(plane)
    every = [*ends, *value]
    return np.asarray(np.clip(even + added, min(every), max(every)))
