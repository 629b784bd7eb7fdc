"""Handles of a placed drawing, pivots, and what dragging a handle makes of its placement."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from dimetron.app.tools.base import REACH_PX, BoardEvent
from dimetron.document.model import Document, Drawing
from dimetron.document.placing import pivots, scaled, turned_about
from dimetron.geometry.camera import OrthoCamera
from dimetron.geometry.placement import Placement, PlacementError, wrapped
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats
from dimetron.render.overlays import Marks, Overlay, Strokes

CORNERS = ("top-left", "top-right", "bottom-right", "bottom-left")
EDGES = ("top", "right", "bottom", "left")
_OPPOSITE = {
    "top-left": "bottom-right",
    "top-right": "bottom-left",
    "bottom-right": "top-left",
    "bottom-left": "top-right",
    "top": "bottom",
    "bottom": "top",
    "left": "right",
    "right": "left",
}
#: How far outside of its corner a turning handle lies, in pixels.
_TURN_PX = 17.0
#: Pictures smaller than this in a pane have handles at two corners only.
_ROOM_PX = 54.0
#: With Shift a turn goes in such steps.
TURN_STEP_DEG = 15.0


@dataclass(frozen=True, slots=True, eq=False)
class Handle:
    """kind: "size" or "turn"; name: the corner or edge it belongs to; at (2,): view plane, mm."""

    kind: str
    name: str
    at: Floats


def handles_of(doc: Document, drawing: Drawing, mm_per_px: float) -> list[Handle]:
    """Sizing handles at corners and edges, turning handles around."""
    spots = pivots(doc, drawing)
    w, h = (side / mm_per_px for side in drawing.placement.size_mm(doc.size_px(drawing)))
    if min(w, h) < _ROOM_PX:
        return [Handle("size", name, spots[name]) for name in ("top-left", "bottom-right")]
    found = [Handle("size", name, spots[name]) for name in (*CORNERS, *EDGES)]
    for name in CORNERS:
        out = spots[name] - spots["centre"]
        out = out / np.hypot(*out) * _TURN_PX * mm_per_px
        found.append(Handle("turn", name, spots[name] + out))
    return found


def handle_at(handles: list[Handle], event: BoardEvent) -> Handle | None:
    """The handle nearest to the pointer, within reach."""
    camera = event.camera
    if not isinstance(camera, OrthoCamera) or not handles:
        return None
    at = camera.view.to_plane(event.point)
    away = [float(np.hypot(*(handle.at - at))) / camera.mm_per_px for handle in handles]
    nearest = int(np.argmin(away))
    return handles[nearest] if away[nearest] < REACH_PX else None


def pivot_for(doc: Document, drawing: Drawing, handle: Handle, mode: str, picked: Floats) -> Floats:
    """(2,) the view-plane point that stays. mode: "opposite", "picked", or a name of
    ``placing.pivots``."""
    spots = pivots(doc, drawing)
    if mode == "picked":
        return picked
    if mode != "opposite":
        return spots["centre"] if mode == handle.name else spots[mode]
    return spots["centre"] if handle.kind == "turn" else spots[_OPPOSITE[handle.name]]


def sized(
    placement: Placement, handle: Handle, pivot: Floats, to: Floats, aspect: bool
) -> Placement:
    """The placement when a sizing handle is dragged to a view-plane point (2,).

    Raises PlacementError where nothing would be left of the picture.
    """
    angle = math.radians(placement.rotation_deg)
    across = np.array([math.cos(angle), math.sin(angle)])
    sides = np.stack([across, [-across[1], across[0]]])
    before, after = sides @ (handle.at - pivot), sides @ (to - pivot)
    reach = np.abs(before) > 1e-9 * max(1.0, float(np.abs(before).max()))
    if handle.name in EDGES:
        # An edge is pulled along its own normal only.
        reach &= np.array([handle.name in ("left", "right"), handle.name in ("top", "bottom")])
    if not reach.any():
        raise PlacementError("The pivot lies on this handle; choose another pivot.")
    factors = np.where(reach, after / np.where(reach, before, 1.0), 1.0)
    if aspect:
        along = before * reach
        factor = float(along @ after) / float(along @ along)
        return scaled(placement, (factor, factor), pivot)
    return scaled(placement, (float(factors[0]), float(factors[1])), pivot, aspect=False)


def turned(
    placement: Placement, begin: Floats, pivot: Floats, to: Floats, steps: bool
) -> tuple[Placement, float]:
    """The placement when a turning handle goes from one view-plane point to another, and by how
    many degrees."""
    a, b = begin - pivot, to - pivot
    by = math.degrees(math.atan2(b[1], b[0]) - math.atan2(a[1], a[0]))
    by = wrapped(by)
    if steps:
        by = round(by / TURN_STEP_DEG) * TURN_STEP_DEG
    return turned_about(placement, by, pivot), by


def handle_marks(
    doc: Document, drawing: Drawing, handles: list[Handle], pivot: Floats
) -> list[Overlay]:
    """The picture's outline with its handles, and the pivot."""
    view: AnyView = drawing.view
    corners = drawing.placement.corners(doc.size_px(drawing))
    ring = view.to_world(np.concatenate([corners, corners[:1]]))
    marks: list[Overlay] = [Strokes(ring, "selection", 1.2, only=view)]
    for kind, look, size in (("size", "square", 8.0), ("turn", "ring", 6.5)):
        points = [handle.at for handle in handles if handle.kind == kind]
        if points:
            marks.append(Marks(view.to_world(np.array(points)), look, size=size, only=view))
    marks.append(Marks(view.to_world(pivot[None]), "cross", "accent", 5.0, only=view))
    return marks
