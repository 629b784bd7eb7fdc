"""Turned: an outline turned about an axis."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.document.making import Maker
from dimetron.document.outline import AXES, Outline, fineness, side_of
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import AXIS, angle, choice, count
from dimetron.mesh.solids.turned import turned
from dimetron.outlines.crossed import cut_at_axis
from dimetron.outlines.path import Path, mapped, sampled
from dimetron.outlines.rounding import rounded

#: Ends of a profile this near to the axis, as a share of its extent, lie on it.
_ON_AXIS = 2e-3


@dataclass(frozen=True)
class Turned:
    """About what, how far, and in how many quads."""

    about: str = choice("z", AXIS, hint="The axis through the origin that it is turned about")
    angle: float = angle(360.0, low=1.0, high=360.0, hint="How far round")
    sides: int = count(48, low=3, high=720, hint="Quads around")


def make(outlines: Sequence[Outline], how: Turned) -> Mesh:
    """Raises MeshError, OutlineError."""
    outline = outlines[0]
    along = side_of(outline.view, how.about)
    if along is None:
        raise MeshError(f"This view does not show {how.about.upper()}; turn about another axis.")
    out = 1 - along
    path = _one_side(rounded(outline.path), out)
    points = sampled(path, 4 * fineness(path))
    right, up, _ = outline.view.directions
    ways = (right, up)
    axis = np.eye(3)[AXES.index(how.about)]
    sense = float(axis @ ways[along])
    profile = np.stack([points[:, out], sense * points[:, along]], axis=1)
    reach = float(np.ptp(points, axis=0).max())
    if not path.closed:
        for end in (0, -1):
            if profile[end, 0] < _ON_AXIS * reach:
                profile[end, 0] = 0.0
    return turned(profile, axis, ways[out], path.closed, how.sides, how.angle)


def _one_side(path: Path, out: int) -> Path:
    """The profile on the positive side: mirrored if it lies on the other, its half if on both."""
    values = sampled(path, 1e-2 * float(np.ptp(path.points, axis=0).max()))[:, out]
    least, most = float(values.min()), float(values.max())
    slack = _ON_AXIS * (most - least)
    if least >= -slack:
        return path
    if most <= slack:
        flip = np.ones(2)
        flip[out] = -1.0
        return mapped(path, np.diag(flip))
    return cut_at_axis(path, out)


MAKER = Maker(
    "turned", "Turned", "An outline turned about an axis.", "rotate-rectangle", 20, (1, 1), Turned,
    make,
)  # fmt: skip
