"""The adaptive grid, the axes and their numbers, as pen strokes."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

import numpy as np

from dimetron.geometry.camera import OrbitCamera, OrthoCamera
from dimetron.geometry.graduation import Graduation, graduation, ticks
from dimetron.geometry.units import Unit, format_length
from dimetron.mesh.arrays import Floats
from dimetron.render.ink import Sheet
from dimetron.render.palette import Palette

#: Numbers closer than this to the next one are left out, in pixels.
_NUMBER_ROOM = 46.0
_NUMBER_SIZE = 11


class Flat(NamedTuple):
    """What lies under everything in an orthographic pane, and what lies over it."""

    grid: Sheet
    axes: Sheet
    numbers: Sheet


@lru_cache(maxsize=16)
def flat(camera: OrthoCamera, unit: Unit, palette: Palette, ratio: float) -> Flat:
    """The grid of a pane; the same again as long as it looks at the same. Not to be added to."""
    made = Flat(*(Sheet(camera.size, ratio) for _ in range(3)))
    draw_flat(made.grid, camera, unit, palette)
    draw_axes(made.axes, camera, palette)
    draw_numbers(made.numbers, camera, unit, palette)
    return made


@lru_cache(maxsize=8)
def ground(camera: OrbitCamera, unit: Unit, palette: Palette, ratio: float) -> Sheet:
    """The ground of the 3D pane, likewise."""
    made = Sheet(camera.size, ratio)
    draw_ground(made, camera, unit, palette)
    return made


def draw_flat(sheet: Sheet, camera: OrthoCamera, unit: Unit, palette: Palette) -> None:
    """Grid lines of an orthographic pane."""
    step = graduation(camera.mm_per_px, unit)
    low, high = _seen(camera)
    for size, colour in ((step.fine, palette.grid_fine), (step.coarse, palette.grid_coarse)):
        xs, ys = ticks(low[0], high[0], size), ticks(low[1], high[1], size)
        sheet.lines(_verticals(camera, xs), colour)
        sheet.lines(_horizontals(camera, ys), colour)


def draw_axes(sheet: Sheet, camera: OrthoCamera, palette: Palette) -> None:
    """Ground and centreline, over everything: they are what drawings are aligned to."""
    zero = np.zeros(1)
    centre_dash = 7.0
    sheet.lines(_verticals(camera, zero), palette.axis, 1.0, centre_dash)
    dash = 0.0 if camera.view.turned_up else centre_dash
    sheet.lines(_horizontals(camera, zero), palette.axis, 1.0, dash)


def draw_numbers(sheet: Sheet, camera: OrthoCamera, unit: Unit, palette: Palette) -> None:
    """Coordinates along the lower and the left edge, in the project's unit."""
    step = graduation(camera.mm_per_px, unit)
    low, high = _seen(camera)
    w, h = camera.size
    spacing = _spacing(step, camera.mm_per_px)
    signs = camera.view.paper_signs
    marks = []
    values = ticks(low[0], high[0], spacing)
    across = np.stack([values, np.full_like(values, low[1])], axis=1)
    for value, x in zip(values, _projected(camera, across)[:, 0].tolist(), strict=True):
        if 34 < x < w - 30:
            marks.append([[x, h - 5], [x, h]])
            words = _number(value * signs[0], unit)
            sheet.text(words, (x + 3, h - 5), palette.soft_ink, _NUMBER_SIZE)
    values = ticks(low[1], high[1], spacing)
    up = np.stack([np.full_like(values, low[0]), values], axis=1)
    for value, y in zip(values, _projected(camera, up)[:, 1].tolist(), strict=True):
        if 30 < y < h - 20:
            marks.append([[0, y], [5, y]])
            words = _number(value * signs[1], unit)
            sheet.text(words, (7, y + 4), palette.soft_ink, _NUMBER_SIZE)
    sheet.lines(marks, palette.soft_ink)


def _projected(camera: OrthoCamera, plane: Floats) -> Floats:
    """Pixels (n, 2) of view-plane points (n, 2)."""
    return camera.project(camera.view.to_world(plane))


def _spacing(step: Graduation, mm_per_px: float) -> float:
    spacing = step.coarse
    while spacing / mm_per_px < _NUMBER_ROOM:
        spacing *= 2
    return spacing


def _number(mm: float, unit: Unit) -> str:
    return format_length(mm, unit, digits=None if unit is not Unit.MM else 4, suffix=False)


def _seen(camera: OrthoCamera) -> tuple[Floats, Floats]:
    """Lowest and highest view-plane coordinate in the pane, each (2,)."""
    w, h = camera.size
    ends = camera.plane_at(np.array([[0.0, h], [w, 0.0]]))
    return ends[0], ends[1]


def _verticals(camera: OrthoCamera, across: Floats) -> Floats:
    w, h = camera.size
    left = float(camera.plane_at(np.array([0.0, 0.0]))[0])
    x = (across - left) / camera.mm_per_px
    x = x[(x >= -1) & (x <= w + 1)]
    return np.stack(
        [np.stack([x, np.zeros_like(x)], axis=1), np.stack([x, np.full_like(x, h)], axis=1)], axis=1
    )


def _horizontals(camera: OrthoCamera, up: Floats) -> Floats:
    w, h = camera.size
    top = float(camera.plane_at(np.array([0.0, 0.0]))[1])
    y = (top - up) / camera.mm_per_px
    y = y[(y >= -1) & (y <= h + 1)]
    return np.stack(
        [np.stack([np.zeros_like(y), y], axis=1), np.stack([np.full_like(y, w), y], axis=1)], axis=1
    )


def draw_ground(sheet: Sheet, camera: OrbitCamera, unit: Unit, palette: Palette) -> None:
    """A patch of the ground plane about the target, with the X and Y axes through it."""
    step = graduation(camera.mm_per_px, unit, fine_px=16.0)
    reach = step.coarse * 4
    middle = np.round(np.array(camera.target[:2]) / step.coarse) * step.coarse
    for size, colour in ((step.fine, palette.grid_fine), (step.coarse, palette.grid_coarse)):
        if reach / size > 60:
            continue
        lines = np.concatenate([_ground_lines(middle, reach, size, axis) for axis in (0, 1)])
        sheet.lines(camera.project(lines), colour)
    for axis in (0, 1):
        line = np.zeros((2, 3))
        line[:, axis] = middle[axis] - reach, middle[axis] + reach
        if abs(middle[1 - axis]) <= reach:
            sheet.lines(camera.project(line)[None], palette.axis)


def _ground_lines(middle: Floats, reach: float, size: float, axis: int) -> Floats:
    """(n, 2, 3) lines along an axis."""
    other = 1 - axis
    at = ticks(middle[other] - reach, middle[other] + reach, size)
    lines = np.zeros((len(at), 2, 3))
    lines[:, :, other] = at[:, None]
    lines[:, 0, axis], lines[:, 1, axis] = middle[axis] - reach, middle[axis] + reach
    return lines
