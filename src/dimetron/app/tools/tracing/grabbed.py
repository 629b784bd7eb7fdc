"""What of an outline is under the pointer: a point, a handle, or a place on a piece."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from dimetron.app.tools.base import REACH_PX, BoardEvent
from dimetron.document.model import Document
from dimetron.document.outline import Outline, fineness, outlines_of
from dimetron.geometry.camera import OrthoCamera
from dimetron.geometry.segments import nearest_on
from dimetron.mesh.arrays import Floats
from dimetron.outlines.path import at, sampled_at


class Grabbed(NamedTuple):
    """kind: "point", "before", "after" or "piece"; number: of the point or piece; t: where on a
    piece."""

    item: Outline
    kind: str
    number: int
    t: float = 0.0


def grabbed(doc: Document, event: BoardEvent, chosen: tuple[str, ...]) -> Grabbed | None:
    """Of chosen outlines points and handles first; else the piece of any that runs nearest."""
    if event.view is None or not isinstance(event.camera, OrthoCamera):
        return None
    free = [
        item
        for item in outlines_of(doc)
        if item.view == event.view and doc.visible(item) and doc.free(item)
    ]
    own = [item for item in free if item.id in chosen]
    found = [hit for item in own if (hit := _point(item, event)) is not None]
    if found:
        return min(found, key=lambda hit: hit[0])[1]
    near = [hit for item in (*own, *free) if (hit := _piece(item, event)) is not None]
    return min(near, key=lambda hit: hit[0])[1] if near else None


def _px(item: Outline, event: BoardEvent, points: Floats) -> Floats:
    return event.camera.project(item.view.to_world(points, item.depth))


def _point(item: Outline, event: BoardEvent) -> tuple[float, Grabbed] | None:
    path = item.path
    best: tuple[float, Grabbed] | None = None
    # A point before the handles that may lie on it.
    for kind, places in (("point", path.points), ("before", path.before), ("after", path.after)):
        away = np.hypot(*(_px(item, event, places) - event.px).T)
        if kind != "point":
            on_point = np.abs(places - path.points).max(axis=1) < 1e-9
            away = np.where(on_point, np.inf, away)
        number = int(np.argmin(away))
        if away[number] < REACH_PX and (best is None or away[number] < best[0] - 1e-9):
            best = float(away[number]), Grabbed(item, kind, number)
        if kind == "point" and best is not None:
            return best
    return best


def _piece(item: Outline, event: BoardEvent) -> tuple[float, Grabbed] | None:
    if item.path.piece_count < 1:
        return None
    points, which = sampled_at(item.path, fineness(item.path))
    px = _px(item, event, points)
    ends = np.roll(px, -1, axis=0)
    t, away = nearest_on(np.array(event.px), px, ends)
    if not item.path.closed:
        away[-1] = np.inf
    number = int(np.argmin(away))
    if away[number] >= REACH_PX:
        return None
    piece = int(which[number])
    cubic = item.path.pieces[piece]
    steps = np.linspace(0, 1, 201)
    place = points[number] + t[number] * (np.roll(points, -1, axis=0)[number] - points[number])
    near = np.hypot(*(at(np.repeat(cubic[None], 201, axis=0), steps) - place).T)
    return float(away[number]), Grabbed(item, "piece", piece, float(steps[int(np.argmin(near))]))
