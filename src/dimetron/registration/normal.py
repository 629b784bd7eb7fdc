"""Residuals of a registration problem and their normal equations, as arrays.

The unknowns are five numbers of each picture's pose (alpha, beta, origin x and y, aspect) and three
coordinates of each landmark; mirrored twins share theirs. Landmarks that no length ties to others
are eliminated one by one (the Schur complement of bundle adjustment: Triggs et al., "Bundle
adjustment, a modern synthesis", 2000), so the system that is solved has the size of the pictures.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from dimetron.registration.pose import Pose
from dimetron.registration.problem import Problem
from dimetron.registration.usual import Usual, usual_rows

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Mask = NDArray[np.bool_]
_TINY = 1e-12


@dataclass(frozen=True, slots=True, eq=False)
class State:
    """poses (n, 5); points (g, 3): coordinates of landmark groups in mm."""

    poses: Floats
    points: Floats


@dataclass(frozen=True, slots=True, eq=False)
class Arrays:
    """A problem as arrays. basis (n, 2, 3): right and up of each picture's view, right negated if
    it is mirrored; group, sign: of each landmark (k,), (k, 3)."""

    basis: Floats
    group: Ints
    sign: Floats
    picture: Ints
    landmark: Ints
    px: Floats
    weight: Floats
    along: Floats
    guided: Mask
    length_ends: Ints
    length_axis: Floats
    length_mm: Floats
    length_sigma: Floats
    known_picture: Ints
    known_ratio: Floats
    known_sigma: Floats
    free_pose: Mask
    free_point: Mask
    usual: Usual | None = None

    @property
    def count(self) -> tuple[int, int]:
        """How many pictures and how many landmarks."""
        return len(self.basis), len(self.free_point)


@dataclass(frozen=True, slots=True, eq=False)
class Rows:
    """Weighted residuals and what they change with. marks (s, 2), their slopes by pose (s, 2, 5)
    and by point (s, 2, 3); lengths (m,) with (m, 2, 3); known (q,) with (q, 2); usual (r,) with
    (r, 5 n)."""

    marks: Floats
    by_pose: Floats
    by_point: Floats
    lengths: Floats
    by_ends: Floats
    known: Floats
    by_scale: Floats
    usual: Floats
    by_usual: Floats


def arrays_of(problem: Problem, mirrored: Mask) -> Arrays:
    """mirrored (n,): which pictures are taken as mirrored."""
    pictures = {p.id: i for i, p in enumerate(problem.pictures)}
    names = {m.name: i for i, m in enumerate(problem.landmarks)}
    group, sign = _groups(problem, names)
    groups = int(group.max(initial=-1)) + 1
    basis = np.zeros((len(pictures), 2, 3))
    for i, p in enumerate(problem.pictures):
        frame = p.view.directions
        basis[i] = (-frame.right if mirrored[i] else frame.right), frame.up
    marks = problem.sightings
    picture = np.array([pictures[m.picture] for m in marks], np.intp)
    landmark = np.array([names[m.landmark] for m in marks], np.intp)
    trust = np.array([p.trust for p in problem.pictures])
    sigma = np.array([m.sigma_px for m in marks])
    free_pose = np.array([[not p.pinned] * 4 + [p.stretched and not p.pinned]
                          for p in problem.pictures], bool).reshape(-1, 5)  # fmt: skip
    along = np.zeros((len(marks), 3))
    for i, mark in enumerate(marks):
        if mark.axis is not None:
            along[i, mark.axis] = 1.0
    ends = [(names[length.a], names[length.b]) for length in problem.lengths]
    axis = np.array([np.eye(3)[n.axis] if n.axis is not None else np.zeros(3)
                     for n in problem.lengths]).reshape(-1, 3)  # fmt: skip
    known = problem.picture_lengths
    return Arrays(
        basis,
        group,
        sign,
        picture,
        landmark,
        np.array([m.px for m in marks], np.float64).reshape(-1, 2),
        np.sqrt(trust[picture]) / sigma if len(marks) else np.zeros(0),
        along,
        np.asarray(along.any(axis=1)),
        np.array(ends, np.intp).reshape(-1, 2),
        axis,
        np.array([n.mm for n in problem.lengths]),
        np.array([n.sigma_mm for n in problem.lengths]),
        np.array([pictures[k.picture] for k in known], np.intp),
        np.array([k.mm / k.px for k in known]),
        np.array([k.sigma_share for k in known]),
        free_pose,
        _free_points(problem, group, sign, groups, basis, picture, landmark, along),
    )


def _groups(problem: Problem, names: dict[str, int]) -> tuple[Ints, Floats]:
    """Twins that mirror each other share a group; the second has its X negated."""
    group = np.full(len(names), -1, np.intp)
    sign = np.ones((len(names), 3))
    count = 0
    for i, mark in enumerate(problem.landmarks):
        if group[i] >= 0:
            continue
        group[i] = count
        twins = [names[mark.mirror]] if mark.mirror else []
        twins += [j for j, m in enumerate(problem.landmarks) if m.mirror == mark.name]
        for j in twins:
            if group[j] < 0:
                group[j], sign[j] = count, (-1.0, 1.0, 1.0)
        count += 1
    return group, sign


def _free_points(
    problem: Problem,
    group: Ints,
    sign: Floats,
    groups: int,
    basis: Floats,
    picture: Ints,
    landmark: Ints,
    along: Floats,
) -> Mask:
    """Which coordinates are to be found: seen by a mark, and not known beforehand."""
    seen = np.zeros((groups, 3), bool)
    for i, k in enumerate(landmark):
        shown = np.abs(basis[picture[i]]).max(axis=0) > 1e-6
        if along[i].any():
            shown &= along[i] > 0
        seen[group[k]] |= shown
    for k, mark in enumerate(problem.landmarks):
        for axis in range(3):
            if mark.fixed[axis] is not None:
                seen[group[k], axis] = False
    return seen


def fixed_points(problem: Problem, arrays: Arrays) -> Floats:
    """(g, 3) what is known of each landmark group beforehand; NaN where nothing is."""
    found = np.full((len(arrays.free_point), 3), np.nan)
    for k, mark in enumerate(problem.landmarks):
        for axis in range(3):
            value = mark.fixed[axis]
            if value is not None:
                found[arrays.group[k], axis] = value * arrays.sign[k, axis]
    return found


def poses_array(poses: list[Pose]) -> Floats:
    """(p, 4) rows of poses, as the solver has them."""
    return np.array([[p.alpha, p.beta, *p.origin_px, p.aspect] for p in poses])


def pose_from(row: Floats, mirrored: bool) -> Pose:
    """The pose of such a row (4,)."""
    a, b, x, y, aspect = (float(v) for v in row)
    return Pose(a, b, (x, y), mirrored, aspect)


def rows(arrays: Arrays, state: State) -> Rows:
    """All residuals at a state, each over its own standard deviation."""
    pose = state.poses[arrays.picture]
    sign = arrays.sign[arrays.landmark]
    at = state.points[arrays.group[arrays.landmark]] * sign
    basis = arrays.basis[arrays.picture]
    plane = np.einsum("sij,sj->si", basis, at)
    alpha, beta, aspect = pose[:, 0], pose[:, 1], pose[:, 4]
    right, up = plane[:, 0], plane[:, 1]
    turned = beta * right + alpha * up
    x = pose[:, 2] + alpha * right - beta * up
    y = pose[:, 3] - aspect * turned
    away = np.stack([x, y], axis=1) - arrays.px
    by_pose = np.zeros((len(away), 2, 5))
    by_pose[:, 0, 0], by_pose[:, 0, 1], by_pose[:, 0, 2] = right, -up, 1.0
    by_pose[:, 1, 0], by_pose[:, 1, 1] = -aspect * up, -aspect * right
    by_pose[:, 1, 3], by_pose[:, 1, 4] = 1.0, -turned
    by_plane = np.empty((len(away), 2, 2))
    by_plane[:, 0, 0], by_plane[:, 0, 1] = alpha, -beta
    by_plane[:, 1, 0], by_plane[:, 1, 1] = -aspect * beta, -aspect * alpha
    by_world = by_plane @ basis
    if arrays.guided.any():
        away, by_pose, by_world = _guided(arrays, away, by_pose, by_world)
    w = arrays.weight[:, None]
    by_point = by_world * sign[:, None, :]
    return Rows(
        away * w,
        by_pose * w[..., None],
        by_point * w[..., None],
        *_length_rows(arrays, state),
        *_known_rows(arrays, state),
        *_usual_rows(arrays, state),
    )


def _guided(
    arrays: Arrays, away: Floats, by_pose: Floats, by_world: Floats
) -> tuple[Floats, Floats, Floats]:
    """Marks that count along one axis: the first row is that way in the picture, the second is
    nothing."""
    here = arrays.guided
    way = np.einsum("sij,sj->si", by_world[here], arrays.along[here])
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), _TINY)
    turn = np.zeros((len(away), 2, 2))
    turn[~here] = np.eye(2)
    turn[here, 0] = way
    return (
        np.einsum("sij,sj->si", turn, away),
        turn @ by_pose,
        turn @ by_world,
    )


def _length_rows(arrays: Arrays, state: State) -> tuple[Floats, Floats]:
    ends = arrays.length_ends
    signs = arrays.sign[ends]
    at = state.points[arrays.group[ends]] * signs
    way = at[:, 1] - at[:, 0]
    axial = np.asarray(arrays.length_axis.any(axis=1))
    way = np.where(axial[:, None], way * arrays.length_axis, way)
    long = np.linalg.norm(way, axis=1)
    unit = way / np.maximum(long, _TINY)[:, None] / arrays.length_sigma[:, None]
    residual = (long - arrays.length_mm) / arrays.length_sigma
    return residual, np.stack([-unit, unit], axis=1) * signs


def _known_rows(arrays: Arrays, state: State) -> tuple[Floats, Floats]:
    scale = state.poses[arrays.known_picture, :2]
    size = np.maximum((scale**2).sum(axis=1), _TINY)
    residual = (-0.5 * np.log(size) - np.log(arrays.known_ratio)) / arrays.known_sigma
    return residual, -scale / size[:, None] / arrays.known_sigma[:, None]


def _usual_rows(arrays: Arrays, state: State) -> tuple[Floats, Floats]:
    if arrays.usual is None:
        return np.zeros(0), np.zeros((0, state.poses.size))
    return usual_rows(arrays.usual, state.poses)


@dataclass(frozen=True, slots=True, eq=False)
class Weights:
    """How much each mark (s,), each length (m,) and each usual thing (r,) counts, 0 to 1."""

    marks: Floats
    lengths: Floats
    usual: Floats


@dataclass(frozen=True, slots=True, eq=False)
class Normal:
    """Normal equations after the loose landmarks were eliminated. kept, loose: groups; system
    (K, K) and right-hand side (K,) of poses and kept groups; the rest brings the loose ones
    back."""

    kept: Ints
    loose: Ints
    system: Floats
    wanted: Floats
    coupling: Floats
    inverse: Floats
    loose_wanted: Floats

    def solved(self, arrays: Arrays, damping: float) -> State:
        """The step of a damped Gauss-Newton, as a state of differences."""
        n, groups = arrays.count
        ridge = damping * np.maximum(np.diag(self.system), _TINY)
        step = np.linalg.solve(self.system + np.diag(ridge), self.wanted)
        points = np.zeros((groups, 3))
        points[self.kept] = step[5 * n :].reshape(-1, 3)
        rest = self.loose_wanted - np.einsum("kej,k->ej", self.coupling, step)
        points[self.loose] = np.einsum("eij,ej->ei", self.inverse, rest)
        return State(np.asarray(step[: 5 * n], np.float64).reshape(-1, 5), points)


def normal(arrays: Arrays, found: Rows, weights: Weights) -> Normal:
    """The normal equations of residuals that count by weights."""
    n, groups = arrays.count
    free_pose, free_point = arrays.free_pose, arrays.free_point
    group = arrays.group[arrays.landmark]
    root = np.sqrt(weights.marks)[:, None]
    marks, jp = found.marks * root, found.by_pose * root[..., None]
    jl = found.by_point * root[..., None]
    jp = jp * free_pose[arrays.picture][:, None, :]
    jl = jl * free_point[group][:, None, :]
    pp, pg = np.zeros((n, 5, 5)), np.zeros(n * 5)
    np.add.at(pp, arrays.picture, np.einsum("sri,srj->sij", jp, jp))
    np.add.at(pg.reshape(n, 5), arrays.picture, -np.einsum("sri,sr->si", jp, marks))
    ll, lg = np.zeros((groups, 3, 3)), np.zeros((groups, 3))
    np.add.at(ll, group, np.einsum("sri,srj->sij", jl, jl))
    np.add.at(lg, group, -np.einsum("sri,sr->si", jl, marks))
    pl = np.zeros((n, groups, 5, 3))
    np.add.at(pl, (arrays.picture, group), np.einsum("sri,srj->sij", jp, jl))
    _add_known(arrays, found, pp, pg)
    kept = np.unique(arrays.group[arrays.length_ends])
    loose = np.setdiff1d(np.arange(groups), kept)
    system, wanted = _kept_part(arrays, found, weights, kept, pp, pg, ll, lg, pl)
    eye = np.eye(3)
    held = ~free_point[loose]
    inverse = np.asarray(np.linalg.inv(ll[loose] + held[:, :, None] * eye), np.float64)
    coupling = np.zeros((len(system), len(loose), 3))
    coupling[: 5 * n] = pl[:, loose].transpose(0, 2, 1, 3).reshape(5 * n, len(loose), 3)
    through = np.einsum("kei,eij->kej", coupling, inverse)
    flat = through.reshape(len(system), -1)
    system = system - flat @ coupling.reshape(len(system), -1).T
    wanted = wanted - np.einsum("kej,ej->k", through, lg[loose])
    return Normal(kept, loose, system, wanted, coupling, inverse, lg[loose])


def _add_known(arrays: Arrays, found: Rows, pp: Floats, pg: Floats) -> None:
    for i, picture in enumerate(arrays.known_picture):
        slope = found.by_scale[i] * arrays.free_pose[picture, :2]
        pp[picture, :2, :2] += np.outer(slope, slope)
        pg[5 * picture : 5 * picture + 2] -= slope * found.known[i]


def _kept_part(
    arrays: Arrays,
    found: Rows,
    weights: Weights,
    kept: Ints,
    pp: Floats,
    pg: Floats,
    ll: Floats,
    lg: Floats,
    pl: Floats,
) -> tuple[Floats, Floats]:
    """The dense part: poses, and the landmarks that lengths tie together."""
    n = len(pp)
    size = 5 * n + 3 * len(kept)
    system, wanted = np.zeros((size, size)), np.zeros(size)
    wanted[: 5 * n] = pg
    for i in range(n):
        system[5 * i : 5 * i + 5, 5 * i : 5 * i + 5] = pp[i]
    for at, g in enumerate(kept):
        here = slice(5 * n + 3 * at, 5 * n + 3 * at + 3)
        system[here, here] += ll[g]
        wanted[here] += lg[g]
        across = pl[:, g].reshape(5 * n, 3)
        system[: 5 * n, here] += across
        system[here, : 5 * n] += across.T
    place = {int(g): 5 * n + 3 * at for at, g in enumerate(kept)}
    for i, (a, b) in enumerate(arrays.group[arrays.length_ends]):
        slope = np.zeros(size)
        for end, g in ((0, int(a)), (1, int(b))):
            free = arrays.free_point[g]
            slope[place[g] : place[g] + 3] += found.by_ends[i, end] * free
        system += weights.lengths[i] * np.outer(slope, slope)
        wanted -= weights.lengths[i] * slope * found.lengths[i]
    usual = found.by_usual * arrays.free_pose.ravel()
    system[: 5 * n, : 5 * n] += (usual * weights.usual[:, None]).T @ usual
    wanted[: 5 * n] -= usual.T @ (weights.usual * found.usual)
    free = np.concatenate([arrays.free_pose.ravel(), arrays.free_point[kept].ravel()])
    system[~free, ~free] += 1.0
    return system, wanted


def with_frozen(arrays: Arrays, frozen: list[tuple[int, int]]) -> Arrays:
    """The same with some numbers of poses (picture, number) held where they are."""
    free = arrays.free_pose.copy()
    for picture, number in frozen:
        free[picture, number] = False
    return replace(arrays, free_pose=free)
