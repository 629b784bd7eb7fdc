"""New faces inside chosen ones, a distance away from their rim."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.around import sectors
from dimetron.mesh.arrays import Floats, Ints, Mask, MeshError, unit
from dimetron.mesh.edited import Edited, Note
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.offsets import vertex_normals
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import Drag, length, switch
from dimetron.mesh.replaced import Points, Replacement, polygons, replaced
from dimetron.mesh.select import Kind, Selection

#: A corner so sharp that the new edges would meet farther off than so many widths is cut short.
_LONGEST = 8.0
#: Of the width at which an inner edge would be gone, so much is taken at most.
_MOST = 0.999


@dataclass(frozen=True)
class Inset:
    """How far in, how deep, and whether each face for itself."""

    width: float = length(
        5.0, low=0.0, drag=Drag.ACROSS, hint="How far the new edges stand in from the rim"
    )
    depth: float = length(0.0, hint="How far the inner faces go out; less than nothing goes in")
    each: bool = switch(False, hint="Every face for itself, not all that hang together as one")


@operation("inset", title="Inset", icon="inset", takes=(Kind.FACE,), key="Ctrl+Shift+F", order=5)
def inset(mesh: Mesh, chosen: Selection, how: Inset) -> Edited:
    """Put smaller faces inside the chosen ones, with a rim of quads around them.

    Faces that hang together go as one. Where the width would turn an inner edge round, it is
    limited. The inner faces keep their place among the faces and stay selected.
    """
    if how.width == 0 and how.depth == 0:
        raise MeshError("An inset needs a width or a depth of more than nothing.")
    rim = _Rim(mesh, chosen.indices, how.each)
    said: tuple[Note, ...] = ()
    if not len(rim.edges) and how.width:
        rim = _Rim(mesh, chosen.indices, True)
        words = "These faces are closed all round: each is inset for itself."
        said = (Note(words, Kind.FACE, chosen.indices),)
    width, notes = rim.limited(how.width)
    topology = mesh.topology
    n = topology.vertex_count
    positions = mesh.positions[rim.vertex] + rim.inward * width + rim.outward * how.depth
    copy = n + np.arange(len(rim.vertex), dtype=np.int32)
    at = rim.corners[rim.group >= 0]
    to = copy[rim.group[rim.group >= 0]]
    name = topology.corners.copy()
    name[at] = to
    a, b = rim.edges, topology.next_corner[rim.edges]
    quads = np.stack([topology.corners[a], topology.corners[b], name[b], name[a]], axis=1)
    added = polygons(quads, topology.corner_face[a], np.stack([a, b, b, a], axis=1))
    moved = rim.inner
    stood = mesh.positions
    if len(moved) and how.depth:
        stood = mesh.positions.copy()
        stood[moved] += _outward(mesh, chosen.indices, moved) * how.depth
    what = Replacement(
        faces=(added,),
        points=Points(positions, rim.vertex),
        renamed=(at, to),
        positions=stood,
        moved=moved if how.depth else moved[:0],
    )
    return Edited(replaced(mesh, what).mesh, chosen, (*said, *notes))


class _Rim:
    """Where a region of faces ends. edges: corners from which rim edges start; corners (k,) of the
    region with the copy each takes, group (k,), -1 for none; of each copy the vertex, and which way
    it goes for a width of one (inward) and a depth of one (outward)."""

    def __init__(self, mesh: Mesh, faces: Ints, each: bool) -> None:
        topology = mesh.topology
        self._mesh = mesh
        self.corners = topology.corners_of(faces)
        edge = topology.corner_edge[self.corners]
        times = np.bincount(edge, minlength=len(topology.edges))
        split = np.ones(len(times), bool) if each else times != 2
        self.edges = self.corners[split[edge]]
        part = sectors(topology, self.corners, split)
        before = topology.previous_corner[self.corners]
        at_rim = split[edge] | split[topology.corner_edge[before]]
        rims = np.zeros(int(part.max(initial=-1)) + 1, bool)
        rims[part[at_rim]] = True
        number = np.cumsum(rims) - 1
        self.group = np.where(rims[part], number[part], -1)
        there = self.group >= 0
        count = int(rims.sum())
        self.vertex = np.zeros(count, np.int32)
        self.vertex[self.group[there]] = topology.corners[self.corners[there]]
        self.inner = np.setdiff1d(topology.corners[self.corners[~there]], self.vertex)
        self.inward, self.outward = self._ways(split, there, count)

    def _ways(self, split: Mask, there: Mask, count: int) -> tuple[Floats, Floats]:
        topology, mesh = self._mesh.topology, self._mesh
        corners, group = self.corners[there], self.group[there]
        normal = mesh.face_normals[topology.corner_face[corners]]
        out = np.zeros((count, 3))
        np.add.at(out, group, normal)
        out = unit(out)
        first, second = np.zeros((count, 3)), np.zeros((count, 3))
        for own, into in ((corners, first), (topology.previous_corner[corners], second)):
            rim = split[topology.corner_edge[own]]
            into[group[rim]] = _inward(mesh, own[rim])
        # What lies inward of both edges by one: within their plane, the bisector made longer.
        cosine = (first * second).sum(axis=1)
        two = (np.abs(first).sum(axis=1) > 0) & (np.abs(second).sum(axis=1) > 0)
        longer = np.where(two, 1.0 / np.maximum(1 + cosine, 2 / _LONGEST**2), 1.0)
        return (first + second) * longer[:, None], out

    def limited(self, width: float) -> tuple[float, tuple[Note, ...]]:
        """The width at which no inner edge turns round, and a note where that is less."""
        topology = self._mesh.topology
        group = np.full(len(topology.corners), -1)
        group[self.corners] = self.group
        a, b = self.edges, topology.next_corner[self.edges]
        way = self._mesh.positions[topology.corners[b]] - self._mesh.positions[topology.corners[a]]
        long = np.linalg.norm(way, axis=1)
        ahead = np.divide(way, long[:, None], out=np.zeros_like(way), where=long[:, None] > 0)
        shorter = -((self.inward[group[b]] - self.inward[group[a]]) * ahead).sum(axis=1)
        tight = shorter > 1e-9
        most = float((long[tight] / shorter[tight]).min(initial=np.inf)) * _MOST
        if width <= most:
            return width, ()
        where = topology.corner_face[a[tight]][long[tight] / shorter[tight] < width]
        words = f"The width is limited to {most:.4g} mm, as wide as the faces allow."
        return most, (Note(words, Kind.FACE, np.unique(where).astype(np.int32)),)


def _inward(mesh: Mesh, corners: Ints) -> Floats:
    """(k, 3) within the face and square to the edge that starts at each corner."""
    topology = mesh.topology
    ends = mesh.positions[topology.corners[topology.next_corner[corners]]]
    along = ends - mesh.positions[topology.corners[corners]]
    return unit(np.cross(mesh.face_normals[topology.corner_face[corners]], along))


def _outward(mesh: Mesh, faces: Ints, vertices: Ints) -> Floats:
    """(k, 3) mean normals of a region's faces at vertices within it."""
    return vertex_normals(mesh, mesh.topology.corners_of(faces))[vertices]
