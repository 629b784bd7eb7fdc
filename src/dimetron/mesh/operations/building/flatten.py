"""Bring vertices into one plane."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import MeshError, extent
from dimetron.mesh.edited import Edited
from dimetron.mesh.frames import WORLD, axes_of
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import angle, choice
from dimetron.mesh.select import Kind, Selection, vertices_of
from dimetron.mesh.turning import rotation

_TO = (("best", "best"), ("x", "one X"), ("y", "one Y"), ("z", "one Z"))
_AT = (("middle", "middle"), ("low", "low"), ("high", "high"), ("zero", "zero"))
_ALONG = (("straight", "straight"), ("square", "square"))
#: A plane that is tilted so far is never met by what goes straight, as a cosine.
_LEVEL = 0.02


@dataclass(frozen=True)
class Flatten:
    """Into which plane, how tilted, and which way."""

    to: str = choice(
        "best", _TO, hint="The plane that lies nearest to all, or one square to an axis"
    )
    at: str = choice("middle", _AT, hint="Where on the axis, for a plane square to one")
    tilt: float = angle(0.0, low=-90.0, high=90.0, hint="The plane tilted about its first axis")
    lean: float = angle(0.0, low=-90.0, high=90.0, hint="The plane tilted about its second axis")
    along: str = choice(
        "straight", _ALONG, hint="Straight to the plane as it was before it was tilted, or square"
    )


@operation(
    "flatten",
    title="Flatten",
    icon="flatten",
    takes=(Kind.VERTEX, Kind.EDGE, Kind.FACE),
    order=110,
    bare=True,
)
def flatten(mesh: Mesh, chosen: Selection, how: Flatten) -> Edited:
    """Bring what is chosen into one plane: the one that lies nearest, or level along an axis. The
    plane can still be tilted while its numbers are open."""
    mine = vertices_of(mesh, chosen.kind, chosen.indices)
    points = mesh.positions[mine]
    if how.to == "best":
        frame, axis, through = axes_of(mesh, Selection(Kind.VERTEX, mine)), 2, points.mean(axis=0)
    else:
        frame, axis = WORLD, "xyz".index(how.to)
        low, high = extent(points)
        through = (low + high) / 2
        ends = {"middle": through[axis], "low": low[axis], "high": high[axis]}
        through[axis] = ends.get(how.at, 0.0)
    normal = (rotation((axis + 1) % 3, how.tilt) @ rotation((axis + 2) % 3, how.lean))[axis]
    placed, middle = points @ frame.T, through @ frame.T
    away = placed - middle
    if how.along == "square":
        placed -= np.outer(away @ normal, normal)
    elif abs(normal[axis]) < _LEVEL:
        raise MeshError("The plane is tilted too far to be met straight; go square to it.")
    else:
        beside = np.arange(3) != axis
        placed[:, axis] = middle[axis] - away[:, beside] @ normal[beside] / normal[axis]
    return Edited(mesh.with_moved(mine, placed @ frame), chosen)
