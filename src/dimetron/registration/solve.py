"""The one least-squares problem: poses of all drawings and all landmarks together.

Levenberg and Marquardt's damped Gauss-Newton on the reduced normal equations, with the weights of
Huber's robust estimate (Huber, "Robust estimation of a location parameter", 1964).
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from dimetron.registration.certainty import Freedom, Known, certainty, marks_in
from dimetron.registration.gauge import (
    Gauge,
    as_large_as_now,
    frozen_for,
    gauge_of,
    moved_to_origin,
)
from dimetron.registration.normal import (
    Arrays,
    Floats,
    Mask,
    Normal,
    Rows,
    State,
    Weights,
    arrays_of,
    fixed_points,
    normal,
    pose_from,
    poses_array,
    rows,
    with_frozen,
)
from dimetron.registration.pose import Pose
from dimetron.registration.problem import Problem, RegistrationError, checked
from dimetron.registration.start import Start, initial_guess, other_starts
from dimetron.registration.usual import CLOSELY, WIDELY, usual_cost, usual_of, usual_weights

#: Residuals beyond so many standard deviations count less.
_HUBER, _CAUCHY = 2.5, 2.5
#: How weakly scales are held, in the logarithm.
_SCALE_WISH = 10.0
_MOST_ROUNDS = 300
#: Marks that miss by so many times what was said are looked at from other starts, too; what is
#: found there must have at most this share of the cost.
POOR, _CLEARLY = 4.0, 0.5
#: What it costs to take a drawing as mirrored otherwise than it lies, so that only marks which bear
#: it out do: as much as one in three million.
_TURNED_OVER = 30.0
_SETTLED, _SEEN = 1e-11, 1e-5
#: The noise is taken as said with this many degrees of freedom, and corrected by what is found.
_BELIEF = 8.0


@dataclass(frozen=True, slots=True, eq=False)
class Solution:
    """poses by picture id; points and sigmas by landmark name, None along what is not known.

    off (s, 2): by how many pixels each sighting misses, as the picture counts; off_mm (s,) the same
    in mm. length_off_mm (m,): by how much each known length is missed. loose: (picture, freedom)
    that nothing determines, freedom "scale", "turn", 0, 1 or 2 for an axis: it stays about as it
    lies. as_usual: whether anything rests on what is usual, and so on where the drawings lie now.
    cost: what is left over of marks and lengths, in squared standard deviations.
    """

    problem: Problem
    poses: dict[str, Pose]
    points: dict[str, tuple[float | None, float | None, float | None]]
    sigmas: dict[str, tuple[float | None, float | None, float | None]]
    off: Floats
    off_mm: Floats
    length_off_mm: Floats
    strength: Floats
    noise: float
    gauge: Gauge
    said: tuple[str, ...]
    loose: tuple[Freedom, ...]
    as_usual: bool = False
    cost: float = 0.0

    @property
    def rms_mm(self) -> float:
        """Root mean square of how far marks are off, in mm."""
        return float(np.sqrt(np.mean(self.off_mm**2))) if len(self.off_mm) else 0.0

    @property
    def rms_px(self) -> float:
        """The same in pixels."""
        return float(np.sqrt(np.mean((self.off**2).sum(axis=1)))) if len(self.off) else 0.0


def solve(problem: Problem, start: Start | None = None, quick: bool = False) -> Solution:
    """Find everything that the marks determine. quick: from a start that is nearly there already,
    and to less than can be seen, as while a mark is dragged. Raises RegistrationError."""
    checked(problem)
    if not problem.sightings:
        raise RegistrationError("Nothing is marked yet; mark a landmark in two drawings.")
    descent = _descent(problem, start or initial_guess(problem), _SEEN if quick else _SETTLED)
    if start is None and not quick:
        descent = _least(problem, descent)
    held = descent.held
    state = as_large_as_now(problem, held, descent.state, descent.gauge)
    known = certainty(problem, held, state, _weights)
    as_usual = not known.certain
    if known.certain and not quick:
        # The marks tell everything, so nothing need be taken as usual: the last digits without it.
        state = _descended(held, state)
        known = certainty(problem, held, state, _weights)
    found = _told(problem, descent, state, known)
    return replace(found, as_usual=as_usual, cost=_cost(held, rows(held, state)))


@dataclass(frozen=True, slots=True, eq=False)
class _Descent:
    """Where solving from one start ended. held: the arrays with what the gauge freezes; cost:
    with what is usual."""

    arrays: Arrays
    held: Arrays
    state: State
    mirrored: Mask
    gauge: Gauge
    cost: float


def _descent(problem: Problem, start: Start, settled: float) -> _Descent:
    arrays = arrays_of(problem, start.mirrored)
    state = first_state(problem, arrays, start)
    arrays = _with_balance(arrays, state)
    gauge = gauge_of(problem, arrays)
    held = with_frozen(arrays, frozen_for(problem, arrays, state, gauge))
    wished = replace(
        _with_scales_kept(held, state),
        usual=usual_of(problem, marks_in(arrays), (CLOSELY, WIDELY)),
    )
    state = _descended(wished, state, settled)
    cost = _cost(wished, rows(wished, state))
    return _Descent(arrays, held, state, start.mirrored, gauge, cost)


def _least(problem: Problem, first: _Descent) -> _Descent:
    """Marks that miss far more than they were picked, or fit only drawings that lie as hardly any
    do, may have led to a minimum that is none of the true one's, or a drawing is mirrored: the
    lowest of all starts' is taken."""
    found = rows(first.held, first.state)
    odd = first.cost - _cost(first.held, found)
    if _noise(problem, first.held, found) < POOR and odd < _TURNED_OVER:
        return first
    present = np.array([p.present.mirrored for p in problem.pictures])
    tried = [first]
    for start in other_starts(problem, first.mirrored):
        try:
            tried.append(_descent(problem, start, _SEEN))
        except np.linalg.LinAlgError:
            continue

    def weighed(descent: _Descent) -> float:
        """An object and its mirror image cost the same, and few drawings are mirrored."""
        return descent.cost + _TURNED_OVER * int((descent.mirrored != present).sum())

    best = min(tried, key=weighed)
    # A little less is not worth another reading than the usual one.
    return best if best.cost < _CLEARLY * first.cost else first


def first_state(problem: Problem, arrays: Arrays, start: Start) -> State:
    """Where solving begins."""
    fixed = fixed_points(problem, arrays)
    points = np.where(np.isnan(fixed), 0.0, fixed)
    for k, mark in enumerate(problem.landmarks):
        g = arrays.group[k]
        for axis in range(3):
            value = start.points[mark.name][axis]
            if value is not None and arrays.free_point[g, axis]:
                points[g, axis] = value * arrays.sign[k, axis]
    return State(poses_array(start.poses), points)


def _with_balance(arrays: Arrays, state: State) -> Arrays:
    """Lengths that contradict each other count as exactly as they agree at the start: then two
    share the difference, and one against many is left aside."""
    if len(arrays.length_mm) < 2:
        return arrays
    off = rows(arrays, state).lengths * arrays.length_sigma
    spread = 1.4826 * float(np.median(np.abs(off) / arrays.length_mm))
    return replace(arrays, length_sigma=np.maximum(arrays.length_sigma, spread * arrays.length_mm))


def _with_scales_kept(arrays: Arrays, state: State) -> Arrays:
    """A very weak wish for every scale to stay what it was: else a drawing whose marks all lie at
    one spot would shrink to nothing, which fits them as well."""
    count = len(arrays.basis)
    ratio = 1 / np.hypot(state.poses[:, 0], state.poses[:, 1])
    return replace(
        arrays,
        known_picture=np.concatenate([arrays.known_picture, np.arange(count)]),
        known_ratio=np.concatenate([arrays.known_ratio, ratio]),
        known_sigma=np.concatenate([arrays.known_sigma, np.full(count, _SCALE_WISH)]),
    )


def _weights(arrays: Arrays, found: Rows) -> Weights:
    """Huber's weights of marks, by their distance from where they should be; Cauchy's of lengths,
    which are so much more exact that a wrong one would else bend the object to itself."""
    marks = np.hypot(found.marks[:, 0], found.marks[:, 1])
    usual = np.zeros(0) if arrays.usual is None else usual_weights(arrays.usual, found.usual)
    return Weights(_huber(marks), 1.0 / (1.0 + (found.lengths / _CAUCHY) ** 2), usual)


def _huber(size: Floats) -> Floats:
    return np.asarray(np.minimum(1.0, _HUBER / np.maximum(size, 1e-12)))


def _cost(arrays: Arrays, found: Rows) -> float:
    """What the weights make least."""
    size = np.hypot(found.marks[:, 0], found.marks[:, 1])
    near = size <= _HUBER
    total = float((found.known**2).sum() + (size[near] ** 2).sum())
    total += float((2 * _HUBER * size[~near] - _HUBER**2).sum())
    if arrays.usual is not None:
        total += usual_cost(arrays.usual, found.usual)
    return total + float(_CAUCHY**2 * np.log1p((found.lengths / _CAUCHY) ** 2).sum())


def _descended(arrays: Arrays, state: State, settled: float = _SETTLED) -> State:
    """Down to rest, or until a step gains no more than a share of what is left."""
    found = rows(arrays, state)
    cost, damping = _cost(arrays, found), 1e-4
    system = normal(arrays, found, _weights(arrays, found))
    for _ in range(_MOST_ROUNDS):
        step = system.solved(arrays, damping)
        tried = State(state.poses + step.poses, state.points + step.points)
        ahead = rows(arrays, tried)
        after = _cost(arrays, ahead)
        if not np.isfinite(after) or after > cost:
            damping *= 8.0
            if damping > 1e8:
                break
            continue
        gained = cost - after
        state, found, cost = tried, ahead, after
        damping = max(damping / 8.0, 1e-12)
        system = normal(arrays, found, _weights(arrays, found))
        if gained <= settled * max(cost, 1e-6):
            break
    return state


def _told(problem: Problem, descent: _Descent, state: State, known: Known) -> Solution:
    arrays, held, mirrored = descent.arrays, descent.held, descent.mirrored
    found = rows(held, state)
    noise = _noise(problem, held, found)
    strength = _strength(held, found, known.system, known.covariance)
    state, said = moved_to_origin(problem, arrays, state, descent.gauge)
    off, off_mm = _misses(arrays, state)
    poses = {
        p.id: pose_from(state.poses[i], bool(mirrored[i])) for i, p in enumerate(problem.pictures)
    }
    points, sigmas = _landmarks(problem, arrays, state, known.system, known.covariance, noise)
    lengths = found.lengths * arrays.length_sigma
    return Solution(
        problem,
        poses,
        points,
        sigmas,
        off,
        off_mm,
        lengths,
        strength,
        noise,
        descent.gauge,
        said,
        known.loose,
    )


def _noise(problem: Problem, arrays: Arrays, found: Rows) -> float:
    """By how much the noise is larger than was said, from what is left over; 1 if little is."""
    weights = _weights(arrays, found).marks
    used = 2 * len(found.marks) - int(arrays.guided.sum())
    unknowns = int(arrays.free_pose.sum() + arrays.free_point.sum())
    spare = max(0, used - unknowns)
    left = float(((found.marks**2).sum(axis=1) * weights).sum())
    return float(np.sqrt((_BELIEF + left) / (_BELIEF + spare)))


def _strength(arrays: Arrays, found: Rows, system: Normal, covariance: Floats) -> Floats:
    """(s,) residual of each mark over its own standard deviation, greatest first to suspect
    (Baarda, "A testing procedure for use in geodetic networks", 1968)."""
    jp, jl = _reduced_rows(arrays, found, system)
    var_pose = np.einsum("srk,kl,srl->sr", jp, covariance, jp)
    variance = 1.0 - var_pose - jl
    w = np.abs(found.marks) / np.sqrt(np.maximum(variance, 0.02))
    return np.asarray(w.max(axis=1))


def _reduced_rows(arrays: Arrays, found: Rows, system: Normal) -> tuple[Floats, Floats]:
    """Rows of marks on what is kept, after the loose landmark was eliminated (s, 2, K), and the
    share of their variance that the landmark itself takes (s, 2)."""
    n, groups = arrays.count
    count, size = len(found.marks), len(system.system)
    jp = np.zeros((count, 2, size))
    mine = np.arange(count)
    for number in range(5):
        free = arrays.free_pose[arrays.picture, number]
        jp[mine, :, 5 * arrays.picture + number] = found.by_pose[:, :, number] * free[:, None]
    group = arrays.group[arrays.landmark]
    jl = found.by_point * arrays.free_point[group][:, None, :]
    own = np.zeros((count, 2))
    where = np.full(groups, -1)
    where[system.loose] = np.arange(len(system.loose))
    kept = {int(g): 5 * n + 3 * at for at, g in enumerate(system.kept)}
    loose = where[group] >= 0
    at = where[group[loose]]
    through = np.einsum("srj,sji->sri", jl[loose], system.inverse[at])
    own[loose] = np.einsum("sri,sri->sr", through, jl[loose])
    jp[loose] -= np.einsum("sri,ksi->srk", through, system.coupling[:, at])
    for i in np.flatnonzero(~loose):
        begin = kept[int(group[i])]
        jp[i, :, begin : begin + 3] += jl[i]
    return jp, own


def _misses(arrays: Arrays, state: State) -> tuple[Floats, Floats]:
    """(s, 2) pixels from where each sighting should be to where it is; (s,) the same in mm."""
    found = rows(arrays, state)
    off = -found.marks / arrays.weight[:, None]
    size = np.hypot(state.poses[:, 0], state.poses[:, 1])[arrays.picture]
    return off, np.hypot(off[:, 0], off[:, 1]) / size


def _landmarks(
    problem: Problem,
    arrays: Arrays,
    state: State,
    system: Normal,
    covariance: Floats,
    noise: float,
) -> tuple[
    dict[str, tuple[float | None, float | None, float | None]],
    dict[str, tuple[float | None, float | None, float | None]],
]:
    n, groups = arrays.count
    variance = np.zeros((groups, 3))
    through = np.einsum("kej,eji->kei", system.coupling, system.inverse)
    spread = np.einsum("kei,kl,lei->ei", through, covariance, through)
    variance[system.loose] = np.einsum("eii->ei", system.inverse) + spread
    for number, g in enumerate(system.kept):
        here = 5 * n + 3 * number
        variance[g] = np.diag(covariance)[here : here + 3]
    sigma = np.sqrt(np.maximum(variance, 0.0)) * noise
    fixed = fixed_points(problem, arrays)
    known = ~np.isnan(fixed)
    points, sigmas = {}, {}
    for k, mark in enumerate(problem.landmarks):
        g = arrays.group[k]
        at: list[float | None] = [None, None, None]
        by: list[float | None] = [None, None, None]
        for axis in range(3):
            if arrays.free_point[g, axis] or known[g, axis]:
                at[axis] = float(state.points[g, axis] * arrays.sign[k, axis])
                by[axis] = 0.0 if known[g, axis] else float(sigma[g, axis])
        points[mark.name] = at[0], at[1], at[2]
        sigmas[mark.name] = by[0], by[1], by[2]
    return points, sigmas
