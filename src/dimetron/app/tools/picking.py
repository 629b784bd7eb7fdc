"""Picking a point by eye: drawn to the ink of the drawing under the pointer while that is snapped
to; Control takes the very spot."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

import numpy as np

from dimetron.app.tools import aim, snap
from dimetron.app.tools.base import REACH_PX, Aimed, BoardEvent
from dimetron.app.tools.bench import Bench
from dimetron.document.model import Document, Drawing
from dimetron.geometry.camera import OrthoCamera
from dimetron.mesh.arrays import Floats, Ints
from dimetron.render.overlays import Marks, Overlay


class Picked(NamedTuple):
    """A world point (3,), of which drawing's ink it is if it is, and lines that show a snap."""

    point: Floats
    aimed: Aimed | None = None
    guides: tuple[Overlay, ...] = ()


def drawing_shown_at(doc: Document, event: BoardEvent) -> Drawing | None:
    """The topmost shown drawing under the pointer, held or not: looking at it does not move it. A
    picture cut to its ink ends where a hand means to click, so one within reach counts too."""
    return _nearest(doc, event, [d for d in doc.planes if doc.visible(d)])


def _nearest(doc: Document, event: BoardEvent, among: Iterable[Drawing]) -> Drawing | None:
    """The drawing under the pointer, else the one whose picture ends nearest, within reach."""
    if not isinstance(event.camera, OrthoCamera):
        return None
    best, least = None, REACH_PX
    for drawing in among:
        if drawing.view != event.view:
            continue
        px, size = np.array(aim.picture_px(drawing, event)), np.array(doc.size_px(drawing))
        off = float(np.hypot(*(px - np.clip(px, 0, size))))
        off *= drawing.placement.mm_per_px / event.camera.mm_per_px
        if off == 0:
            return drawing
        if off < least:
            best, least = drawing, off
    return best


def on_drawing(bench: Bench, drawing: Drawing, event: BoardEvent) -> Aimed:
    """The pixel of a drawing that a click picks."""
    px = aim.picture_px(drawing, event)
    if "ink" in bench.snaps and not event.ctrl and isinstance(event.camera, OrthoCamera):
        reach = REACH_PX * event.camera.mm_per_px / drawing.placement.mm_per_px
        found = bench.ink_point(drawing, px, reach)
        if found is not None:
            return Aimed(drawing, found.px, found.kind)
    x, y = np.clip(px, 0, bench.document.size_px(drawing))
    return Aimed(drawing, (float(x), float(y)), "")


def free_drawing(bench: Bench, event: BoardEvent) -> Aimed | None:
    """What a click picks of the drawing under the pointer that may be moved."""
    if event.view is None:
        return None
    doc = bench.document
    free = [d for d in doc.planes if doc.visible(d) and doc.free(d)]
    drawing = aim.drawing_at(doc, event) or _nearest(doc, event, free)
    return None if drawing is None else on_drawing(bench, drawing, event)


def on_board(
    bench: Bench,
    event: BoardEvent,
    skip: frozenset[str] = frozenset(),
    without: tuple[str, Ints] | None = None,
) -> Picked:
    """The place that a click picks: a vertex or a line that is snapped to, else ink, else the
    grid. skip: drawings that do not count; without: points of an item that do not."""
    if event.ctrl:
        return Picked(event.point)
    found = snap.snap(bench, event, event.point, without, skip)
    if found.to not in ("", "grid"):
        return Picked(found.point, None, found.guides)
    drawing = drawing_shown_at(bench.document, event)
    if drawing is not None and drawing.id not in skip:
        aimed = on_drawing(bench, drawing, event)
        if aimed.kind:
            view = drawing.view
            away = drawing.placement.to_plane(aimed.px) - view.to_plane(event.point)
            return Picked(event.point + view.to_world(away), aimed)
    return Picked(found.point, None, found.guides)


def marks_of(aimed: Aimed | None) -> Sequence[Overlay]:
    """What shows that a click would take the ink's own point."""
    if aimed is None or not aimed.kind:
        return ()
    view = aimed.drawing.view
    at = view.to_world(aimed.drawing.placement.to_plane(np.array(aimed.px)))
    return (Marks(at[None], "square", "accent", 5.0, only=view),)
