"""The place the pointer means, and how the other panes show it: lines, and marks."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from dimetron.geometry.camera import OrthoCamera, Ray
from dimetron.mesh.arrays import Floats
from dimetron.render.scene import PaneScene, PlaneItem

#: A direction seen this nearly end-on (its cosine to the paper) is a point there.
_END_ON = 1e-6


@dataclass(frozen=True, slots=True, eq=False)
class Place:
    """Where the pointer is in the world. point: on a surface, or any point of the line of sight;
    way (3,): that line's direction while the depth is not known, None on a surface. on_drawings
    (k, 3): where the line meets the drawings behind the place."""

    slot: str
    point: Floats
    way: Floats | None
    on_drawings: Floats


def pointed_place(scene: PaneScene, slot: str, ray: Ray, surface: Floats | None) -> Place | None:
    """What a ray of a pane means: the surface point if a mesh is met, else in a flat pane the line
    of sight, in 3D the nearest drawing's point together with that drawing's line of sight."""
    hits = _drawing_hits(scene, ray)
    flat = isinstance(scene.camera, OrthoCamera)
    if surface is not None:
        start = float((surface - ray.origin) @ ray.direction)
        behind = [point for along, point, _ in hits if flat or along > start]
        return Place(slot, surface, None, np.array(behind[:1]).reshape(-1, 3))
    if flat:
        on = np.array([point for _, point, _ in hits[:1]]).reshape(-1, 3)
        return Place(slot, ray.origin, ray.direction, on)
    if not hits:
        return None
    _, point, plane = hits[0]
    return Place(slot, point, _normal(plane), point[None])


def _drawing_hits(scene: PaneScene, ray: Ray) -> list[tuple[float, Floats, PlaneItem]]:
    """Where a ray meets the drawings of a pane, nearest first."""
    hits = []
    for plane in scene.planes:
        corner, across, down = plane.corners[0], *_edges(plane)
        normal = np.cross(across, down)
        slope = float(ray.direction @ normal)
        if abs(slope) < 1e-12 * float(np.linalg.norm(normal)):
            continue
        along = float((corner - ray.origin) @ normal) / slope
        point = ray.origin + along * ray.direction
        u, v = np.linalg.lstsq(np.stack([across, down], axis=1), point - corner, rcond=None)[0]
        if along > 0 and 0 <= u <= 1 and 0 <= v <= 1:
            hits.append((along, point, plane))
    return sorted(hits, key=lambda hit: hit[0])


def _edges(plane: PlaneItem) -> tuple[Floats, Floats]:
    return plane.corners[1] - plane.corners[0], plane.corners[3] - plane.corners[0]


def _normal(plane: PlaneItem) -> Floats:
    across, down = _edges(plane)
    normal = np.cross(across, down)
    return np.asarray(normal / np.linalg.norm(normal))


def thrown_lines(scenes: Mapping[str, PaneScene], place: Place) -> dict[str, Floats]:
    """Lines (n, 2, 2 pane pixels) that the place throws straight across the other flat panes; in
    the 3D pane the line of sight, while the depth is not known."""
    thrown = {}
    for slot, scene in scenes.items():
        if slot == place.slot:
            continue
        camera = scene.camera
        if not isinstance(camera, OrthoCamera):
            if place.way is not None:
                ends = place.point + np.outer(_reach(scene, place), place.way)
                thrown[slot] = camera.project(ends)[None]
            continue
        x, y = camera.project(place.point)
        w, h = camera.size
        cross = np.array([[[x, 0.0], [x, h]], [[0.0, y], [w, y]]])
        if place.way is None:
            thrown[slot] = cross
            continue
        way = camera.view.to_plane(place.way)
        if np.hypot(*way) < _END_ON:
            thrown[slot] = cross
        elif abs(way[0]) < _END_ON or abs(way[1]) < _END_ON:
            thrown[slot] = cross[:1] if abs(way[0]) < _END_ON else cross[1:]
        else:
            far = (w + h) / np.hypot(*way) * way * (1, -1)
            near = np.array([x, y])
            thrown[slot] = np.stack([near - _slid(near, far, w, h), near + far])[None]
    return thrown


def _slid(near: Floats, far: Floats, w: float, h: float) -> Floats:
    """Far enough back that the line runs across the whole pane wherever its point lies."""
    away = np.abs(near - [w / 2, h / 2]).sum()
    return far * (1 + away / (w + h))


def _reach(scene: PaneScene, place: Place) -> Floats:
    """(2,) from where to where along the line of sight, about what the pane shows."""
    assert place.way is not None
    camera = scene.camera
    target = np.array(camera.focus if isinstance(camera, OrthoCamera) else camera.target)
    middle = float((target - place.point) @ place.way)
    return np.array([middle - scene.half_depth / 2, middle + scene.half_depth / 2])


def marks(scenes: Mapping[str, PaneScene], place: Place) -> dict[str, tuple[Floats, Floats]]:
    """For each other pane: the place itself (n, 2 pane pixels) where it is known, and the places on
    drawings behind it (m, 2)."""
    found = {}
    for slot, scene in scenes.items():
        if slot == place.slot:
            continue
        camera = scene.camera
        point = camera.project(place.point)[None] if place.way is None else np.zeros((0, 2))
        flat = isinstance(camera, OrthoCamera)
        behind = np.zeros((0, 2)) if flat else camera.project(place.on_drawings)
        found[slot] = point, np.asarray(behind).reshape(-1, 2)
    return found
