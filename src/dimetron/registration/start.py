"""Where to begin: scales, places and mirroring of drawings, axis by axis, from shared sightings.

Drawings are taken as upright here; the turn of up to some degrees that they have is left to the
least squares. Along each world axis a drawing shows a straight image of the object, so two drawings
that share two landmarks along an axis give the ratio of their scales there.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from dimetron.geometry.views import View
from dimetron.registration.pose import Pose
from dimetron.registration.problem import Problem

Floats = NDArray[np.float64]
#: More drawings than this are not tried in every combination of mirrored ones.
_MOST_TRIED = 10


@dataclass(slots=True)
class _Line:
    """What one drawing shows along one axis: (landmark, pixel in the axis's direction)."""

    picture: int
    axis: int
    side: int
    at: dict[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, eq=False)
class Start:
    """poses; mirrored (n,); joined (n,): which drawings hang together with the first of them."""

    poses: list[Pose]
    mirrored: NDArray[np.bool_]
    points: dict[str, list[float | None]]


def initial_guess(problem: Problem, mirrored: NDArray[np.bool_] | None = None) -> Start:
    """Poses and landmark coordinates to begin with. mirrored: known beforehand, if it is."""
    lines = _lines(problem)
    slopes = _slopes(lines)
    flips = _mirrored(problem, lines, slopes) if mirrored is None else mirrored
    scales = _scales(problem, lines, slopes)
    offsets, points = _offsets(problem, lines, scales, flips)
    poses = []
    for i, picture in enumerate(problem.pictures):
        if picture.pinned:
            poses.append(picture.present)
            continue
        poses.append(_pose(problem, i, scales[i], bool(flips[i]), offsets))
    return Start(poses, flips, points)


def other_starts(problem: Problem, flips: NDArray[np.bool_]) -> list[Start]:
    """Other places to begin than ``initial_guess``: where the drawings lie now, and with one of
    them taken as mirrored the other way."""
    found = [_as_placed(problem)]
    for i, picture in enumerate(problem.pictures):
        if not picture.pinned:
            other = flips.copy()
            other[i] = not other[i]
            found.append(initial_guess(problem, other))
    return found


def _as_placed(problem: Problem) -> Start:
    """Drawings where they lie now, landmarks in the middle of what they say."""
    told: dict[tuple[str, int], list[float]] = {}
    for mark in problem.sightings:
        picture = problem.picture(mark.picture)
        world = picture.view.to_world(picture.present.to_plane(mark.px))
        for axis in range(3):
            if axis in picture.view.paper_axes and mark.axis in (None, axis):
                told.setdefault((mark.landmark, axis), []).append(float(world[axis]))
    points = {
        m.name: [
            float(np.median(told[m.name, axis])) if (m.name, axis) in told else None
            for axis in range(3)
        ]
        for m in problem.landmarks
    }
    mirrored = np.array([p.present.mirrored for p in problem.pictures])
    return Start([p.present for p in problem.pictures], mirrored, points)


def _lines(problem: Problem) -> list[_Line]:
    """Sightings by drawing and axis, in pixels that grow along the axis as an unmirrored upright
    drawing would show it."""
    index = {p.id: i for i, p in enumerate(problem.pictures)}
    found: dict[tuple[int, int], _Line] = {}
    for i, picture in enumerate(problem.pictures):
        for side, axis in enumerate(picture.view.paper_axes):
            if axis is not None:
                found[i, axis] = _Line(i, axis, side)
    for mark in problem.sightings:
        i = index[mark.picture]
        view = problem.pictures[i].view
        for side, axis in enumerate(view.paper_axes):
            if axis is None or mark.axis not in (None, axis):
                continue
            px = mark.px[0] if side == 0 else -mark.px[1]
            found[i, axis].at[mark.landmark] = px * view.paper_signs[side]
    return list(found.values())


def _slopes(lines: list[_Line]) -> dict[tuple[int, int], float]:
    """For each (drawing, axis) its scale against others along that axis, signed; those that share
    no two landmarks with any are left out."""
    found: dict[tuple[int, int], float] = {}
    for axis in range(3):
        here = [line for line in lines if line.axis == axis and len(line.at) > 1]
        here.sort(key=lambda line: -len(line.at))
        known: dict[str, float] = {}
        while here:
            line = next((n for n in here if _spread(n, known)), None)
            if line is None:
                if known:
                    break
                line = here[0]
                slope, shift = 1.0, 0.0
            else:
                slope, shift = _fitted(line, known)
            here.remove(line)
            found[line.picture, axis] = slope
            for name, px in line.at.items():
                known.setdefault(name, slope * px + shift)
    return found


def _spread(line: _Line, known: dict[str, float]) -> bool:
    shared = [name for name in line.at if name in known]
    return len(shared) > 1 and np.ptp([line.at[name] for name in shared]) > 1e-6


def _fitted(line: _Line, known: dict[str, float]) -> tuple[float, float]:
    """Slope and shift that bring a line's pixels onto what is known, robust against a wrong one
    (the median of the slopes of all pairs: Theil and Sen)."""
    shared = [name for name in line.at if name in known]
    x = np.array([line.at[name] for name in shared])
    y = np.array([known[name] for name in shared])
    i, j = np.triu_indices(len(x), 1)
    wide = np.abs(x[i] - x[j])
    good = wide > 0.05 * wide.max()
    slope = float(np.median((y[i] - y[j])[good] / (x[i] - x[j])[good]))
    return slope, float(np.median(y - slope * x))


def _mirrored(
    problem: Problem, lines: list[_Line], slopes: dict[tuple[int, int], float]
) -> NDArray[np.bool_]:
    """Which drawings are mirrored: the fewest that make the signs along each axis agree."""
    n = len(problem.pictures)
    now = np.array([p.present.mirrored for p in problem.pictures])
    sides = {(line.picture, line.axis): line.side for line in lines}
    ends = [(key, slope, sides[key]) for key, slope in slopes.items()]
    pinned = [i for i, p in enumerate(problem.pictures) if p.pinned]
    best, least = now, np.inf
    tries = itertools.product((False, True), repeat=n) if n <= _MOST_TRIED else [tuple(now)]
    for flips in tries:
        if any(flips[i] != now[i] for i in pinned):
            continue
        wrong = _disagreement(ends, flips) * 100 + sum(
            a != b for a, b in zip(flips, now, strict=True)
        )
        if wrong < least:
            best, least = np.array(flips), wrong
    return best


def _disagreement(ends: list[tuple[tuple[int, int], float, int]], flips: tuple[bool, ...]) -> int:
    """How many lines run against the others of their axis."""
    total = 0
    for axis in range(3):
        signs = [
            np.sign(slope) * (-1 if side == 0 and flips[picture] else 1)
            for (picture, a), slope, side in ends
            if a == axis
        ]
        total += min(signs.count(1.0), signs.count(-1.0))
    return total


def _scales(problem: Problem, lines: list[_Line], slopes: dict[tuple[int, int], float]) -> Floats:
    """(n,) mm per pixel of each drawing: the slopes of an axis have one unknown factor, the
    drawings one each; known ones stand fast."""
    n = len(problem.pictures)
    rows, values = [], []

    def row(weight: float, value: float, *parts: tuple[int, float]) -> None:
        line = np.zeros(n + 3)
        for at, factor in parts:
            line[at] = factor * weight
        rows.append(line)
        values.append(value * weight)

    for (picture, axis), slope in slopes.items():
        # log of the slope is the log of the scale plus the axis's own factor.
        row(1.0, np.log(max(abs(slope), 1e-12)), (picture, 1.0), (n + axis, 1.0))
    for i, p in enumerate(problem.pictures):
        # Only what nothing else tells follows from where it lies now.
        row(1e3 if p.pinned else 1e-4, np.log(p.present.mm_per_px), (i, 1.0))
    ids = [p.id for p in problem.pictures]
    for known in problem.picture_lengths:
        row(10.0, np.log(known.mm / known.px), (ids.index(known.picture), 1.0))
    scales = np.exp(np.linalg.lstsq(np.array(rows), np.array(values), rcond=None)[0][:n])
    if any(p.pinned for p in problem.pictures) or problem.picture_lengths:
        return np.asarray(scales)
    return np.asarray(scales * _by_lengths(problem, lines, scales))


def _by_lengths(problem: Problem, lines: list[_Line], scales: Floats) -> float:
    """The factor that brings known lengths, or fixed coordinates, to their true size."""
    ratios = []
    for length in problem.lengths:
        axes = range(3) if length.axis is None else (length.axis,)
        parts = [_between(lines, scales, length.a, length.b, axis) for axis in axes]
        shown = [p for p in parts if p is not None]
        if shown and np.hypot.reduce(shown) > 0:
            ratios.append(length.mm / float(np.hypot.reduce(shown)))
    for axis in range(3):
        fixed = [(m.name, m.fixed[axis]) for m in problem.landmarks if m.fixed[axis] is not None]
        for (a, va), (b, vb) in itertools.combinations(fixed, 2):
            part = _between(lines, scales, a, b, axis)
            if part and va is not None and vb is not None and va != vb:
                ratios.append(abs(va - vb) / part)
    return float(np.median(ratios)) if ratios else 1.0


def _between(lines: list[_Line], scales: Floats, a: str, b: str, axis: int) -> float | None:
    """How far two landmarks lie apart along an axis, as drawings that show both tell."""
    found = [
        abs(line.at[a] - line.at[b]) * scales[line.picture]
        for line in lines
        if line.axis == axis and a in line.at and b in line.at
    ]
    return float(np.median(found)) if found else None


def _offsets(
    problem: Problem, lines: list[_Line], scales: Floats, flips: NDArray[np.bool_]
) -> tuple[dict[tuple[int, int], float], dict[str, list[float | None]]]:
    """For each (drawing, axis) what is added to scaled pixels to give mm, and the landmarks."""
    points: dict[str, list[float | None]] = {m.name: list(m.fixed) for m in problem.landmarks}
    offsets: dict[tuple[int, int], float] = {}
    for axis in range(3):
        here = [line for line in lines if line.axis == axis and line.at]
        here.sort(key=lambda line: (not problem.pictures[line.picture].pinned, -len(line.at)))
        while here:
            line = next((n for n in here if _knows(n, points, problem, axis)), here[0])
            here.remove(line)
            factor = _factor(line, scales, flips)
            offsets[line.picture, axis] = _offset(line, factor, points, problem, axis)
            for name, px in line.at.items():
                if points[name][axis] is None:
                    points[name][axis] = factor * px + offsets[line.picture, axis]
    return offsets, points


def _factor(line: _Line, scales: Floats, flips: NDArray[np.bool_]) -> float:
    flipped = line.side == 0 and flips[line.picture]
    return float(scales[line.picture]) * (-1.0 if flipped else 1.0)


def _knows(line: _Line, points: dict[str, list[float | None]], problem: Problem, axis: int) -> bool:
    return problem.pictures[line.picture].pinned or any(
        points[name][axis] is not None for name in line.at
    )


def _offset(
    line: _Line,
    factor: float,
    points: dict[str, list[float | None]],
    problem: Problem,
    axis: int,
) -> float:
    picture = problem.pictures[line.picture]
    if picture.pinned:
        origin = picture.present.origin_px
        px = origin[0] if line.side == 0 else -origin[1]
        return -factor * px * picture.view.paper_signs[line.side]
    known = [(factor * px, points[name][axis]) for name, px in line.at.items()]
    shifts = [value - mine for mine, value in known if value is not None]
    if shifts:
        return float(np.median(shifts))
    # The first along this axis: its middle lies on the origin.
    mine = [m for m, _ in known]
    return -(min(mine) + max(mine)) / 2


def _pose(
    problem: Problem,
    i: int,
    scale: float,
    mirrored: bool,
    offsets: dict[tuple[int, int], float],
) -> Pose:
    picture = problem.pictures[i]
    view = picture.view
    origin = list(picture.present.origin_px)
    for side, axis in enumerate(view.paper_axes):
        if axis is None or (i, axis) not in offsets:
            continue
        factor = scale * (-1.0 if side == 0 and mirrored else 1.0)
        # Where the axis is zero: factor * px + offset = 0, in pixels along the axis.
        px = -offsets[i, axis] / factor * view.paper_signs[side]
        origin[side] = px if side == 0 else -px
    aspect = picture.present.aspect if picture.stretched else 1.0
    if not isinstance(view, View):
        scale = picture.present.mm_per_px
    return Pose(1.0 / scale, 0.0, (origin[0], origin[1]), mirrored, aspect)
