"""Bring vertices into one plane."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import choice
from dimetron.mesh.select import Kind, Selection, vertices_of

_TO = (("best", "their best plane"), ("x", "one X"), ("y", "one Y"), ("z", "one Z"))
_AT = (("middle", "the middle"), ("low", "the lowest"), ("high", "the highest"), ("zero", "zero"))


@dataclass(frozen=True)
class Flatten:
    """Into which plane."""

    to: str = choice(
        "best", _TO, hint="The plane that lies nearest to all, or one square to an axis"
    )
    at: str = choice("middle", _AT, hint="Where on the axis, for a plane square to one")


@operation(
    "flatten",
    title="Flatten",
    icon="flatten",
    takes=(Kind.VERTEX, Kind.EDGE, Kind.FACE),
    order=110,
    bare=True,
)
def flatten(mesh: Mesh, chosen: Selection, how: Flatten) -> Edited:
    """Bring what is chosen into one plane: the one that lies nearest, or level along an axis."""
    mine = vertices_of(mesh, chosen.kind, chosen.indices)
    points = mesh.positions[mine].copy()
    if how.to == "best":
        middle = points.mean(axis=0)
        normal = np.linalg.eigh((points - middle).T @ (points - middle))[1][:, 0]
        points -= np.outer((points - middle) @ normal, normal)
    else:
        axis = "xyz".index(how.to)
        along = points[:, axis]
        ends = {"middle": (along.min() + along.max()) / 2, "low": along.min(), "high": along.max()}
        points[:, axis] = ends.get(how.at, 0.0)
    return Edited(mesh.with_moved(mine, points), chosen)
