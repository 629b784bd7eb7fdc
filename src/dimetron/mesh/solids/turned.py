"""A profile turned about an axis."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.solids.rings import assembled

#: Points nearer to the axis than this share of the largest radius lie on it.
_ON_AXIS = 1e-7


def turned(
    profile: Floats,
    axis: ArrayLike,
    out: ArrayLike,
    closed: bool,
    sides: int = 48,
    angle_deg: float = 360.0,
) -> Mesh:
    """A profile (n, 2) of distance from the axis and height along it, turned by an angle in
    ``sides`` quads. axis, out (3,): unit vectors along the axis and to where the profile lies;
    closed: whether the profile is. Full turns of what ends on the axis are closed solids, and so
    are part turns of closed ones. Raises MeshError."""
    radius, height = np.asarray(profile, np.float64).T
    if sides < 3 or not 0 < abs(angle_deg) <= 360:
        raise MeshError("A turned solid needs three sides or more, and an angle up to 360°.")
    largest = float(np.abs(radius).max(initial=0.0))
    if len(radius) < 2 or largest <= 0:
        raise MeshError("This outline lies on the axis; it makes no solid.")
    if radius.min() < -1e-6 * largest:
        raise MeshError("This outline crosses the axis it is turned about; keep it on one side.")
    radius = np.maximum(radius, 0.0)
    full = abs(angle_deg) > 360 - 1e-9
    count = sides if full else sides + 1
    turn = np.radians(angle_deg) * np.arange(count) / sides
    along, away = np.asarray(axis, np.float64), np.asarray(out, np.float64)
    across = np.cross(along, away)
    ways = np.cos(turn)[:, None] * away + np.sin(turn)[:, None] * across
    places = radius[None, :, None] * ways[:, None] + height[None, :, None] * along
    on_axis = radius <= _ON_AXIS * largest
    # What lies on the axis is one point for all sides.
    number = np.arange(count * len(radius)).reshape(count, -1)
    number[:, on_axis] = number[0, on_axis]
    used, compact = np.unique(number, return_inverse=True)
    compact = compact.reshape(number.shape)
    points = places.reshape(-1, 3)[used]
    ring = compact if not full else np.concatenate([compact, compact[:1]])
    row = ring if not closed else np.concatenate([ring, ring[:, :1]], axis=1)
    quads = np.stack([row[:-1, :-1], row[1:, :-1], row[1:, 1:], row[:-1, 1:]], axis=-1)
    # Between two points on the axis there is nothing.
    lone = on_axis & np.roll(on_axis, -1)
    kept = quads[:, ~lone[: quads.shape[1]]].reshape(-1, 4)
    caps = []
    if not full and (closed or on_axis[[0, -1]].all()):
        caps = [ring[0].tolist(), ring[-1][::-1].tolist()]
    return assembled(points, [kept], caps)
