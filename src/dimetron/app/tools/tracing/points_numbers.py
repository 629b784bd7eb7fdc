"""The numbers of an outline's points that can be typed."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from dimetron.app.kit.instrument import Field
from dimetron.document.model import with_item
from dimetron.document.outline import Outline
from dimetron.geometry.views import AXIS_NAMES, View
from dimetron.outlines import edit
from dimetron.outlines.rounding import rounded

if TYPE_CHECKING:
    from dimetron.app.tools.tracing.points import EditPoints


def fields(tool: EditPoints) -> Sequence[Field]:
    item, points = tool.outline(), tool.selected()
    if item is None:
        return ()
    found: list[Field] = []
    if len(points) == 1:
        found += _place(tool, item, points[0])
    if len(points) == 1 and (item.path.closed or points[0] < len(item.path) - 1):
        found += _piece(tool, item, points[0])
    if points and item.path.corner[list(points)].all():
        found.append(_radius(tool, item, points))
    if len(points) > 1:
        found += _turned_and_sized(tool, item, points)
    depth = _depth(tool, item)
    # Beside the radius, which is short.
    if found and found[-1].name == "Radius":
        depth = replace(depth, beside=True)
    found.append(depth)
    return found


def _place(tool: EditPoints, item: Outline, point: int) -> list[Field]:
    here = item.path.points[point]
    view = item.view

    def entered(side: int) -> Callable[[float], None]:
        def enter(value: float) -> None:
            by = np.zeros(2)
            by[side] = value * view.paper_signs[side] - here[side]
            tool.change(edit.moved(item.path, [point], by), f"Place a point of {item.name}")

        return enter

    names = [AXIS_NAMES[a] if a is not None else n for a, n in
             zip(view.paper_axes, ("across", "up"), strict=True)]  # fmt: skip
    return [
        Field(
            names[side], float(here[side]) * view.paper_signs[side], entered(side),
            hint="Where the point is", beside=side == 1,
        )
        for side in (0, 1)
    ]  # fmt: skip


def _turned_and_sized(tool: EditPoints, item: Outline, points: tuple[int, ...]) -> list[Field]:
    """About the middle of what is selected."""
    places = item.path.points[list(points)]
    middle = (places.min(axis=0) + places.max(axis=0)) / 2

    def turn(degrees: float) -> None:
        angle = math.radians(degrees)
        c, s = math.cos(angle), math.sin(angle)
        path = edit.placed_by(item.path, points, [[c, -s], [s, c]], middle)
        tool.change(path, f"Turn points of {item.name}")

    def size(times: float) -> None:
        if times == 0:
            raise ValueError("Type how many times as large, not 0.")
        path = edit.placed_by(item.path, points, times * np.eye(2), middle)
        tool.change(path, f"Size points of {item.name}")

    hint = "About the middle of the selected points"
    return [
        Field("Turn by", 0.0, turn, "angle", hint),
        Field("Times", 1.0, size, "number", hint, beside=True),
    ]


def _radius(tool: EditPoints, item: Outline, points: tuple[int, ...]) -> Field:
    radii = item.path.radius[list(points)]

    def enter(mm: float) -> None:
        path = edit.with_radius(item.path, points, mm)
        rounded(path)
        tool.change(path, f"Round corners of {item.name}")

    value = float(radii[0]) if np.ptp(radii) < 1e-9 else None
    return Field("Radius", value, enter, hint="Radius of the rounded corner; 0 leaves it sharp")


def _piece(tool: EditPoints, item: Outline, point: int) -> list[Field]:
    """Length and angle of the straight way to the next point; that one moves."""
    path = item.path
    after = (point + 1) % len(path)
    way = path.points[after] - path.points[point]
    long, angle = float(np.hypot(*way)), math.degrees(math.atan2(way[1], way[0]))

    def put(length: float, degrees: float) -> None:
        turn = math.radians(degrees)
        to = path.points[point] + length * np.array([math.cos(turn), math.sin(turn)])
        moved = edit.moved(path, [after], to - path.points[after])
        tool.change(moved, f"Set a piece of {item.name}")

    def enter_length(mm: float) -> None:
        if mm <= 0:
            raise ValueError("The length must be more than zero.")
        put(mm, angle)

    hint = "From this point straight to the next one, which moves"
    return [
        Field("To next", long, enter_length, hint=hint),
        Field("At angle", angle, lambda deg: put(long, deg), "angle", hint, beside=True),
    ]


def _depth(tool: EditPoints, item: Outline) -> Field:
    axis = item.view.depth_axis if isinstance(item.view, View) else None
    sign = 1.0 if axis is None else float(item.view.directions.forward[axis])

    def enter(mm: float) -> None:
        doc = with_item(tool.bench.committed, item.id, depth=mm * sign)
        tool.bench.commit(doc, f"Move {item.name} to another depth")

    name = "Depth" if axis is None else f"Depth {AXIS_NAMES[axis]}"
    return Field(name, item.depth * sign, enter, hint="Where the outline lies along the view")
