"""What a pointer means: which drawing or mesh is under it, and where it snaps to."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from dimetron.app.tools.base import REACH_PX, Bench, BoardEvent
from dimetron.document.model import Document, Drawing, MeshObject
from dimetron.geometry.camera import OrthoCamera
from dimetron.geometry.graduation import graduation, snapped
from dimetron.mesh import pick, select
from dimetron.mesh.mesh import Floats, Ints
from dimetron.mesh.select import Kind
from dimetron.render.scene import Shading


def drawing_at(doc: Document, event: BoardEvent) -> Drawing | None:
    """The topmost shown drawing under the pointer that is not held."""
    hits = []
    for order, drawing in enumerate(doc.planes):
        if not drawing.shown or drawing.held or event.view not in (None, drawing.view):
            continue
        depth = _depth_on_plane(doc, drawing, event)
        if depth is not None:
            hits.append((depth if event.view is None else 0.0, -order, drawing))
    return min(hits, key=lambda hit: hit[:2])[2] if hits else None


def _depth_on_plane(doc: Document, drawing: Drawing, event: BoardEvent) -> float | None:
    """Distance along the pointer's ray to where it meets the picture; None if it misses."""
    ray = event.camera.ray(event.px)
    forward = drawing.view.frame.forward
    slope = float(ray.direction @ forward)
    if abs(slope) < 1e-9:
        return None
    along = (drawing.placement.stand_off_mm - float(ray.origin @ forward)) / slope
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
    for item in doc.meshes:
        if item.shown and not item.held:
            hit = pick.face_at(pick.projected(item.mesh, event.camera), event.px)
            if hit is not None and (best is None or hit.depth < best[0]):
                best = hit.depth, item, hit.face
    if best is None:
        return None
    ray = event.camera.ray(event.px)
    start = event.camera.depths(ray.origin)
    along = (best[0] - float(start)) / float(ray.direction @ event.camera.forward)
    return MeshHit(best[1], best[2], ray.origin + along * ray.direction)


class PartHit(NamedTuple):
    part: int
    point: Floats


def part_at(bench: Bench, item: MeshObject, kind: Kind, event: BoardEvent) -> PartHit | None:
    """The part of a mesh under the pointer; in a solid pane only what is in sight."""
    seen = pick.projected(item.mesh, event.camera)
    if kind is Kind.FACE:
        hit = mesh_at(bench.document, event)
        return PartHit(hit.face, hit.point) if hit and hit.item.id == item.id else None
    if kind is Kind.VERTEX:
        near = pick.vertices_near(seen, event.px, REACH_PX)
        points = item.mesh.positions[near]
    else:
        near, points = pick.edges_near(seen, event.px, REACH_PX)
    if not len(near):
        return None
    if bench.shading(event.slot) is Shading.SOLID:
        facing = pick.facing_vertices if kind is Kind.VERTEX else pick.facing_edges
        in_sight = facing(seen)[near] & bench.in_sight(event.slot, points)
        near, points = near[in_sight], points[in_sight]
    return PartHit(int(near[0]), points[0]) if len(near) else None


def parts_in_box(
    bench: Bench,
    item: MeshObject,
    kind: Kind,
    event: BoardEvent,
    low: tuple[float, float],
    high: tuple[float, float],
) -> Ints:
    """Vertices in a pane box; edges and faces that lie wholly in it."""
    mesh = item.mesh
    seen = pick.projected(mesh, event.camera)
    inside = pick.in_box(seen.px, low, high)
    if bench.shading(event.slot) is Shading.SOLID:
        inside &= pick.facing_vertices(seen) & bench.in_sight(event.slot, mesh.positions)
    vertices = np.flatnonzero(inside).astype(np.int32)
    return select.converted(mesh, Kind.VERTEX, vertices, kind)


class Snapped(NamedTuple):
    point: Floats
    to: str  # "vertex", "grid" or ""


def snap(
    bench: Bench, event: BoardEvent, point: Floats, without: tuple[str, Ints] | None = None
) -> Snapped:
    """Where a world point (3,) under the pointer snaps to in an orthographic pane.

    Only the two axes that the pane shows move. ``without`` names vertices of a mesh that are
    being moved and do not count.
    """
    camera = event.camera
    if not isinstance(camera, OrthoCamera):
        return Snapped(point, "")
    axes = list(camera.view.axes)
    if "vertex" in bench.snaps:
        found = _nearest_vertex(bench, event, point, without)
        if found is not None:
            target = point.copy()
            target[axes] = found[axes]
            return Snapped(target, "vertex")
    if "grid" in bench.snaps:
        step = graduation(camera.mm_per_px, bench.document.unit).fine
        target = point.copy()
        for axis in axes:
            target[axis] = snapped(float(point[axis]), step)
        return Snapped(target, "grid")
    return Snapped(point, "")


def _nearest_vertex(
    bench: Bench, event: BoardEvent, point: Floats, without: tuple[str, Ints] | None
) -> Floats | None:
    at = event.camera.project(point)
    best, found = REACH_PX, None
    for item in bench.committed.meshes:
        if not item.shown or not len(item.mesh.positions):
            continue
        away = np.hypot(*(event.camera.project(item.mesh.positions) - at).T)
        if without is not None and item.id == without[0]:
            away[without[1]] = np.inf
        nearest = int(np.argmin(away))
        if away[nearest] < best:
            best, found = float(away[nearest]), item.mesh.positions[nearest]
    return found
