"""What a pointer means: which item is under it."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from dimetron.app.tools.base import REACH_PX, BoardEvent
from dimetron.app.tools.bench import Shaping
from dimetron.document.edits import stand_off
from dimetron.document.kind import lined_items, lines_of
from dimetron.document.model import Document, Drawing, Item, MeshObject
from dimetron.geometry.segments import nearest_on
from dimetron.mesh import pick, select
from dimetron.mesh.arrays import Floats, Ints, Mask
from dimetron.mesh.select import Kind
from dimetron.mesh.spots import Spot, spot_on


def in_reach(doc: Document, item: Item) -> bool:
    """Whether an item is shown and not held, so that the pointer can be on it."""
    return doc.visible(item) and doc.free(item)


def drawing_at(doc: Document, event: BoardEvent) -> Drawing | None:
    """The topmost shown drawing under the pointer that is not held."""
    hits = []
    for order, drawing in enumerate(doc.planes):
        if not in_reach(doc, drawing):
            continue
        if event.view not in (None, drawing.view):
            continue
        depth = _depth_on_plane(doc, drawing, event)
        if depth is not None:
            hits.append((depth if event.view is None else 0.0, -order, drawing))
    return min(hits, key=lambda hit: hit[:2])[2] if hits else None


def _depth_on_plane(doc: Document, drawing: Drawing, event: BoardEvent) -> float | None:
    """Distance along the pointer's ray to where it meets the picture; None if it misses."""
    ray = event.camera.ray(event.px)
    forward = drawing.view.directions.forward
    slope = float(ray.direction @ forward)
    if abs(slope) < 1e-9:
        return None
    along = (stand_off(doc, drawing) - float(ray.origin @ forward)) / slope
    if along < 0:
        return None
    hit = ray.origin + along * ray.direction
    x, y = drawing.placement.to_px(drawing.view.to_plane(hit))
    w, h = doc.size_px(drawing)
    return along if 0 <= x <= w and 0 <= y <= h else None


def picture_px(drawing: Drawing, event: BoardEvent) -> tuple[float, float]:
    """The drawing's pixel under the pointer of a pane that shows its view."""
    x, y = drawing.placement.to_px(drawing.view.to_plane(event.point))
    return float(x), float(y)


class MeshHit(NamedTuple):
    """The nearest mesh under the pointer, its face, and the surface point (3,)."""

    item: MeshObject
    face: int
    point: Floats


def mesh_at(doc: Document, event: BoardEvent) -> MeshHit | None:
    """The nearest shown mesh that is not held."""
    best: tuple[float, MeshObject, int] | None = None
    kept = event.section.keeps if event.section is not None else None
    for item in doc.meshes:
        if in_reach(doc, item):
            hit = pick.face_at(item.mesh, event.camera, event.px, kept)
            if hit is not None and (best is None or hit.depth < best[0]):
                best = hit.depth, item, hit.face
    if best is None:
        return None
    return MeshHit(best[1], best[2], point_at(event, event.px, best[0]))


def point_at(event: BoardEvent, px: tuple[float, float], depth: float) -> Floats:
    """The world point (3,) so deep behind a pixel."""
    ray = event.camera.ray(px)
    start = event.camera.depths(ray.origin)
    along = (depth - float(start)) / float(ray.direction @ event.camera.forward)
    return np.asarray(ray.origin + along * ray.direction)


def chosen_or_at(bench: Shaping, event: BoardEvent) -> MeshObject | None:
    """The chosen mesh, else the one under the pointer, which is chosen then."""
    if bench.chosen_mesh is None:
        hit = mesh_at(bench.document, event)
        if hit is None:
            return None
        bench.choose((hit.item.id,))
    return bench.chosen_mesh


class PartHit(NamedTuple):
    part: int
    point: Floats


def part_at(bench: Shaping, item: MeshObject, kind: Kind, event: BoardEvent) -> PartHit | None:
    """The part of a mesh under the pointer; in a solid pane only what is in sight."""
    if kind is Kind.FACE:
        hit = mesh_at(bench.document, event)
        return PartHit(hit.face, hit.point) if hit and hit.item.id == item.id else None
    near, points = parts_near(bench, item, kind, event)
    return PartHit(int(near[0]), points[0]) if len(near) else None


def vertex_at(bench: Shaping, event: BoardEvent) -> tuple[MeshObject, PartHit] | None:
    """The vertex under the pointer, of the mesh there, else of the chosen one, else of any: those
    at a mesh's rim are within reach from beside it."""
    doc, hit, chosen = bench.document, mesh_at(bench.document, event), bench.chosen_mesh
    first = [] if hit is None else [hit.item]
    if chosen is not None and in_reach(doc, chosen):
        first.append(chosen)
    for item in (*first, *(m for m in doc.meshes if in_reach(doc, m))):
        part = part_at(bench, item, Kind.VERTEX, event)
        if part is not None:
            return item, part
    return None


def spot_at(bench: Shaping, event: BoardEvent) -> tuple[MeshObject, Spot, Floats] | None:
    """The vertex under the pointer, else the place on the surface; and where that is (3,)."""
    vertex = vertex_at(bench, event)
    if vertex is not None:
        return vertex[0], Spot((vertex[1].part,)), vertex[1].point
    hit = mesh_at(bench.document, event)
    if hit is None:
        return None
    return hit.item, spot_on(hit.item.mesh, hit.face, hit.point), hit.point


def parts_near(
    bench: Shaping, item: MeshObject, kind: Kind, event: BoardEvent
) -> tuple[Ints, Floats]:
    """Vertices or edges (k,) of a mesh within reach of the pointer, the nearest first, and where
    they are (k, 3); in a solid pane only what is in sight."""
    around = pick.Near(item.mesh, event.camera, event.px, REACH_PX)
    if kind is Kind.VERTEX:
        near = around.vertices()
        points = item.mesh.positions[near]
    else:
        near, points = around.edges()
    if not len(near):
        return near, points
    if event.section is not None:
        there = event.section.keeps(points)
        near, points = near[there], points[there]
    if bench.shading(event.slot).opaque:
        facing = around.facing_vertices if kind is Kind.VERTEX else around.facing_edges
        in_sight = facing(near) & bench.in_sight(event.slot, points)
        near, points = near[in_sight], points[in_sight]
    return near, points


def parts_where(
    bench: Shaping,
    item: MeshObject,
    kind: Kind,
    event: BoardEvent,
    taking: Callable[[Floats], Mask],
) -> Ints:
    """Vertices whose pixels (n, 2) in a pane are taken; edges and faces that lie wholly there."""
    mesh = item.mesh
    px = event.camera.project(mesh.positions)
    inside = taking(px)
    if event.section is not None:
        inside &= event.section.keeps(mesh.positions)
    if bench.shading(event.slot).opaque:
        inside &= pick.facing_vertices(mesh.topology, px) & bench.in_sight(
            event.slot, mesh.positions
        )
    vertices = np.flatnonzero(inside).astype(np.int32)
    return select.converted(mesh, Kind.VERTEX, vertices, kind)


def lined_at(doc: Document, event: BoardEvent) -> Item | None:
    """What is drawn with lines, of which one runs nearest to the pointer, within reach."""
    best, found = REACH_PX, None
    forward = event.camera.forward if event.view is not None else None
    for item in lined_items(doc):
        if not in_reach(doc, item):
            continue
        for line in lines_of(item, forward):
            away = away_from_path(event.camera.project(line), np.array(event.px))
            if away < best:
                best, found = away, item
    return found


def away_from_path(path: Floats, at: Floats) -> float:
    """Distance in pixels of a point (2,) from a polyline (n, 2)."""
    return float(nearest_on(at, path[:-1], path[1:])[1].min())
