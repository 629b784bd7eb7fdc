"""How far along an axis vertices lie between two stations of it."""

from __future__ import annotations

from typing import NamedTuple

from dimetron.mesh.arrays import Floats, Ints, MeshError, extent


class Along(NamedTuple):
    """share (k,): 0 before the first station and 1 beyond the second; low, high: where on the axis
    these are, mm; middle (3,): of all vertices."""

    share: Floats
    low: float
    high: float
    middle: Floats


def along(positions: Floats, vertices: Ints, axis: int, begin: float, end: float) -> Along:
    """For vertices (k,): begin, end as shares of their extent along the axis. Raises MeshError if
    there is nothing between them."""
    points = positions[vertices]
    box = extent(points)
    base, long = float(box[0, axis]), float(box[1, axis] - box[0, axis])
    low, high = base + begin * long, base + end * long
    if not high - low > 1e-9:
        raise MeshError("Nothing lies between the two stations; set them apart.")
    share = ((points[:, axis] - low) / (high - low)).clip(0.0, 1.0)
    return Along(share, low, high, box.mean(axis=0))
