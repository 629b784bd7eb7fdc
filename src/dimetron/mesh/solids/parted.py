"""A mesh cut along a line drawn in a view, of which one side stays."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from dimetron.geometry.segments import nearest_on
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, Ints, Mask, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.solids.rings import distinct, merged
from dimetron.mesh.solids.stamped import stamped
from dimetron.mesh.solids.within import signed_area
from dimetron.mesh.topology import topology_of

#: How far a line is run out, in sizes of all there is; into how many pieces the circle there.
_OUT, _ARC = 4.0, 64
#: What lies no farther from an edge than this share of its face is on it.
_ON_EDGE = 1e-7


def parted(mesh: Mesh, line: Floats, view: AnyView, keep: Floats) -> Mesh:
    """What of a mesh lies on the same side of a line (n, 2) in a view's plane as the place ``keep``
    (2,). The line is run out straight beyond its ends. A closed mesh stays closed and becomes
    triangles; of an open one only the faces under the line change, and those go that are seen
    edge-on there. Raises MeshError."""
    side = _side(line, view.to_plane(mesh.positions), keep)
    if (mesh.topology.edge_face_count == 2).all():
        return stamped(mesh, [side], view, "inside")
    return _trimmed(mesh, shapely.Polygon(side), view)


def _side(line: Floats, plane: Floats, keep: Floats) -> Floats:
    """(m, 2) the region on the side of a line that has a place, as far as anything reaches."""
    every = np.concatenate([line, plane, keep[None]])
    middle = (every.min(axis=0) + every.max(axis=0)) / 2
    radius = _OUT * max(float(np.hypot(*np.ptp(every, axis=0))), 1e-9)
    start, end = _run_out(line[::-1], middle, radius), _run_out(line, middle, radius)
    whole = np.concatenate([start[None], line, end[None]])
    if not shapely.LineString(whole).is_simple:
        raise MeshError("Run out beyond its ends, this line crosses itself; let them point apart.")
    first, last = (float(np.arctan2(*(p - middle)[::-1])) for p in (start, end))
    turn = (first - last) % (2 * np.pi)
    for way in (turn, turn - 2 * np.pi):
        angles = last + np.linspace(0, way, _ARC)[1:-1]
        arc = middle + radius * np.stack([np.cos(angles), np.sin(angles)], axis=1)
        region = np.concatenate([whole, arc])
        if shapely.Polygon(region).contains(shapely.Point(keep)):
            return region
    raise MeshError("Click beside the line, on the side that is to stay.")


def _run_out(line: Floats, middle: Floats, radius: float) -> Floats:
    """(2,) where a line that goes on straight beyond its last place meets a circle round all."""
    end = line[-1]
    away = end - line[:-1]
    apart = np.flatnonzero(np.hypot(*away.T) > 1e-9)
    if not len(apart):
        raise MeshError("This line is a single place; draw it longer.")
    way = away[apart[-1]] / np.hypot(*away[apart[-1]])
    off = end - middle
    along = float(off @ way)
    reach = -along + float(np.sqrt(along * along - off @ off + radius * radius))
    return np.asarray(end + reach * way)


def _trimmed(mesh: Mesh, region: shapely.Polygon, view: AnyView) -> Mesh:
    """The faces of a mesh, and parts of faces, that lie in a region."""
    shapely.prepare(region)
    plane, topology = view.to_plane(mesh.positions), mesh.topology
    inside = shapely.contains_xy(region, plane[:, 0], plane[:, 1])
    held = np.add.reduceat(inside[topology.corners].astype(np.int32), topology.offsets[:-1])
    crossed = _crossed(mesh, plane, shapely.boundary(region))
    kept = (2 * held > topology.sizes) & ~crossed
    which = np.flatnonzero(crossed)
    points, rings = _cut_faces(mesh, plane, which, region)
    if not kept.any() and not rings:
        raise MeshError("Nothing of the mesh would be left.")
    beside = topology.corners[topology.corners_of(which.astype(np.int32))]
    return _joined(mesh, kept, beside, points, rings)


def _crossed(mesh: Mesh, plane: Floats, line: shapely.Geometry) -> Mask:
    """(f,) which faces lie under a line."""
    topology = mesh.topology
    at, starts = plane[topology.corners], topology.offsets[:-1]
    low, high = np.minimum.reduceat(at, starts), np.maximum.reduceat(at, starts)
    shapely.prepare(line)
    near = np.flatnonzero(shapely.intersects(line, shapely.box(*low.T, *high.T)))
    shown = [shapely.Polygon(plane[topology.face(k)]) for k in near.tolist()]
    crossed = np.zeros(topology.face_count, bool)
    crossed[near] = shapely.intersects(line, shown)
    return crossed


def _cut_faces(
    mesh: Mesh, plane: Floats, which: Ints, region: shapely.Polygon
) -> tuple[Floats, list[Ints]]:
    """What stays of the faces under the line: new points (m, 3), and rings of their numbers."""
    corners = [mesh.topology.face(k) for k in which.tolist()]
    parts = shapely.intersection([shapely.Polygon(plane[face]) for face in corners], region)
    points: list[Floats] = [np.empty((0, 3))]
    rings: list[Ints] = []
    count = 0
    for face, part in zip(corners, parts, strict=True):
        for piece in shapely.get_parts(part):
            if piece.geom_type != "Polygon" or piece.is_empty:
                continue
            ring = np.asarray(piece.exterior.coords)[:-1]
            if signed_area(ring) * signed_area(plane[face]) < 0:
                ring = ring[::-1]
            points.append(_lifted(ring, plane[face], mesh.positions[face]))
            rings.append(np.arange(count, count + len(ring)))
            count += len(ring)
    return np.concatenate(points), rings


def _lifted(places: Floats, ring: Floats, corners: Floats) -> Floats:
    """(m, 3) where places of the plane lie on a face: on its edges between their ends, which the
    face beyond says just as well; else on the plane nearest to it."""
    shares, off = nearest_on(places[:, None], ring, np.roll(ring, -1, axis=0))
    edge = off.argmin(axis=1)
    rows = np.arange(len(places))
    share = shares[rows, edge][:, None]
    at = corners[edge] * (1 - share) + np.roll(corners, -1, axis=0)[edge] * share
    known = np.column_stack([ring, np.ones(len(ring))])
    flat = np.linalg.lstsq(known, corners, rcond=None)[0]
    level = np.column_stack([places, np.ones(len(places))]) @ flat
    near = off[rows, edge] < _ON_EDGE * np.ptp(ring, axis=0).max()
    return np.asarray(np.where(near[:, None], at, level))


def _joined(mesh: Mesh, kept: Mask, beside: Ints, points: Floats, rings: Sequence[Ints]) -> Mesh:
    """The kept faces and rings of new points; those that lie where a corner of the cut faces
    (``beside``) does are that corner, and none is there twice."""
    topology = mesh.topology
    old = np.unique(beside)
    places, at = merged(np.concatenate([mesh.positions[old], points]))
    # Old ones come first: where one is, it is the number.
    number = np.full(len(places), -1)
    number[at[: len(old)]] = old
    new = number < 0
    number[new] = len(mesh.positions) + np.arange(int(new.sum()))
    own = number[at[len(old) :]]
    cut = [face for ring in rings if len(face := distinct(own[ring].tolist())) > 2]
    stay = topology.corners[kept[topology.corner_face]]
    sizes = np.concatenate([topology.sizes[kept], [len(face) for face in cut]]).astype(np.int64)
    corners = np.concatenate([stay, [v for face in cut for v in face]]).astype(np.int64)
    used, compact = np.unique(corners, return_inverse=True)
    every = np.concatenate([mesh.positions, places[new]])
    return Mesh(every[used], topology_of(sizes, compact, len(used)))
