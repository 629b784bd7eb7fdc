"""What the smooth surface makes of the middle of a mesh whose sides are the same: a seam along
which it becomes flat, or a ridge, though the cage beside it is neither."""

from __future__ import annotations

from typing import NamedTuple
from weakref import WeakKeyDictionary

import numpy as np

from dimetron.counting import counted
from dimetron.mesh.around import corners_at
from dimetron.mesh.arrays import Floats, Ints, Mask, unit
from dimetron.mesh.edited import Edited, Note
from dimetron.mesh.evening import mirrored_points
from dimetron.mesh.findings import Finding
from dimetron.mesh.frames import WORLD
from dimetron.mesh.layers import CREASE, PEAK
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.offsets import vertex_normals
from dimetron.mesh.rings import straight_on
from dimetron.mesh.select import Kind, Selection

#: Vertices stand in the middle within this share of the mesh's extent.
_NEAR = 1e-5
#: Where the cage turns by so many degrees in two rows beside the seam, up to so many times as much
#: in one as in the other, the seam is flat if it turns by less than this share of that.
_LEAST_DEG, _MOST_DEG, _ALIKE, _FLAT = 4.0, 40.0, 3.0, 0.25
#: It is a ridge from so many degrees on, if it turns so many times as much as the cage beside it.
_RIDGE_DEG, _PINCHED = 30.0, 3.0

_known: WeakKeyDictionary[Mesh, dict[tuple[str, ...], tuple[Finding, ...]]] = WeakKeyDictionary()


class Seam(NamedTuple):
    """Vertices (k,) in the middle plane, the flat ones and the pinched ones; faces (f,) that lie in
    it, between both sides."""

    flat: Ints
    pinched: Ints
    walls: Ints


def seam_of(mesh: Mesh, axis: int) -> Seam:
    """The trouble along the seam in the plane through the origin square to an axis."""
    t, along = mesh.topology, mesh.positions[:, axis]
    middle = np.abs(along) <= _NEAR * max(float(np.ptp(mesh.bounds, axis=0).max()), 1e-9)
    walls = np.flatnonzero(np.logical_and.reduceat(middle[t.corners], t.offsets[:-1]))
    a, b = t.edges.T
    leaving = np.flatnonzero(middle[a] & (along[b] > 0) | middle[b] & (along[a] > 0))
    leaving = leaving[middle[t.edges[leaving]].sum(axis=1) == 1]
    ends = t.edges[leaving]
    seam = np.where(middle[ends[:, 0]], ends[:, 0], ends[:, 1])
    beside = np.where(middle[ends[:, 0]], ends[:, 1], ends[:, 0])
    onward = straight_on(t, leaving, beside)
    whole = (onward >= 0) & ~_sharp(mesh, middle)[seam]
    seam, beside, onward = seam[whole], beside[whole], onward[whole]
    far = t.edges[onward].sum(axis=1) - beside
    p, side = mesh.positions, _along_seam(mesh, seam, axis)
    at_seam = _turn(p[beside], p[seam], mirrored_points(p[beside], axis), side)
    by_side = _turn(p[far], p[beside], p[seam], side)
    further = straight_on(t, onward, far)
    farther = np.where(further >= 0, t.edges[further].sum(axis=1) - far, far)
    then = np.where(further >= 0, _turn(p[farther], p[far], p[beside], side), 0.0)
    flat = (by_side >= _LEAST_DEG) & (at_seam < _FLAT * by_side)
    # A plane with an edge beside it is meant so; what goes on turning is not.
    flat &= (then > by_side / _ALIKE) & (then < by_side * _ALIKE)
    flat &= np.maximum(then, by_side) <= _MOST_DEG
    pinched = (at_seam >= _RIDGE_DEG) & (at_seam > _PINCHED * by_side)
    return Seam(np.unique(seam[flat]), np.unique(seam[pinched]), walls.astype(np.int32))


def _along_seam(mesh: Mesh, seam: Ints, axis: int) -> Floats:
    """(k, 3) the way along the surface in the middle plane at vertices of the seam."""
    normals = vertex_normals(mesh, corners_at(mesh.topology, seam))
    return unit(np.cross(normals[seam], WORLD[axis]))


def _turn(a: Floats, b: Floats, c: Floats, side: Floats) -> Floats:
    """(k,) by how many degrees the way from a over b to c turns, as seen along ``side`` (k, 3):
    how it lies within the surface does not count."""
    first, second = (v - side * (v * side).sum(axis=1)[:, None] for v in (b - a, c - b))
    cosine = (unit(first) * unit(second)).sum(axis=1)
    return np.asarray(np.degrees(np.arccos(cosine.clip(-1, 1))))


def _sharp(mesh: Mesh, middle: Mask) -> Mask:
    """(n,) vertices where the seam is sharp because somebody said so."""
    sharp = np.zeros(len(mesh.positions), bool)
    crease, peak = mesh.layers.get(CREASE), mesh.layers.get(PEAK)
    if crease is not None:
        edges = mesh.topology.edges[crease.values > 0]
        sharp[edges[middle[edges].all(axis=1)]] = True
    if peak is not None:
        sharp |= peak.values > 0
    return sharp


def seam_findings(mesh: Mesh, axes: tuple[str, ...]) -> tuple[Finding, ...]:
    """What is to be said of the seams about axes; kept while the mesh is there."""
    kept = _known.setdefault(mesh, {})
    if axes not in kept:
        kept[axes] = tuple(one for axis in axes for one in _found(mesh, axis))
    return kept[axes]


def seams_left(before: Mesh, done: Edited, axes: tuple[str, ...]) -> tuple[Note, ...]:
    """What an operation left of that in the middle that was not there."""
    known = {one.name: len(one.where.indices) for one in seam_findings(before, axes)}
    return tuple(
        Note(f"{one.words[0].upper()}{one.words[1:]}.", one.where.kind, one.where.indices)
        for one in seam_findings(done.mesh, axes)
        if len(one.where.indices) > known.get(one.name, 0)
    )


def _found(mesh: Mesh, axis: str) -> list[Finding]:
    if not mesh.topology.face_count:
        return []
    seam = seam_of(mesh, "xyz".index(axis))
    name = axis.upper()
    told = (
        (f"wall-{axis}", f"walls at {name}", Kind.FACE, seam.walls, "delete",
         counted(len(seam.walls), "face lies", "faces lie") + f" in the middle of {name}"),
        (f"flat-{axis}", f"flat at {name}", Kind.VERTEX, seam.flat, "",
         f"the smooth surface is flat along the middle of {name} at "
         + counted(len(seam.flat), "vertex", "vertices")),
        (f"pinch-{axis}", f"ridge at {name}", Kind.VERTEX, seam.pinched, "",
         f"the smooth surface has a ridge along the middle of {name} at "
         + counted(len(seam.pinched), "vertex", "vertices")),
    )  # fmt: skip
    return [
        Finding(name, short, words, Selection(kind, where.astype(np.int32)), repair)
        for name, short, kind, where, repair, words in told
        if len(where)
    ]
