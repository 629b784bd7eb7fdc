"""Where points and whole pictures snap to in a flat pane, and the lines that show it."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from dimetron.app.tools.base import REACH_PX, BoardEvent
from dimetron.app.tools.bench import Shaping
from dimetron.document.aligning import extent_on_paper
from dimetron.document.guide import guides_of
from dimetron.document.model import Document, Drawing
from dimetron.document.outline import outlines_of, world_lines
from dimetron.geometry.camera import OrthoCamera
from dimetron.geometry.graduation import graduation, snapped
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.pick import Near
from dimetron.outlines.meets import crossings_near, touched
from dimetron.render.overlays import Marks, Overlay, Strokes

#: How far a line that shows a snap runs beyond what it snaps to, in pixels.
_GUIDE_PX = 4000.0
#: Guide circles are this many straight pieces where lines touch them.
_ROUND = 1441


class Snapped(NamedTuple):
    """to: "vertex", "middle" or "edge" of a mesh, "crossing", "guide", "axis", "drawing",
    "landmark", "grid" or "". guides: what shows it."""

    point: Floats
    to: str
    guides: tuple[Overlay, ...] = ()


def snap(
    bench: Shaping,
    event: BoardEvent,
    point: Floats,
    without: tuple[str, Ints] | None = None,
    skip: frozenset[str] = frozenset(),
) -> Snapped:
    """Where a world point (3,) under the pointer snaps to in an orthographic pane.

    It only moves in the pane's plane. ``without`` names vertices of a mesh, or points of an
    outline, that are being moved and do not count, ``skip`` drawings that do not.
    """
    camera = event.camera
    if not isinstance(camera, OrthoCamera):
        return Snapped(point, "")
    if "vertex" in bench.snaps:
        found = _nearest_vertex(bench, event, point, without)
        if found is not None:
            way = camera.view.to_plane(found - point)
            return Snapped(point + camera.view.to_world(way), "vertex")
        edge = _nearest_edge(bench, event, point, without)
        if edge is not None:
            way = camera.view.to_plane(edge.point - point)
            return Snapped(point + camera.view.to_world(way), edge.to)
    at = camera.view.to_plane(point)
    crossing = _nearest_crossing(bench, camera, at, "" if without is None else without[0])
    if crossing is not None:
        there = point + camera.view.to_world(crossing - at)
        return Snapped(there, "crossing", (Marks(there[None], "cross", "accent", 8.0),))
    ring = _on_circle(bench, event, at, REACH_PX * camera.mm_per_px)
    if ring is not None:
        return Snapped(point + camera.view.to_world(ring - at), "guide")
    by, to, guides = snapped_by(bench, event, np.stack([at, at]), skip)
    return Snapped(point + camera.view.to_world(by), to, guides)


def snapped_by(
    bench: Shaping, event: BoardEvent, extent: Floats, skip: frozenset[str] = frozenset()
) -> tuple[Floats, str, tuple[Overlay, ...]]:
    """By how much (2,) an extent (2, 2: low and high in the view plane) moves so that one of its
    edges or its middle snaps, on each side by itself; what it snaps to, and the guides."""
    camera = event.camera
    by, best_to, guides = np.zeros(2), "", []
    if not isinstance(camera, OrthoCamera):
        return by, "", ()
    reach = REACH_PX * camera.mm_per_px
    for side in (0, 1):
        own = np.unique([extent[0, side], extent[:, side].mean(), extent[1, side]])
        targets = _targets(bench, camera.view, side, skip)
        if "grid" in bench.snaps and not _near(own, targets, reach):
            step = graduation(camera.mm_per_px, bench.document.unit).fine
            targets = [(snapped(float(own[0]), step), "grid")]
            own = own[:1]
            reach_here = np.inf
        else:
            reach_here = reach
        found = _near(own, targets, reach_here)
        if found is None:
            continue
        by[side], at, to = found
        best_to = to if best_to in ("", "grid") else best_to
        if to != "grid":
            guides.append(_guide(camera, side, at))
    return by, best_to, tuple(guides)


def _near(
    own: Floats, targets: list[tuple[float, str]], reach: float
) -> tuple[float, float, str] | None:
    """The smallest move of a line onto a target, within reach: the move, the target, its kind."""
    if not targets:
        return None
    values = np.array([value for value, _ in targets])
    moves = values[None, :] - own[:, None]
    line, target = np.unravel_index(int(np.argmin(np.abs(moves))), moves.shape)
    if abs(moves[line, target]) > reach:
        return None
    return float(moves[line, target]), targets[target][0], targets[target][1]


def _targets(
    bench: Shaping, view: AnyView, side: int, skip: frozenset[str]
) -> list[tuple[float, str]]:
    """View-plane coordinates on one side of the paper that lines snap to."""
    found = [(value, "guide") for value in _guides(bench.committed, view, side)]
    if "axis" in bench.snaps:
        found.append((0.0, "axis"))
    if "drawing" in bench.snaps:
        doc = bench.committed
        for drawing in doc.planes:
            if drawing.id not in skip and doc.visible(drawing):
                found += [(value, "drawing") for value in _lines_of(doc, drawing, view, side)]
    if "landmark" in bench.snaps:
        found += [(value, "landmark") for value in _landmarks(bench.committed, view, side, skip)]
    return found


def _guides(doc: Document, view: AnyView, side: int) -> list[float]:
    """Where guide lines stand on a side of a view's paper."""
    axis, sign = view.paper_axes[side], view.paper_signs[side]
    return [
        guide.at * sign
        for guide in guides_of(doc)
        if guide.axis == axis and not guide.radius and doc.visible(guide)
    ]


def _nearest_crossing(
    bench: Shaping, camera: OrthoCamera, at: Floats, without: str
) -> Floats | None:
    """The nearest crossing of outlines with one another, with guide lines and with axes, within
    reach of a place of the view's plane; guide lines are snapped to always."""
    if "vertex" not in bench.snaps:
        return None
    doc, view, reach = bench.committed, camera.view, REACH_PX * camera.mm_per_px
    lines = _outlines_in(doc, view, without)
    if not lines:
        return None
    for side in (0, 1):
        upright = _guides(doc, view, side) + ([0.0] if "axis" in bench.snaps else [])
        for value in upright:
            line = np.stack([at, at])
            line[:, side] = value
            line[:, 1 - side] += (-2 * reach, 2 * reach)
            lines.append(line)
    found = crossings_near(lines, at, reach)
    if not len(found):
        return None
    return np.asarray(found[int(np.argmin(np.hypot(*(found - at).T)))])


def _outlines_in(doc: Document, view: AnyView, without: str = "") -> list[Floats]:
    """The outlines of a view as polylines in its plane."""
    return [
        view.to_plane(line)
        for outline in outlines_of(doc)
        if outline.view == view and outline.id != without and doc.visible(outline)
        for line in world_lines(outline)
    ]


def met(bench: Shaping, event: BoardEvent, start: Floats) -> tuple[Floats, str] | None:
    """Where a straight line from a place of the view's plane touches an outline or a guide circle
    near the pointer ("touches"), or meets it squarely ("square")."""
    camera = event.camera
    if not isinstance(camera, OrthoCamera):
        return None
    doc, view = bench.committed, camera.view
    lines = _outlines_in(doc, view)
    for guide in guides_of(doc):
        if guide.radius and guide.view == view and doc.visible(guide):
            angle = np.linspace(0, 2 * np.pi, _ROUND)
            ring = np.stack([np.cos(angle), np.sin(angle)], axis=1)
            ring[-1] = ring[0]
            lines.append(np.array(guide.centre) + guide.radius * ring)
    return touched(lines, start, view.to_plane(event.point), REACH_PX * camera.mm_per_px)


def _on_circle(bench: Shaping, event: BoardEvent, at: Floats, reach: float) -> Floats | None:
    """The place of a guide circle nearest to one of a view's plane, within reach."""
    best, found = reach, None
    for guide in guides_of(bench.committed):
        if not guide.radius or guide.view != event.view or not bench.committed.visible(guide):
            continue
        away = at - np.array(guide.centre)
        long = float(np.hypot(*away))
        if long > 0 and abs(long - guide.radius) < best:
            best = abs(long - guide.radius)
            found = np.array(guide.centre) + away * guide.radius / long
    return found


def _landmarks(doc: Document, view: AnyView, side: int, skip: frozenset[str]) -> list[float]:
    """Where landmarks are marked in drawings, as coordinates on a side of a view's paper."""
    found = []
    for mark in doc.sightings:
        drawing = doc.item(mark.picture)
        if not isinstance(drawing, Drawing) or drawing.id in skip or not doc.visible(drawing):
            continue
        own = _side_in(drawing, view, side)
        if own is not None:
            at, sign = own
            found.append(float(drawing.placement.to_plane(mark.px)[at]) * sign)
    return found


def _side_in(drawing: Drawing, view: AnyView, side: int) -> tuple[int, int] | None:
    """The side of a drawing's paper along which a side of a view's counts, and +1 or -1 for the
    same or the other direction; None if it does not show that axis."""
    if drawing.view == view:
        return side, 1
    axis = view.paper_axes[side]
    if axis is None or axis not in drawing.view.paper_axes:
        return None
    own = drawing.view.paper_axes.index(axis)
    return own, view.paper_signs[side] * drawing.view.paper_signs[own]


def _lines_of(doc: Document, drawing: Drawing, view: AnyView, side: int) -> list[float]:
    """Edges and middle of a drawing, as coordinates on a side of a view's paper."""
    found = _side_in(drawing, view, side)
    if found is None:
        return []
    own, sign = found
    low, high = extent_on_paper(doc, drawing)[:, own]
    return [float(low) * sign, float(low + high) / 2 * sign, float(high) * sign]


def _guide(camera: OrthoCamera, side: int, at: float) -> Overlay:
    ends = np.zeros((2, 2))
    ends[:, side] = at
    middle = camera.view.to_plane(np.array(camera.focus))[1 - side]
    ends[:, 1 - side] = middle + np.array([-1, 1]) * _GUIDE_PX * camera.mm_per_px
    return Strokes(camera.view.to_world(ends), "accent", 1.2, dash=3.0, only=camera.view)


def _nearest_edge(
    bench: Shaping, event: BoardEvent, point: Floats, without: tuple[str, Ints] | None
) -> Snapped | None:
    """The nearest place on an edge of a mesh, within reach; its middle, where that is near too.
    Edges that lead to what is moved do not count."""
    at = event.camera.project(point)
    best, found = REACH_PX, None
    for item in bench.committed.meshes:
        if not bench.committed.visible(item) or not len(item.mesh.positions):
            continue
        near, places = Near(item.mesh, event.camera, (float(at[0]), float(at[1])), best).edges()
        ends = item.mesh.topology.edges[near]
        if without is not None and item.id == without[0]:
            still = ~np.isin(ends, without[1]).any(axis=1)
            ends, places = ends[still], places[still]
        if not len(places):
            continue
        best = float(np.hypot(*(event.camera.project(places[0]) - at)))
        middle = item.mesh.positions[ends[0]].mean(axis=0)
        caught = float(np.hypot(*(event.camera.project(middle) - at))) <= REACH_PX
        found = Snapped(middle, "middle") if caught else Snapped(places[0], "edge")
    return found


def _nearest_vertex(
    bench: Shaping, event: BoardEvent, point: Floats, without: tuple[str, Ints] | None
) -> Floats | None:
    at = event.camera.project(point)
    best, found = REACH_PX, None
    doc = bench.committed
    for outline in outlines_of(doc):
        if outline.view != event.view or not doc.visible(outline):
            continue
        points = outline.view.to_world(outline.path.points, outline.depth)
        if without is not None and outline.id == without[0]:
            points = np.delete(points, without[1], axis=0)
        away = np.hypot(*(event.camera.project(points) - at).T)
        if len(away) and away.min() < best:
            best, found = float(away.min()), points[int(np.argmin(away))]
    for item in doc.meshes:
        if not doc.visible(item) or not len(item.mesh.positions):
            continue
        around = Near(item.mesh, event.camera, (float(at[0]), float(at[1])), best).vertices()
        if without is not None and item.id == without[0]:
            around = around[~np.isin(around, without[1])]
        if len(around):
            found = item.mesh.positions[around[0]]
            best = float(np.hypot(*(event.camera.project(found) - at)))
    return found
