"""The one least-squares problem: poses of all drawings and all landmarks together.

Levenberg and Marquardt's damped Gauss-Newton on the reduced normal equations, with the weights of
Huber's robust estimate (Huber, "Robust estimation of a location parameter", 1964).
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from dimetron.registration.gauge import Gauge, frozen_for, gauge_of, moved_to_origin
from dimetron.registration.normal import (
    Arrays,
    Floats,
    Mask,
    Normal,
    Rows,
    State,
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

#: Residuals beyond so many standard deviations count less.
_HUBER, _CAUCHY = 2.5, 2.5
#: How weakly scales are held, in the logarithm.
_SCALE_WISH = 10.0
_MOST_ROUNDS = 60
#: Marks that miss by so many times what was said are looked at from other starts, too; what is
#: found there must have at most this share of the cost.
POOR, _CLEARLY = 4.0, 0.5
#: Costs that differ by less are the same.
_ALIKE = 1.01
_SETTLED, _SEEN = 1e-11, 1e-5
#: Directions of the reduced system weaker than this share of a typical one are not determined.
_LOOSE = 1e-9
#: Numbers of which less is told than that (over their squared unit) are not determined either:
#: they could be off by a thousand pixels, or millimetres.
_INFORMED = 1e-6
#: A picture takes part in such a direction with at least this share, and a freedom of it is named
#: that moves points by at least this share of the freest; measured that far off.
_TAKES_PART, _NOTICED, _FAR_PX = 1e-2, 1e-2, 1000.0
#: The noise is taken as said with this many degrees of freedom, and corrected by what is found.
_BELIEF = 8.0


#: A picture's id, and "scale", "turn" or the axis along which its place is open.
Freedom = tuple[str, str | int]


@dataclass(frozen=True, slots=True, eq=False)
class Solution:
    """poses by picture id; points and sigmas by landmark name, None along what is not known.

    off (s, 2): by how many pixels each sighting misses, as the picture counts; off_mm (s,) the same
    in mm. length_off_mm (m,): by how much each known length is missed. loose: (picture, freedom)
    that nothing determines, freedom "scale", "turn", 0, 1 or 2 for an axis.
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
    held, state = descent.held, descent.state
    last, covariance, loose = _at_rest(problem, held, state)
    if not loose and not quick:
        # The marks tell everything, so nothing need be wished for: the last digits without it.
        state = _descended(held, state)
        last, covariance, loose = _at_rest(problem, held, state)
    arrays, flips, gauge = descent.arrays, descent.mirrored, descent.gauge
    return _told(problem, arrays, held, state, last, covariance, loose, flips, gauge)


@dataclass(frozen=True, slots=True, eq=False)
class _Descent:
    """Where solving from one start ended. held: the arrays with what the gauge freezes."""

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
    state = _descended(_with_scales_kept(held, state), state, settled)
    return _Descent(arrays, held, state, start.mirrored, gauge, _cost(rows(held, state)))


def _least(problem: Problem, first: _Descent) -> _Descent:
    """Marks that miss far more than they were picked may have led to a minimum that is none of
    the true one's, with a drawing mirrored above all: the lowest of all starts' is taken."""
    if _noise(problem, first.held, rows(first.held, first.state)) < POOR:
        return first
    found = [first]
    for start in other_starts(problem, first.mirrored):
        try:
            found.append(_descent(problem, start, _SEEN))
        except np.linalg.LinAlgError:
            continue
    least = min(descent.cost for descent in found)
    present = np.array([p.present.mirrored for p in problem.pictures])
    # An object and its mirror image cost the same: the one in which fewer drawings are turned over.
    best = min(
        (descent for descent in found if descent.cost <= _ALIKE * least),
        key=lambda descent: int((descent.mirrored != present).sum()),
    )
    # A little less is not worth another reading than the usual one.
    return best if best.cost < _CLEARLY * first.cost else first


def _at_rest(
    problem: Problem, arrays: Arrays, state: State
) -> tuple[Normal, Floats, tuple[Freedom, ...]]:
    """The normal equations at a state, their covariance, and what nothing determines."""
    found = rows(arrays, state)
    last = normal(arrays, found, _weights(found))
    return last, *_covariance(problem, arrays, state, last)


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


def _weights(found: Rows) -> tuple[Floats, Floats]:
    """Huber's weights of marks, by their distance from where they should be; Cauchy's of lengths,
    which are so much more exact that a wrong one would else bend the object to itself."""
    marks = np.hypot(found.marks[:, 0], found.marks[:, 1])
    return _huber(marks), 1.0 / (1.0 + (found.lengths / _CAUCHY) ** 2)


def _huber(size: Floats) -> Floats:
    return np.asarray(np.minimum(1.0, _HUBER / np.maximum(size, 1e-12)))


def _cost(found: Rows) -> float:
    """What the weights make least."""
    size = np.hypot(found.marks[:, 0], found.marks[:, 1])
    near = size <= _HUBER
    total = float((found.known**2).sum() + (size[near] ** 2).sum())
    total += float((2 * _HUBER * size[~near] - _HUBER**2).sum())
    return total + float(_CAUCHY**2 * np.log1p((found.lengths / _CAUCHY) ** 2).sum())


def _descended(arrays: Arrays, state: State, settled: float = _SETTLED) -> State:
    """Down to rest, or until a step gains no more than a share of what is left."""
    found = rows(arrays, state)
    cost, damping = _cost(found), 1e-4
    system = normal(arrays, found, _weights(found))
    for _ in range(_MOST_ROUNDS):
        step = system.solved(arrays, damping)
        tried = State(state.poses + step.poses, state.points + step.points)
        ahead = rows(arrays, tried)
        after = _cost(ahead)
        if not np.isfinite(after) or after > cost:
            damping *= 8.0
            if damping > 1e8:
                break
            continue
        gained = cost - after
        state, found, cost = tried, ahead, after
        damping = max(damping / 8.0, 1e-12)
        system = normal(arrays, found, _weights(found))
        if gained <= settled * max(cost, 1e-6):
            break
    return state


def _told(
    problem: Problem,
    arrays: Arrays,
    held: Arrays,
    state: State,
    system: Normal,
    covariance: Floats,
    loose: tuple[Freedom, ...],
    mirrored: Mask,
    gauge: Gauge,
) -> Solution:
    found = rows(held, state)
    noise = _noise(problem, held, found)
    strength = _strength(held, found, system, covariance)
    state, said = moved_to_origin(problem, arrays, state, gauge)
    off, off_mm = _misses(arrays, state)
    poses = {
        p.id: pose_from(state.poses[i], bool(mirrored[i])) for i, p in enumerate(problem.pictures)
    }
    points, sigmas = _landmarks(problem, arrays, state, system, covariance, noise)
    lengths = found.lengths * arrays.length_sigma
    return Solution(
        problem, poses, points, sigmas, off, off_mm, lengths, strength, noise, gauge, said, loose
    )


def _covariance(
    problem: Problem, arrays: Arrays, state: State, system: Normal
) -> tuple[Floats, tuple[Freedom, ...]]:
    """Covariance (K, K) of poses and kept landmarks, and what nothing determines.

    The system is first brought to a common scale: numbers of poses differ by powers of ten."""
    told = np.diag(system.system)
    some = told > _INFORMED
    size = np.where(some, 1 / np.sqrt(np.where(some, told, 1.0)), 1.0)
    even = (system.system * size[:, None] * size)[np.ix_(some, some)]
    values, vectors = np.linalg.eigh(even)
    null = values < _LOOSE * max(1.0, float(values.max(initial=1.0)))
    kept = np.zeros((len(told), int((~null).sum())))
    kept[some] = vectors[:, ~null] / np.sqrt(np.maximum(values[~null], 1e-30))
    covariance = (kept @ kept.T) * size[:, None] * size
    # What nothing at all tells of is loose by itself.
    open_ways = np.zeros((len(told), int(null.sum() + (~some).sum())))
    open_ways[some, : int(null.sum())] = vectors[:, null]
    open_ways[~some, int(null.sum()) :] = np.eye(int((~some).sum()))
    return covariance, _freedoms(problem, arrays, state, open_ways, size)


def _freedoms(
    problem: Problem, arrays: Arrays, state: State, null: Floats, size: Floats
) -> tuple[Freedom, ...]:
    """Names of what the null directions (K, q) move: a picture's scale, turn, or place along an
    axis. size (K,): what brings them to the numbers' own scale."""
    found: dict[tuple[str, str | int], None] = {}
    for i, picture in enumerate(problem.pictures):
        here = slice(5 * i, 5 * i + 5)
        if not (arrays.picture == i).any() and not picture.pinned:
            names: tuple[str | int, ...] = ("scale", "turn", *picture.view.axes)
            found.update({(picture.id, name): None for name in names})
            continue
        taking_part = np.abs(null[here]).max(axis=0, initial=0.0) > _TAKES_PART
        if picture.pinned or not taking_part.any():
            continue
        part = null[here][:, taking_part] * size[here, None]
        a, b = state.poses[i, :2]
        # By how many pixels each freedom moves a point as far off as a drawing is wide.
        by_scale = np.abs(np.array([a, b]) @ part[:2]).max() / np.hypot(a, b) ** 2 * _FAR_PX
        by_turn = np.abs(np.array([-b, a]) @ part[:2]).max() / np.hypot(a, b) ** 2 * _FAR_PX
        moved = np.abs(part[2:4]).max(axis=1)
        least = _NOTICED * max(float(by_scale), float(by_turn), float(moved.max()))
        if by_scale > least:
            found[picture.id, "scale"] = None
        if by_turn > least:
            found[picture.id, "turn"] = None
        for axis in picture.view.axes:
            right, up = arrays.basis[i][:, axis]
            x, y = a * right - b * up, b * right + a * up
            if moved[0 if abs(x) >= abs(y) else 1] > least:
                found[picture.id, axis] = None
    return tuple(found)


def _noise(problem: Problem, arrays: Arrays, found: Rows) -> float:
    """By how much the noise is larger than was said, from what is left over; 1 if little is."""
    weights = _weights(found)[0]
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
