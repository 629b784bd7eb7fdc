"""A mesh cut along a line drawn in a view, of which one side stays."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, Ints, Mask, MeshError
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.solids.rings import distinct, merged
from dimetron.mesh.solids.stamped import stamped

#: How far a line is run out, in sizes of all there is; into how many pieces the circle there.
_OUT, _ARC = 4.0, 64
#: Faces that a view shows at less than this share of their size are seen edge-on.
_EDGE_ON = 1e-6


def parted(mesh: Mesh, line: Floats, view: AnyView, keep: Floats) -> Mesh:
    """What of a mesh lies on the same side of a line (n, 2) in a view's plane as the place ``keep``
    (2,). The line is run out straight beyond its ends. A closed mesh stays closed and becomes
    triangles; of an open one only the faces under the line change. Raises MeshError."""
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
    plane = view.to_plane(mesh.positions)
    topology = mesh.topology
    faces = [
        topology.corners[a:b]
        for a, b in zip(topology.offsets[:-1], topology.offsets[1:], strict=True)
    ]
    inside = shapely.contains_xy(region, plane[:, 0], plane[:, 1])
    share = np.add.reduceat(inside[topology.corners].astype(np.float64), topology.offsets[:-1])
    sizes = np.diff(topology.offsets)
    shown = shapely.polygons(shapely.linearrings(_rings(plane, faces), indices=_ring_of(sizes)))
    crossed = shapely.intersects(shapely.boundary(region), shown) & ~_edge_on(mesh, shown)
    whole = np.where(crossed, False, share * 2 > sizes)
    kept = [face.tolist() for face, stays in zip(faces, whole, strict=True) if stays]
    points, cut = _cut_faces(mesh, plane, faces, np.flatnonzero(crossed), shown, region)
    if not kept and not cut:
        raise MeshError("Nothing of the mesh would be left.")
    return _joined(np.concatenate([mesh.positions, points]), [*kept, *cut])


def _rings(plane: Floats, faces: Sequence[Ints]) -> Floats:
    return np.asarray(plane[np.concatenate([np.append(face, face[0]) for face in faces])])


def _ring_of(sizes: Ints) -> Ints:
    return np.repeat(np.arange(len(sizes)), sizes + 1)


def _edge_on(mesh: Mesh, shown: Sequence[shapely.Polygon]) -> Mask:
    low, high = mesh.bounds
    size = float(np.hypot(*(high - low)[:2]) + (high - low)[2])
    return np.asarray(shapely.area(shown) < _EDGE_ON * _EDGE_ON * size * size)


def _cut_faces(
    mesh: Mesh,
    plane: Floats,
    faces: Sequence[Ints],
    which: Ints,
    shown: Sequence[shapely.Polygon],
    region: shapely.Polygon,
) -> tuple[Floats, list[list[int]]]:
    """New points (m, 3), and what stays of the faces under the line, numbered on after the mesh's
    own."""
    points: list[Floats] = [np.empty((0, 3))]
    found: list[list[int]] = []
    count = len(mesh.positions)
    parts = shapely.intersection([shown[k] for k in which], region)
    for number, part in zip(which.tolist(), parts, strict=True):
        corners = faces[number]
        for piece in shapely.get_parts(part):
            if piece.geom_type != "Polygon" or piece.is_empty:
                continue
            ring = np.asarray(piece.exterior.coords)[:-1]
            if _area(ring) * _area(plane[corners]) < 0:
                ring = ring[::-1]
            points.append(_lifted(ring, plane[corners], mesh.positions[corners]))
            found.append(list(range(count, count + len(ring))))
            count += len(ring)
    return np.concatenate(points), found


def _area(ring: Floats) -> float:
    x, y = ring.T
    return float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum())


def _lifted(places: Floats, ring: Floats, corners: Floats) -> Floats:
    """(m, 3) where places of the plane lie on a face: on its edges between their ends, which the
    face beyond says just as well; else on the plane nearest to it."""
    on = np.roll(ring, -1, axis=0) - ring
    long = np.maximum((on * on).sum(axis=1), 1e-24)
    away = places[:, None] - ring
    t = np.clip((away * on).sum(axis=2) / long, 0, 1)
    off = np.hypot(*(away - t[..., None] * on).transpose(2, 0, 1))
    edge = off.argmin(axis=1)
    rows = np.arange(len(places))
    share = t[rows, edge][:, None]
    at = corners[edge] * (1 - share) + np.roll(corners, -1, axis=0)[edge] * share
    known = np.column_stack([ring, np.ones(len(ring))])
    flat = np.linalg.lstsq(known, corners, rcond=None)[0]
    level = np.column_stack([places, np.ones(len(places))]) @ flat
    near = off[rows, edge] < 1e-7 * np.sqrt(long.max())
    return np.asarray(np.where(near[:, None], at, level))


def _joined(points: Floats, faces: Sequence[Sequence[int]]) -> Mesh:
    """A mesh without points that lie in one place or belong to no face."""
    places, at = merged(points)
    rings = [distinct(at[list(face)].tolist()) for face in faces]
    rings = [ring for ring in rings if len(ring) > 2]
    used, numbers = np.unique(np.concatenate(rings), return_inverse=True)
    ends = np.cumsum([len(ring) for ring in rings])[:-1]
    return from_faces(places[used], [part.tolist() for part in np.split(numbers, ends)])
