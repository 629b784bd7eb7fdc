"""The watering can as it is modelled over its drawings: cages with their smooth surfaces."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache

import numpy as np
from numpy.typing import ArrayLike

from dimetron.demo import can
from dimetron.demo.solids import smooth_path
from dimetron.document.edits import with_mesh
from dimetron.document.model import Document, Smoothing, with_item
from dimetron.mesh.arrays import Floats, Mask, unit
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import by_name
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.starters.cylinder import Cylinder, make

#: Up the outside of the body: radius and height. The foot, two beads and the rim are rows of the
#: cage.
_BODY = (
    *((85.0, 0.0), (86.0, 4.0), (84.5, 11.0), (82.8, 38.0), (84.4, 44.0), (82.2, 50.0)),
    *((79.8, 100.0), (77.6, 149.0), (79.2, 154.0), (77.2, 159.0), (75.8, 182.0), (77.6, 188.0)),
    *((75.5, 193.0),),
)
#: Along the spout, Y and Z, and in its rose, how far along and how thick it is there.
_SPOUT = ((-60, 44), (-100, 70), (-146, 118), (-182, 172), (-214, 219))
_ROSE = ((10.0, 15.0), (25.0, 34.0), (29.5, 37.0), (33.0, 36.5), (33.5, 33.0))
_ROSE_AT, _ROSE_WAY = (-208.0, 211.0), (-0.586, 0.81)
_HANDLE = (
    *((-74, 184), (-75, 206), (-62, 242), (-20, 272), (40, 280)),
    *((100, 256), (136, 204), (141, 146), (118, 96), (76, 72)),
)
_STAY = ((-70, 182), (-120, 166), (-172, 160))
_HANDLE_MM, _STAY_MM, _SPOUT_MM = 7.5, 3.6, (21.0, 10.8)
#: The handle is so many times as wide as it is thick.
_FLATTENED = 1.5
#: Rows of the cages along their paths.
_ROWS = {"spout": 7, "handle": 18, "stay": 4}
#: How far the wall stands in from the outside, and how deep the can is.
_WALL, _DEEP = 4.0, 180.0
_SIDES, _ROUND = 16, 8


def modelled_can(doc: Document) -> Document:
    """The can's drawings with the finished can: body, spout with its rose, handle and stay."""
    for name, mesh in parts().items():
        doc, id_ = with_mesh(doc, mesh, name)
        doc = with_item(doc, id_, smooth=Smoothing(2, 2, "smooth"))
    return doc


@cache
def parts() -> dict[str, Mesh]:
    """The cages by name."""
    return {
        "body": _body(),
        "spout": _spout(),
        "handle": _swept(_laid(_HANDLE, "handle"), _HANDLE_MM, _FLATTENED),
        "stay": _swept(_laid(_STAY, "stay"), _STAY_MM),
    }


def _laid(points: Sequence[tuple[int, int]], name: str) -> Floats:
    """(rows, 2) evenly along a smooth curve through places of Y and Z."""
    return smooth_path([(0, *point) for point in points], _ROWS[name])[:, 1:]


def _spout() -> Mesh:
    """The spout opens into its rose."""
    pipe = _laid(_SPOUT, "spout")[:-1]
    along, thick = np.array(_ROSE).T
    rose = np.array(_ROSE_AT) + along[:, None] * _ROSE_WAY
    radii = np.linspace(*_SPOUT_MM, len(pipe))
    return _swept(np.concatenate([pipe, rose]), np.concatenate([radii, thick]))


def _body() -> Mesh:
    """Rows at the heights of the profile, the top let in and pushed down to the bottom."""
    profile = np.array(_BODY)
    mesh = make(Cylinder(_SIDES, len(profile) - 1))
    row = np.round((mesh.positions[:, 2] + 1) / 2 * (len(profile) - 1)).astype(int)
    radius, height = profile[row].T
    flat = mesh.positions[:, :2] * (radius * _out(_SIDES))[:, None]
    mesh = mesh.with_positions(np.column_stack([flat, height]) * can.scale())
    top = Selection(Kind.FACE, np.flatnonzero(mesh.face_normals[:, 2] > 0.99).astype(np.int32))
    let_in = by_name("inset")(mesh, top, width=_WALL)
    hollow = by_name("extrude")(let_in.mesh, let_in.selection, distance=-_DEEP)
    edges = hollow.mesh.topology.edges
    level = hollow.mesh.positions[edges, 2]
    inner = np.hypot(*hollow.mesh.positions[:, :2].T)[edges].min(axis=1) > 40
    foot = (level.max(axis=1) < 0.1) & inner
    return by_name("crease")(hollow.mesh, _chosen(foot), sharp=0.3).mesh


def _chosen(edges: Mask) -> Selection:
    return Selection(Kind.EDGE, np.flatnonzero(edges).astype(np.int32))


def _swept(places: Floats, radii: ArrayLike, flattened: float = 1.0) -> Mesh:
    """A cylinder laid along places (k, 2) of Y and Z, so thick at each of them; flattened: so many
    times as wide along X."""
    mesh = make(Cylinder(_ROUND, len(places) - 1))
    row = np.round((mesh.positions[:, 2] + 1) / 2 * (len(places) - 1)).astype(int)
    way = unit(np.gradient(places, axis=0))
    across = np.stack([way[:, 1], -way[:, 0]], axis=1)
    thick = np.broadcast_to(np.asarray(radii) * _out(_ROUND), len(places))[row]
    flat = places[row] + across[row] * (mesh.positions[:, 1] * thick)[:, None]
    wide = mesh.positions[:, 0] * thick * flattened
    return mesh.with_positions(np.column_stack([wide, flat]) * can.scale())


def _out(sides: int) -> float:
    """How far out a ring of a cage stands for its smooth surface to lie at one."""
    return 3.0 / (2.0 + float(np.cos(2 * np.pi / sides)))
