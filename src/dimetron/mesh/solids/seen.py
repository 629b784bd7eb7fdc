"""What a view shows of a solid: loops in its plane."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, MeshError

#: Views whose lines of sight are nearer to one another than this leave the depth open.
_PARALLEL = 1e-6


@dataclass(frozen=True, slots=True, eq=False)
class Seen:
    """loops: closed polygons (n, 2) in the view's plane, in mm; one within another is a hole."""

    view: AnyView
    loops: tuple[Floats, ...]

    @property
    def bounds(self) -> Floats:
        """(2, 2) lowest and highest of its loops."""
        points = np.concatenate(self.loops)
        return np.stack([points.min(axis=0), points.max(axis=0)])


def check_bounded(seen: Sequence[Seen]) -> None:
    """Whether views bound a solid together. Raises MeshError."""
    ways = np.array([s.view.directions.forward for s in seen]).reshape(-1, 3)
    if len(ways) < 2 or np.abs(np.cross(ways[0], ways)).max() < _PARALLEL:
        raise MeshError(
            "One direction alone leaves the depth open; add an outline from another side."
        )


def box_of(seen: Sequence[Seen]) -> Floats:
    """(2, 3) the box within which all views allow something. Raises MeshError if there is none."""
    check_bounded(seen)
    low, high = np.full(3, -np.inf), np.full(3, np.inf)
    for one in seen:
        plane = one.bounds
        for axis, sign, (a, b) in zip(
            one.view.paper_axes, one.view.paper_signs, plane.T, strict=True
        ):
            if axis is not None:
                ends = sorted((a * sign, b * sign))
                low[axis], high[axis] = max(low[axis], ends[0]), min(high[axis], ends[1])
    # An axis that no view shows squarely is bounded by those that see it inclined.
    reach = max(float(np.abs(one.bounds).max()) for one in seen)
    low, high = (
        np.where(np.isfinite(low), low, -4 * reach),
        np.where(np.isfinite(high), high, 4 * reach),
    )
    if not (high > low).all():
        raise MeshError(_NOTHING)
    return np.stack([low, high])


_NOTHING = "These outlines leave nothing in common; look whether they are placed right."


def nothing_in_common() -> MeshError:
    """What is said where views rule one another out."""
    return MeshError(_NOTHING)
