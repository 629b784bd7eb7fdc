"""A flat sheet of quads given a thickness that may change from place to place."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.solids.rings import assembled
from dimetron.mesh.solids.sheet import even_sheet


def thickened(
    loops: Sequence[Floats],
    view: AnyView,
    depth: float,
    size: float,
    thickness: tuple[float, float],
    side: int = 1,
) -> Mesh:
    """What loops (n, 2) enclose, in quads about ``size`` mm large, half as thick to both sides of
    ``depth``: as thick as the first number where it is lowest along a side of the paper (0: across,
    1: up), as the second where it is highest. Raises MeshError."""
    if not min(thickness) > 0:
        raise MeshError("The thickness must be more than nothing everywhere.")
    sheet = even_sheet(loops, view, depth, size)
    plane = view.to_plane(sheet.positions)[:, side]
    share = (plane - plane.min()) / max(float(np.ptp(plane)), 1e-12)
    half = (thickness[0] + (thickness[1] - thickness[0]) * share)[:, None] / 2
    forward = view.directions.forward
    count = len(sheet.positions)
    points = np.concatenate([sheet.positions - half * forward, sheet.positions + half * forward])
    quads = sheet.topology.corners.reshape(-1, 4)
    a, b = quads.ravel(), np.roll(quads, -1, axis=1).ravel()
    # An edge that no other quad runs back along is on the rim.
    lone = ~np.isin(a.astype(np.int64) * count + b, b.astype(np.int64) * count + a)
    walls = np.stack([b[lone], a[lone], a[lone] + count, b[lone] + count], axis=1)
    return assembled(points, [quads, quads[:, ::-1] + count, walls])
