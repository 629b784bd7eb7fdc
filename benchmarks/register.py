"""Registration on made-up objects of known truth: errors against what the noise allows, suspects,
coverage of the standard deviations, and time against one bare SciPy call."""

from __future__ import annotations

import time
from dataclasses import replace

import numpy as np
from scipy.optimize import least_squares
from scipy.sparse import csr_matrix

from benchmarks.timing import fact, report, row
from dimetron.geometry.views import View
from dimetron.registration.solve import solve
from dimetron.registration.suspects import guess_from, suspects
from tests.registration.objects import THREE, Truth, few, made

CASES = 60
#: Sets with few landmarks.
FEW = 24
_STEP = 1e-6


def _predicted(truth: Truth, unknown: np.ndarray, fixed: np.ndarray) -> np.ndarray:
    """Pixels of all marks, and the known length, by a model written for this purpose alone."""
    views = [p.view for p in truth.problem.pictures]
    poses, points = unknown[: 4 * len(views)].reshape(-1, 4), fixed.copy()
    points[1:] = unknown[4 * len(views) :].reshape(-1, 3)
    out = []
    for view, flipped, (a, b, x, y) in zip(
        views, (p.mirrored for p in truth.poses), poses, strict=True
    ):
        plane = view.to_plane(points) * ([-1, 1] if flipped else [1, 1])
        out.append(
            np.stack(
                [x + a * plane[:, 0] - b * plane[:, 1], y - b * plane[:, 0] - a * plane[:, 1]],
                axis=1,
            )
        )
    ends = [points[0], points[1]]
    return np.concatenate([np.ravel(out), [np.linalg.norm(ends[1] - ends[0]) * 1e6]])


def _best_errors(truth: Truth) -> tuple[np.ndarray, np.ndarray]:
    """Standard deviations that no method can better (Cramer and Rao): of the landmarks but the
    first, which is known, and of the scales, as shares."""
    poses = np.array([[p.alpha, p.beta, *p.origin_px] for p in truth.poses])
    unknown = np.concatenate([poses.ravel(), truth.points[1:].ravel()])
    here = _predicted(truth, unknown, truth.points)
    slopes = np.empty((len(here), len(unknown)))
    for i in range(len(unknown)):
        step = _STEP * max(1.0, abs(unknown[i]))
        ahead, behind = unknown.copy(), unknown.copy()
        ahead[i], behind[i] = unknown[i] + step, unknown[i] - step
        slopes[:, i] = (
            _predicted(truth, ahead, truth.points) - _predicted(truth, behind, truth.points)
        ) / (2 * step)
    covariance = np.linalg.inv(slopes.T @ slopes)
    sigma = np.sqrt(np.diag(covariance))
    count = 4 * len(truth.poses)
    scales = np.array(
        [
            np.sqrt(poses[i, :2] @ covariance[4 * i : 4 * i + 2, 4 * i : 4 * i + 2] @ poses[i, :2])
            / (poses[i, :2] ** 2).sum()
            for i in range(len(poses))
        ]
    )
    return sigma[count:], scales


def errors() -> list[dict[str, object]]:
    points, scales, inside = [], [], []
    for seed in range(CASES):
        rng = np.random.default_rng(seed)
        flips = (False, bool(seed % 2), False)
        truth = made(rng, count=int(rng.integers(6, 16)), mirrored=flips, anchored=True)
        best_points, best_scales = _best_errors(truth)
        solution = solve(truth.problem)
        names = [m.name for m in truth.problem.landmarks[1:]]
        off = np.array([solution.points[n] for n in names], float) - truth.points[1:]
        sigma = np.array([solution.sigmas[n] for n in names], float)
        points.append((off.ravel() / best_points) ** 2)
        inside.append((np.abs(off) < 1.645 * sigma).ravel())
        found = np.array([solution.poses[f"p{i}"].mm_per_px for i in range(3)])
        true = np.array([p.mm_per_px for p in truth.poses])
        scales.append(((found / true - 1) / best_scales) ** 2)
    ratio = [float(np.sqrt(np.mean(np.concatenate(v)))) for v in (points, scales)]
    share = float(np.concatenate(inside).mean())
    return [
        fact(f"landmark error over the best possible, {CASES} cases", f"{ratio[0]:.3f}", "1.10"),
        fact("scale error over the best possible", f"{ratio[1]:.3f}", "1.10"),
        fact("truth within the 90% interval", f"{share * 100:.1f} %", "85-95"),
    ]


def displaced() -> list[dict[str, object]]:
    first = alarms = 0
    for seed in range(CASES):
        rng = np.random.default_rng(1000 + seed)
        truth = made(rng, THREE, count=int(rng.integers(6, 16)))
        alarms += bool(suspects(solve(truth.problem)))
        marks = list(truth.problem.sightings)
        wrong = int(rng.integers(len(marks)))
        off = rng.choice([-1, 1], 2) * rng.uniform(12, 40, 2)
        marks[wrong] = replace(marks[wrong], px=tuple(np.add(marks[wrong].px, off)))
        found = suspects(solve(replace(truth.problem, sightings=tuple(marks))))
        first += bool(found) and found[0].sighting == wrong
    return [
        fact("displaced mark named first", f"{first / CASES * 100:.1f} %", "95 %"),
        fact("clean cases in which a mark is suspected", f"{alarms / CASES * 100:.1f} %", "-"),
    ]


def against_scipy(count: int, goal: str, rounds: int) -> dict[str, object]:
    """One bare call with the same residuals and the pattern of their Jacobian, from the same
    start."""
    from dimetron.registration.normal import arrays_of, rows
    from dimetron.registration.solve import first_state
    from dimetron.registration.start import initial_guess

    truth = made(np.random.default_rng(3), tuple(View), count=count, lengths=1)
    problem = truth.problem
    start = initial_guess(problem)
    arrays = arrays_of(problem, start.mirrored)
    state = first_state(problem, arrays, start)
    n, groups = arrays.count
    size = np.concatenate([state.poses[:, :4].ravel(), state.points.ravel()])

    def unpacked(x: np.ndarray) -> object:
        poses = np.ones((n, 5))
        poses[:, :4] = x[: 4 * n].reshape(n, 4)
        return type(state)(poses, x[4 * n :].reshape(groups, 3))

    def residuals(x: np.ndarray) -> np.ndarray:
        found = rows(arrays, unpacked(x))
        return np.concatenate([found.marks.ravel(), found.lengths])

    group = arrays.group[arrays.landmark]
    mark = np.arange(len(group))
    at_row = np.repeat(np.stack([2 * mark, 2 * mark + 1], axis=1)[..., None], 7, axis=2)
    by_pose = 4 * arrays.picture[:, None] + np.arange(4)
    by_point = 4 * n + 3 * group[:, None] + np.arange(3)
    at_column = np.repeat(np.concatenate([by_pose, by_point], axis=1)[:, None], 2, axis=1)
    ends = (4 * n + 3 * arrays.group[arrays.length_ends[0]][:, None] + np.arange(3)).ravel()
    all_rows = np.concatenate([at_row.ravel(), np.full(6, 2 * len(group))])
    all_columns = np.concatenate([at_column.ravel(), ends])
    shape = 2 * len(group) + 1, len(size)

    def slopes(x: np.ndarray) -> object:
        found = rows(arrays, unpacked(x))
        values = np.concatenate([found.by_pose[:, :, :4], found.by_point], axis=2)
        values = np.concatenate([values.ravel(), found.by_ends[0].ravel()])
        return csr_matrix((values, (all_rows, all_columns)), shape)

    ours, bare = [], []
    for _ in range(rounds):
        begin = time.perf_counter()
        solve(problem)
        ours.append((time.perf_counter() - begin) * 1000)
        begin = time.perf_counter()
        least_squares(residuals, size, slopes, loss="huber", f_scale=2.5, x_scale="jac")
        bare.append((time.perf_counter() - begin) * 1000)
    what = f"solve 6 drawings x {count} landmarks, goal {goal}"
    return row(what, float(np.median(ours)), float(np.median(bare)), "1.0")


def dragged(count: int) -> dict[str, object]:
    """Solving again while a mark is dragged, from the solution before."""
    problem = made(np.random.default_rng(3), tuple(View), count=count, lengths=1).problem
    before, times = solve(problem), []
    for step in range(1, 12):
        marks = list(problem.sightings)
        marks[5] = replace(marks[5], px=(marks[5].px[0] + step, marks[5].px[1] - step))
        begin = time.perf_counter()
        before = solve(replace(problem, sightings=tuple(marks)), guess_from(before), quick=True)
        times.append((time.perf_counter() - begin) * 1000)
    what = f"a mark dragged, 6 drawings x {count} landmarks"
    return row(what, float(np.median(times)), None, "16 ms")


def few_marked(count: int) -> list[dict[str, object]]:
    """Sets as people begin them, with so many landmarks: whether nothing is mirrored, tilted or
    sized against the truth, and how well sizes come out where two drawings share two marks."""
    sensible, shared = 0, []
    for seed in range(FEW):
        one = few(seed, count)
        solution = solve(one.truth.problem)
        found = [solution.poses[f"p{i}"] for i in range(3)]
        good = not any(p.mirrored for p in found)
        for i, (pose, true) in enumerate(zip(found, one.truth.poses, strict=True)):
            good = good and abs(pose.rotation_deg - true.rotation_deg) < 1.5
            for j in range(i):
                truth = true.mm_per_px / one.truth.poses[j].mm_per_px
                off = abs(float(np.log(pose.mm_per_px / found[j].mm_per_px / truth)))
                good = good and off < 0.5
                if (j, i) in one.shared:
                    shared.append(off)
        sensible += good
    middle, most = np.quantile(shared, [0.5, 0.95])
    return [
        fact(f"{count} landmarks: sensible, of {FEW} sets", f"{sensible}", f"{FEW}"),
        fact("  sizes where two drawings share two", f"{middle:.2%}; {most:.2%}", "1 %"),
    ]


def main() -> None:
    report(
        *few_marked(2),
        *few_marked(3),
        *few_marked(4),
        *errors(),
        *displaced(),
        dragged(40),
        against_scipy(40, "50 ms", 5),
        against_scipy(400, "500 ms", 1),
    )


if __name__ == "__main__":
    main()
