"""Where points snap to in the 3D pane: vertices, middles, edges and faces of meshes."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from dimetron.app.tools import aim
from dimetron.app.tools.base import REACH_PX, BoardEvent
from dimetron.app.tools.bench import Shaping
from dimetron.app.tools.snap import Snapped
from dimetron.mesh import pick
from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.mesh import Mesh

#: So many of the nearest vertices, and edges, are looked at more closely.
_MOST = 4
#: What lies so little behind a surface, mm, lies on it.
_ON_IT_MM = 1e-3


class _Target(NamedTuple):
    """A mesh, and its vertices that are being moved."""

    mesh: Mesh
    moving: Ints | None


def on_surface(
    bench: Shaping, event: BoardEvent, point: Floats, without: tuple[str, Ints] | None = None
) -> Snapped:
    """Where a world point (3,), as it is seen, lies on a mesh: on a vertex, the middle of an edge
    or an edge within reach, else on the face behind it; in a shaded pane only on what is in sight.
    ``without`` names vertices of a mesh that are being moved; what is at them does not count."""
    if "vertex" not in bench.snaps:
        return Snapped(point, "")
    targets = [
        _Target(item.mesh, without[1] if without is not None and without[0] == item.id else None)
        for item in bench.committed.meshes
        if bench.committed.visible(item) and len(item.mesh.positions)
    ]
    x, y = event.camera.project(point).tolist()
    opaque = bench.shading(event.slot).opaque
    for found in _nearest(targets, event, (x, y)):
        if not opaque or _in_sight(targets, event, found.point):
            return found
    depth = _depth(targets, event, (x, y))
    if depth is None:
        return Snapped(point, "")
    return Snapped(aim.point_at(event, (x, y), depth), "face")


def _nearest(targets: list[_Target], event: BoardEvent, px: tuple[float, float]) -> list[Snapped]:
    """Vertices within reach, the nearest first, then middles of edges, then edges."""
    found: list[tuple[int, float, Snapped]] = []
    for mesh, moving in targets:
        near = pick.Near(mesh, event.camera, px, REACH_PX)
        moved = np.zeros(len(mesh.positions), bool)
        moved[moving if moving is not None else []] = True
        vertices = near.vertices()
        corners = mesh.positions[vertices[~moved[vertices]][:_MOST]]
        edges, places = near.edges()
        ends = mesh.topology.edges[edges]
        still = np.flatnonzero(~moved[ends].any(axis=1))[:_MOST]
        middles = mesh.positions[ends[still]].mean(axis=1)
        for rank, to, points in (
            (0, "vertex", corners),
            (1, "middle", middles),
            (2, "edge", places[still]),
        ):
            away = np.hypot(*(event.camera.project(points) - np.array(px)).T)
            found += [
                (rank, float(a), Snapped(p, to))
                for a, p in zip(away, points, strict=True)
                if a <= REACH_PX
            ]
    return [snapped for _, _, snapped in sorted(found, key=lambda one: one[:2])]


def _in_sight(targets: list[_Target], event: BoardEvent, point: Floats) -> bool:
    """Whether nothing that stays where it is lies before a point (3,)."""
    x, y = event.camera.project(point).tolist()
    depth = _depth(targets, event, (x, y))
    return depth is None or float(event.camera.depths(point)) <= depth + _ON_IT_MM


def _depth(targets: list[_Target], event: BoardEvent, px: tuple[float, float]) -> float | None:
    """How deep the first face behind a pixel lies."""
    kept = event.section.keeps if event.section is not None else None
    hits = [pick.face_at(mesh, event.camera, px, kept, moving) for mesh, moving in targets]
    return min((hit.depth for hit in hits if hit is not None), default=None)
