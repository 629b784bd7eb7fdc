"""Points of outlines that are tied to something: they stay there when things move."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from dimetron.document.edits import standing_point
from dimetron.document.model import Document, Drawing, Thing
from dimetron.document.outline import AXES, Outline, Tie, outlines_of, side_of, with_path
from dimetron.mesh.arrays import Floats
from dimetron.outlines import edit

#: Points this near to where they are tied are there, in mm.
_THERE = 1e-9
#: What ties may follow one another.
_ROUNDS = 4


def tied(doc: Document) -> Document:
    """The project with every tied point where it belongs; the very same if all are."""
    for _ in range(_ROUNDS):
        before = doc
        for item in outlines_of(doc):
            doc = _settled(doc, item)
        if doc is before:
            break
    return doc


def _settled(doc: Document, item: Outline) -> Document:
    path = item.path
    for tie in item.ties:
        to = _target(doc, item, tie) if tie.point < len(path) else None
        if to is None:
            continue
        by = np.where(np.isnan(to), 0.0, to - path.points[tie.point])
        if np.abs(by).max() > _THERE:
            path = edit.moved(path, [tie.point], by)
    return doc if path is item.path else with_path(doc, item.id, path)


def _target(doc: Document, item: Outline, tie: Tie) -> Floats | None:
    """(2,) where a tied point belongs on its plane, NaN where it is free; None if that is not
    known."""
    if tie.to == "origin":
        return np.zeros(2)
    if tie.to in AXES:
        side = side_of(item.view, tie.to)
        if side is None:
            return None
        to = np.full(2, np.nan)
        to[side] = 0.0
        return to
    if tie.to == "landmark":
        return _marked(doc, item, tie.name)
    if tie.to == "ground":
        return _ground(doc, item, tie.name)
    other = doc.item(tie.name)
    if not isinstance(other, Outline) or tie.number >= len(other.path):
        return None
    place = other.view.to_world(other.path.points[tie.number], other.depth)
    return item.view.to_plane(place)


def _marked(doc: Document, item: Outline, landmark: str) -> Floats | None:
    """Where a landmark is marked in the outline's drawing, or in another of its view."""
    of_view = [
        (drawing, mark)
        for mark in doc.sightings
        if mark.landmark == landmark
        and isinstance(drawing := doc.item(mark.picture), Drawing)
        and drawing.view == item.view
    ]
    of_view.sort(key=lambda pair: pair[0].id != item.drawing)
    if not of_view:
        return None
    drawing, mark = of_view[0]
    return np.asarray(drawing.placement.to_plane(mark.px), np.float64)


def _ground(doc: Document, item: Outline, id_: str) -> Floats | None:
    """The level of the edge that a drawing of the outline's view stands on."""
    drawing = doc.item(id_)
    if not isinstance(drawing, Drawing) or drawing.view != item.view:
        return None
    return np.array([np.nan, standing_point(doc, drawing)[1]])


def ties_for(doc: Document, item: Outline, point: int) -> tuple[tuple[Tie, str], ...]:
    """What a point could be tied to, with words for it."""
    found = [(Tie(point, "origin"), "the origin")]
    found += [
        (Tie(point, axis), f"{axis.upper()} = 0")
        for axis in AXES
        if side_of(item.view, axis) is not None
    ]
    found += [
        (Tie(point, "landmark", m.name), m.name)
        for m in doc.landmarks
        if _marked(doc, item, m.name) is not None
    ]
    found += [
        (Tie(point, "ground", d.id), f"the ground of {d.name}")
        for d in doc.drawings
        if d.view == item.view and d.view.turned_up
    ]
    here = item.view.to_world(item.path.points[point], item.depth)
    for other in outlines_of(doc):
        if other.id == item.id or any(t.name == item.id for t in other.ties):
            continue
        places = other.view.to_world(other.path.points, other.depth)
        away = np.hypot(*(item.view.to_plane(places) - item.view.to_plane(here)).T)
        nearest = int(np.argmin(away))
        words = f"{other.name}, its nearest point"
        found.append((Tie(point, "point", other.id, nearest), words))
    return tuple(found)


def with_tie(doc: Document, id_: str, point: int, tie: Tie | None) -> Document:
    """The project with a point of an outline tied, or free again, and where that puts it."""
    further: list[Thing] = []
    for item in doc.further:
        if isinstance(item, Outline) and item.id == id_:
            kept = tuple(t for t in item.ties if t.point != point)
            further.append(replace(item, ties=kept if tie is None else (*kept, tie)))
        else:
            further.append(item)
    return tied(replace(doc, further=tuple(further)))
