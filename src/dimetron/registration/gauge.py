"""What no mark can tell: where the origin is and how large a millimetre is."""

from __future__ import annotations

import statistics
from dataclasses import dataclass

import numpy as np

from dimetron.geometry.views import AXIS_NAMES
from dimetron.registration.normal import Arrays, Floats, State, fixed_points, pose_from
from dimetron.registration.problem import Problem


@dataclass(frozen=True, slots=True)
class Gauge:
    """free: axes along which nothing fixes the origin; scale: whether nothing gives the scale."""

    free: tuple[bool, bool, bool]
    scale: bool


def gauge_of(problem: Problem, arrays: Arrays) -> Gauge:
    """What is not fixed by coordinates, lengths or pinned drawings."""
    fixed = fixed_points(problem, arrays)
    known = ~np.isnan(fixed)
    pinned = [p for p in problem.pictures if p.pinned]
    free = [not known[:, axis].any() for axis in range(3)]
    for picture in pinned:
        for axis in picture.view.axes:
            free[axis] = False
    twins = any(mark.mirror for mark in problem.landmarks)
    free[0] = free[0] and not twins
    spread = any(
        known[:, axis].sum() > 1 and np.ptp(fixed[known[:, axis], axis]) > 0 for axis in range(3)
    )
    scale = not (pinned or problem.lengths or problem.picture_lengths or spread)
    return Gauge((free[0], free[1], free[2]), scale)


def frozen_for(
    problem: Problem, arrays: Arrays, state: State, gauge: Gauge
) -> list[tuple[int, int]]:
    """Numbers of poses (picture, number) to hold while solving, one for each free thing: of the
    drawing with the most sightings that shows the axis."""
    counts = np.bincount(arrays.picture, minlength=len(arrays.basis))
    order = np.argsort(-counts, kind="stable")
    frozen = []
    for axis in range(3):
        if not gauge.free[axis]:
            continue
        for i in order:
            if counts[i] and axis in problem.pictures[i].view.axes:
                frozen.append((int(i), 2 + _row_of(arrays, state, int(i), axis)))
                break
    if gauge.scale and len(order) and counts[order[0]]:
        a, b = state.poses[order[0], :2]
        frozen.append((int(order[0]), 0 if abs(a) >= abs(b) else 1))
    return frozen


def _row_of(arrays: Arrays, state: State, i: int, axis: int) -> int:
    """Whether a world axis runs more across (0) or more up (1) a picture."""
    right, up = arrays.basis[i][:, axis]
    a, b = state.poses[i, :2]
    x, y = a * right - b * up, b * right + a * up
    return 0 if abs(x) >= abs(y) else 1


def as_large_as_now(problem: Problem, arrays: Arrays, state: State, gauge: Gauge) -> State:
    """The same object as large as most of the marked pictures show it now, if nothing says how
    large it is. A coordinate that is known stays, and with it what it began with."""
    marked = np.unique(arrays.picture)
    known = np.nan_to_num(fixed_points(problem, arrays)).any()
    if not gauge.scale or known or not len(marked):
        return state
    now = [np.log(problem.pictures[i].present.mm_per_px) for i in marked]
    size = -np.log(np.hypot(state.poses[marked, 0], state.poses[marked, 1]))
    factor = float(np.exp(statistics.median_low((now - size).tolist())))
    poses = state.poses.copy()
    poses[:, :2] /= factor
    return State(poses, state.points * factor)


def moved_to_origin(
    problem: Problem, arrays: Arrays, state: State, gauge: Gauge
) -> tuple[State, tuple[str, ...]]:
    """The same state with the ground under the lowest landmark and the centre of the widest view in
    the middle, along axes that nothing fixes, or all about where it is; and what was done, in
    words."""
    if problem.in_place and any(gauge.free):
        shift = _kept(problem, arrays, state) * np.array(gauge.free)
        return _shifted(arrays, state, shift), ("the drawings stay about where they are",)
    shift, said = np.zeros(3), []
    for axis in range(3):
        if not gauge.free[axis]:
            continue
        seen = state.points[arrays.free_point[:, axis], axis]
        if not len(seen):
            continue
        if axis == 2:
            shift[2] = -seen.min()
            said.append("the lowest landmark was put on the ground")
        else:
            low, high = _widest(problem, arrays, state, axis)
            shift[axis] = -(low + high) / 2
            said.append(f"the middle of the widest view was put on {AXIS_NAMES[axis]} = 0")
    return _shifted(arrays, state, shift), tuple(said)


def _kept(problem: Problem, arrays: Arrays, state: State) -> Floats:
    """(3,) by how much the object must move so that the origin lies in the pictures where it lies
    in them now: about the middle of what the marked ones say along each axis."""
    told: list[list[float]] = [[], [], []]
    counts = np.bincount(arrays.picture, minlength=len(arrays.basis))
    for i, picture in enumerate(problem.pictures):
        # The basis of a mirrored picture is turned over already.
        right, up = pose_from(state.poses[i], False).to_plane(picture.present.origin_px)
        here = right * arrays.basis[i][0] + up * arrays.basis[i][1]
        for axis in picture.view.axes:
            told[axis] += [-float(here[axis])] * int(counts[i])
    return np.array([float(np.median(along)) if along else 0.0 for along in told])


def _widest(problem: Problem, arrays: Arrays, state: State, axis: int) -> tuple[float, float]:
    """Lowest and highest coordinate along an axis, in the drawing that shows most of it."""
    at = state.points[arrays.group[arrays.landmark], axis] * arrays.sign[arrays.landmark, axis]
    best = (float(at.min()), float(at.min()))
    for i, picture in enumerate(problem.pictures):
        here = at[arrays.picture == i]
        if axis in picture.view.axes and len(here) and np.ptp(here) > best[1] - best[0]:
            best = float(here.min()), float(here.max())
    return best


def _shifted(arrays: Arrays, state: State, shift: Floats) -> State:
    """Move the object by mm; each picture's origin goes the other way."""
    poses = state.poses.copy()
    plane = arrays.basis @ shift
    a, b, aspect = poses[:, 0], poses[:, 1], poses[:, 4]
    poses[:, 2] -= a * plane[:, 0] - b * plane[:, 1]
    poses[:, 3] += aspect * (b * plane[:, 0] + a * plane[:, 1])
    moved = state.points + np.where(arrays.free_point, shift, 0.0)
    return State(poses, moved)
