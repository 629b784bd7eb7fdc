"""What marking shows in the panes: marks, by how much they miss, and where one must lie."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np

from dimetron.document.model import Document, Drawing
from dimetron.geometry.units import format_length
from dimetron.mesh.arrays import Floats
from dimetron.render.overlays import Label, Marks, Overlay, Strokes

if TYPE_CHECKING:
    from dimetron.registration.problem import Sighting
    from dimetron.registration.solve import Solution

#: Names in the panes only while there are no more marks than this in one.
_NAMED = 40
#: How long an arrow's head is, as a share of the arrow.
_HEAD = 0.2
#: How long a guide's line is, as a share of its drawing's larger side.
_GUIDE = 0.05


def shown(doc: Document, id_: str) -> Drawing | None:
    """A drawing by its id, if it is placed and shown."""
    item = doc.item(id_)
    there = isinstance(item, Drawing) and item.placed and doc.visible(item)
    return item if there and isinstance(item, Drawing) else None


def world(drawing: Drawing, px: Floats) -> Floats:
    """A pixel of a drawing in its view's plane through the origin."""
    return drawing.view.to_world(drawing.placement.to_plane(px))


def marks_seen(
    doc: Document, solution: Solution | None, current: str, exaggerated: float
) -> Iterator[Overlay]:
    """All marks: those of the landmark in hand lit up, what does not count dashed, each with a line
    as many times as long as its miss."""
    misses = _misses(doc, solution)
    crowded = len(doc.sightings) > _NAMED * max(1, len(doc.planes))
    for mark in doc.sightings:
        drawing = shown(doc, mark.picture)
        if drawing is None:
            continue
        at = world(drawing, np.array(mark.px))
        mine = mark.landmark == current
        role = "selection" if mine else "accent"
        kind = "cross" if mark.counts else "ring"
        yield Marks(at[None], kind, role, 6.0, only=drawing.view)
        if mark.axis is not None:
            yield _guide(doc, drawing, mark, role)
        if mine or not crowded:
            yield Label(at, mark.landmark, role, only=drawing.view)
        off = misses.get((mark.landmark, mark.picture))
        if off is not None:
            arrow = world(drawing, _arrow(np.array(mark.px), -off * exaggerated))
            dash = 0.0 if mark.counts else 4.0
            yield Strokes(arrow, "warning", 1.6, dash, only=drawing.view)


def _arrow(at: Floats, way: Floats) -> Floats:
    """(5, 2) a path from a point along a way, with a head at its end."""
    end = at + way
    across = np.array([-way[1], way[0]])
    back = end - _HEAD * way
    return np.stack([at, end, back + _HEAD / 2 * across, end, back - _HEAD / 2 * across])


def lengths_seen(doc: Document) -> Iterator[Overlay]:
    """Known lengths between two points of a drawing."""
    for length in doc.drawing_lengths:
        drawing = shown(doc, length.picture)
        if drawing is not None:
            ends = world(drawing, np.array([length.a_px, length.b_px]))
            yield Marks(ends, "dot", "accent", 4.0, only=drawing.view)
            yield Strokes(ends, "accent", 1.2, only=drawing.view)
            words = format_length(length.mm, doc.unit)
            yield Label(ends.mean(axis=0), words, "accent", only=drawing.view)


def _guide(doc: Document, drawing: Drawing, mark: Sighting, role: str) -> Overlay:
    """A short line across the axis that a mark counts for."""
    assert mark.axis is not None
    w, h = doc.size_px(drawing)
    half = _GUIDE * max(w, h) * drawing.placement.mm_per_px
    frame = drawing.view.directions
    across = frame.up if abs(frame.right[mark.axis]) > abs(frame.up[mark.axis]) else frame.right
    at = world(drawing, np.array(mark.px))
    return Strokes(np.stack([at - across * half, at + across * half]), role, 1.4, only=drawing.view)


def _misses(doc: Document, solution: Solution | None) -> dict[tuple[str, str], Floats]:
    """By how many pixels each sighting misses, from where it should be to where it is."""
    if solution is None:
        return {}
    marks = solution.problem.sightings
    found = {(m.landmark, m.picture): off for m, off in zip(marks, solution.off, strict=True)}
    for mark in doc.sightings:
        if not mark.counts:
            expected = expected_px(doc, solution, mark.landmark, mark.picture)
            if expected is not None:
                found[mark.landmark, mark.picture] = np.array(mark.px) - expected
    return found


def expected_px(doc: Document, solution: Solution, name: str, drawing_id: str) -> Floats | None:
    """The pixel of a drawing where a landmark must lie; None if that is not known."""
    drawing, pose = shown(doc, drawing_id), solution.poses.get(drawing_id)
    point = solution.points.get(name)
    if drawing is None or pose is None or point is None:
        return None
    needed = drawing.view.directions.right, drawing.view.directions.up
    open_ways = [axis for axis in range(3) if point[axis] is None]
    if any(abs(way[axis]) > 1e-6 for way in needed for axis in open_ways):
        return None
    at = np.array([0.0 if v is None else v for v in point])
    return pose.to_px(drawing.view.to_plane(at))


def where_it_must_lie(doc: Document, solution: Solution | None, name: str) -> Iterator[Overlay]:
    """In drawings a landmark is not marked in yet: the spot, or the line on which it lies along
    the axis that is known."""
    if solution is None:
        return
    marked = {m.picture for m in doc.sightings if m.landmark == name}
    for drawing in doc.planes:
        if drawing.id in marked or not doc.visible(drawing) or drawing.id not in solution.poses:
            continue
        px = expected_px(doc, solution, name, drawing.id)
        if px is not None:
            spot = world(drawing, px)[None]
            yield Marks(spot, "ring", "selection", 9.0, only=drawing.view)
            continue
        line = _line(doc, solution, name, drawing)
        if line is not None:
            yield Strokes(line, "selection", 1.2, 6.0, only=drawing.view)


def _line(doc: Document, solution: Solution, name: str, drawing: Drawing) -> Floats | None:
    """Across a drawing, where the one coordinate that is known puts a landmark."""
    point = solution.points.get(name)
    if point is None:
        return None
    for side, axis in enumerate(drawing.view.paper_axes):
        value = None if axis is None else point[axis]
        if value is None:
            continue
        w, h = doc.size_px(drawing)
        pose = solution.poses[drawing.id]
        corners = pose.to_plane(np.array([[0.0, 0], [w, 0], [w, h], [0, h]]))
        ends = np.array([corners.min(axis=0), corners.max(axis=0)])
        ends[:, side] = value * drawing.view.paper_signs[side]
        return world(drawing, pose.to_px(ends))
    return None
