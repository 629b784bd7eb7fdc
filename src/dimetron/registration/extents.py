"""The outermost ink of drawings as landmarks: how far the object reaches along each axis."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import replace

from dimetron.geometry.views import EXTENT_NAMES
from dimetron.registration.problem import Landmark, Length, Problem, Sighting

Box = tuple[float, float, float, float]
ENDS = ("low end", "high end")
#: How exactly the end of the ink shows where the object ends: about a stroke.
SIGMA_PX = 2.0


def end_name(axis: int, end: int) -> str:
    """What the low (0) or high (1) end of the object along an axis is called."""
    return f"{EXTENT_NAMES[axis]}, {ENDS[end]}"


def with_extents(
    problem: Problem,
    boxes: Mapping[str, Box],
    axes: Collection[int],
    known_mm: Mapping[int, float] | None = None,
) -> Problem:
    """Add the ends of the object along axes as landmarks, marked at the edges of the ink (left,
    top, right, bottom in pixels) of each drawing that shows the axis; known_mm: extents by axis."""
    landmarks, sightings = list(problem.landmarks), list(problem.sightings)
    marked: set[int] = set()
    for picture in problem.pictures:
        box = boxes.get(picture.id)
        if box is None:
            continue
        middle = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
        for side, axis in enumerate(picture.view.paper_axes):
            if axis is None or axis not in axes:
                continue
            marked.add(axis)
            low, high = (box[0], box[2]) if side == 0 else (box[3], box[1])
            if picture.view.paper_signs[side] < 0:
                low, high = high, low
            for end, value in enumerate((low, high)):
                px = (value, middle[1]) if side == 0 else (middle[0], value)
                name = end_name(axis, end)
                sightings.append(Sighting(name, picture.id, px, SIGMA_PX, axis))
    for axis in sorted(marked):
        landmarks += [Landmark(end_name(axis, end)) for end in (0, 1)]
    lengths = list(problem.lengths)
    for axis, mm in (known_mm or {}).items():
        if axis in marked:
            lengths.append(Length(end_name(axis, 0), end_name(axis, 1), mm, axis))
    return replace(
        problem,
        landmarks=tuple(landmarks),
        sightings=tuple(sightings),
        lengths=tuple(lengths),
    )
