"""Where to begin: scales, places and mirroring of drawings, axis by axis, from shared sightings.

Drawings are taken to be turned as they lie; the few degrees by which that is wrong are left to the
least squares. Along each world axis a drawing shows a straight image of the object, so two drawings
that share two landmarks along an axis give the ratio of their scales there, the better the farther
these lie apart.
"""

from __future__ import annotations

import itertools
import math
from collections import Counter
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from dimetron.geometry.views import View
from dimetron.registration.pose import Pose
from dimetron.registration.problem import Picture, Problem
from dimetron.registration.usual import held_together

Floats = NDArray[np.float64]
#: More drawings than this are not tried in every combination of mirrored ones.
_MOST_TRIED = 10
#: How exactly a mark tells a place along an axis: a share of what is marked across, for the turn.
_TURNED = 0.01
#: A ratio of scales known no better than so says nothing of which way it runs.
_TELLING = 0.2
#: How exactly ratios of scales are told at best, and how near they stay to what they are for
#: drawings of one body and for others.
_BEST, _ALIKE, _USUAL = 0.003, 0.05, 0.5


@dataclass(slots=True)
class _Line:
    """What one drawing shows along one axis: (landmark, pixel in the axis's direction); sigma:
    how exactly, in pixels."""

    picture: int
    axis: int
    side: int
    at: dict[str, float] = field(default_factory=dict)
    sigma: float = 1.0


class _Slope(NamedTuple):
    """A scale against those of others along an axis, signed, and how exactly it is known, as a
    share."""

    ratio: float
    sigma: float


@dataclass(frozen=True, slots=True, eq=False)
class Start:
    """poses; mirrored (n,); joined (n,): which drawings hang together with the first of them."""

    poses: list[Pose]
    mirrored: NDArray[np.bool_]
    points: dict[str, list[float | None]]


def initial_guess(problem: Problem, mirrored: NDArray[np.bool_] | None = None) -> Start:
    """Poses and landmark coordinates to begin with. mirrored: which drawings are taken to be, if
    not those that lie so."""
    lines = _lines(problem)
    flips = np.array([p.present.mirrored for p in problem.pictures])
    return _begun(problem, lines, _slopes(lines), flips if mirrored is None else mirrored)


def _begun(
    problem: Problem,
    lines: list[_Line],
    slopes: dict[tuple[int, int], _Slope],
    flips: NDArray[np.bool_],
) -> Start:
    scales = _scales(problem, lines, slopes)
    offsets, points = _offsets(problem, lines, scales, flips)
    poses = [
        picture.present if picture.pinned else _pose(problem, i, scales[i], bool(flips[i]), offsets)
        for i, picture in enumerate(problem.pictures)
    ]
    return Start(poses, flips, points)


def other_starts(problem: Problem, flips: NDArray[np.bool_]) -> list[Start]:
    """Other places to begin than ``initial_guess``: where the drawings lie now, with those mirrored
    that make the marks run the same way, and with one of them taken as mirrored the other way."""
    lines = _lines(problem)
    slopes = _slopes(lines)
    agreeing = _mirrored(problem, lines, slopes)
    tried, found = [flips], [_as_placed(problem)]
    for i, picture in enumerate((None, *problem.pictures)):
        if picture is not None and picture.pinned:
            continue
        other = agreeing.copy() if picture is None else flips.copy()
        if picture is not None:
            other[i - 1] = not other[i - 1]
        if not any(np.array_equal(other, known) for known in tried):
            tried.append(other)
            found.append(_begun(problem, lines, slopes, other))
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
    seen: dict[int, list[Floats]] = {}
    for mark in problem.sightings:
        i = index[mark.picture]
        view = problem.pictures[i].view
        at = _upright(problem.pictures[i], mark.px)
        seen.setdefault(i, []).append(at)
        for side, axis in enumerate(view.paper_axes):
            if axis is None or mark.axis not in (None, axis):
                continue
            line = found[i, axis]
            line.at[mark.landmark] = float(at[side]) * view.paper_signs[side]
            line.sigma = max(line.sigma, mark.sigma_px)
    for line in found.values():
        if line.picture in seen:
            across = float(np.ptp([at[1 - line.side] for at in seen[line.picture]]))
            line.sigma = math.hypot(line.sigma, _TURNED * across)
    return list(found.values())


def _upright(picture: Picture, px: tuple[float, float]) -> Floats:
    """(2,) pixels right and up in a drawing that is turned back as far as it lies turned."""
    turn = complex(picture.present.alpha, picture.present.beta)
    at = complex(px[0], -px[1]) * abs(turn) / turn
    return np.array([at.real, at.imag])


def _slopes(lines: list[_Line]) -> dict[tuple[int, int], _Slope]:
    """For each (drawing, axis) its scale against others along that axis; those that share no two
    landmarks with any are left out."""
    found: dict[tuple[int, int], _Slope] = {}
    for axis in range(3):
        here = [line for line in lines if line.axis == axis and len(line.at) > 1]
        here.sort(key=lambda line: -len(line.at))
        known: dict[str, float] = {}
        sigma = 0.0
        while here:
            line = max(here, key=lambda n: _spread(n, known))
            if not _spread(line, known) > 0:
                if known:
                    break
                line = here[0]
                slope, shift = _Slope(1.0, _BEST), 0.0
                sigma = line.sigma
            else:
                slope, shift = _fitted(line, known, sigma)
            here.remove(line)
            found[line.picture, axis] = slope
            for name, px in line.at.items():
                known.setdefault(name, slope.ratio * px + shift)
    return found


def _spread(line: _Line, known: dict[str, float]) -> float:
    """How far apart landmarks lie that a line shares with what is known, over how exactly that is
    told; nothing if they share no two."""
    shared = [line.at[name] for name in line.at if name in known]
    return float(np.ptp(shared)) / line.sigma if len(shared) > 1 else 0.0


def _fitted(line: _Line, known: dict[str, float], sigma: float) -> tuple[_Slope, float]:
    """Slope and shift that bring a line's pixels onto what is known (to sigma), robust against a
    wrong one (the median of the slopes of all pairs: Theil and Sen)."""
    shared = [name for name in line.at if name in known]
    x = np.array([line.at[name] for name in shared])
    y = np.array([known[name] for name in shared])
    i, j = np.triu_indices(len(x), 1)
    wide = np.abs(x[i] - x[j])
    good = wide > 0.05 * wide.max()
    slope = float(np.median((y[i] - y[j])[good] / (x[i] - x[j])[good]))
    share = math.hypot(line.sigma / np.ptp(x), sigma / max(float(np.ptp(y)), 1e-9))
    return _Slope(slope, max(math.sqrt(2) * share, _BEST)), float(np.median(y - slope * x))


def _mirrored(
    problem: Problem, lines: list[_Line], slopes: dict[tuple[int, int], _Slope]
) -> NDArray[np.bool_]:
    """Which drawings are mirrored: the fewest that make the signs along each axis agree."""
    n = len(problem.pictures)
    now = np.array([p.present.mirrored for p in problem.pictures])
    sides = {(line.picture, line.axis): line.side for line in lines}
    telling = {key: slope for key, slope in slopes.items() if slope.sigma < _TELLING}
    ends = [(key, slope.ratio, sides[key]) for key, slope in telling.items()]
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


def _scales(problem: Problem, lines: list[_Line], slopes: dict[tuple[int, int], _Slope]) -> Floats:
    """(n,) mm per pixel of each drawing: the slopes of an axis have one unknown factor, the
    drawings one each; known ones stand fast, and to one another all are about as they lie."""
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
        value = np.log(max(abs(slope.ratio), 1e-12))
        row(1.0 / slope.sigma, value, (picture, 1.0), (n + axis, 1.0))
    sizes = [float(np.log(p.present.mm_per_px)) for p in problem.pictures]
    for i, p in enumerate(problem.pictures):
        # Only what nothing else tells follows from how large it is now.
        row(1e4 if p.pinned else 1e-4, sizes[i], (i, 1.0))
    ids = [p.id for p in problem.pictures]
    counts = Counter(m.picture for m in problem.sightings)
    pairs, alike = held_together(problem.pictures, np.array([counts[id_] for id_ in ids]))
    for (i, j), close in zip(pairs.tolist(), alike, strict=True):
        row(1.0 / (_ALIKE if close else _USUAL), sizes[i] - sizes[j], (i, 1.0), (j, -1.0))
    for known in problem.picture_lengths:
        row(1e3, np.log(known.mm / known.px), (ids.index(known.picture), 1.0))
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
    stays = -factor * _upright(picture, picture.present.origin_px)[line.side]
    stays *= picture.view.paper_signs[line.side]
    if picture.pinned:
        return float(stays)
    known = [(factor * px, points[name][axis]) for name, px in line.at.items()]
    shifts = [value - mine for mine, value in known if value is not None]
    if shifts:
        return float(np.median(shifts))
    if problem.in_place:
        return float(stays)
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
    origin = _upright(picture, picture.present.origin_px)
    for side, axis in enumerate(view.paper_axes):
        if axis is None or (i, axis) not in offsets:
            continue
        factor = scale * (-1.0 if side == 0 and mirrored else 1.0)
        # Where the axis is zero: factor * px + offset = 0, in pixels along the axis.
        origin[side] = -offsets[i, axis] / factor * view.paper_signs[side]
    aspect = picture.present.aspect if picture.stretched else 1.0
    if not isinstance(view, View):
        scale = picture.present.mm_per_px
    now = complex(picture.present.alpha, picture.present.beta)
    turn = now / abs(now)
    at = complex(*origin) * turn
    return Pose(turn.real / scale, turn.imag / scale, (at.real, -at.imag), mirrored, aspect)
