"""How far a pointer has pulled: along a direction of the world, or across the pane."""

from __future__ import annotations

import numpy as np

from dimetron.app.tools import snap
from dimetron.app.tools.base import BoardEvent
from dimetron.app.tools.bench import Shaping
from dimetron.geometry.camera import OrthoCamera
from dimetron.mesh.arrays import Floats


def along(event: BoardEvent, begin_px: tuple[float, float], grabbed: Floats, way: Floats) -> float:
    """How far the pointer has pulled from where it began along a unit vector ``way`` (3,) at a
    world point, mm; up the pane where it faces the eye."""
    camera = event.camera
    scale = camera.mm_per_px_at(grabbed)
    ends = camera.project(np.stack([grabbed, grabbed + way * scale]))
    seen = ends[1] - ends[0]
    by = np.array(event.px) - begin_px
    length = float(np.hypot(*seen))
    if length < 0.08:
        return float(-by[1]) * scale
    return float(by @ seen) / length**2 * scale


def across(event: BoardEvent, begin_px: tuple[float, float], grabbed: Floats) -> float:
    """How far it has gone to the right, in mm at a world point."""
    return float(event.px[0] - begin_px[0]) * event.camera.mm_per_px_at(grabbed)


def on_grid(
    bench: Shaping, event: BoardEvent, start: Floats, way: Floats, distance: float
) -> float:
    """The distance that brings a point onto a grid line, where the way runs along an axis."""
    axis = int(np.argmax(np.abs(way)))
    camera = event.camera
    if abs(way[axis]) < 0.999 or not isinstance(camera, OrthoCamera):
        return distance
    moved = snap.snap(bench, event, start + way * distance).point
    return float((moved - start)[axis] / way[axis])
