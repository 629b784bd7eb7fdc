"""Whether a drawing's marks miss as they would if it were stretched, sheared or in perspective.

A score test (Rao, "Large sample tests of statistical hypotheses", 1948): by how much the misfit of
all drawings together would fall if one of them could be bent so, told from the slopes at the
solution without solving anew.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.registration.normal import Arrays, Floats, Rows, arrays_of, rows
from dimetron.registration.problem import Problem
from dimetron.registration.solve import Solution, first_state
from dimetron.registration.suspects import guess_from

#: A bend must gain so much for each number it takes, in squares of the noise that is left without
#: it: a chance of one in thousands.
_GAIN = 14.0
#: Bends that gain less than this much less than the best one explain it as well.
_NEARLY = 7.0
#: More numbers than this are not looked through: it would be felt.
_MOST = 700
#: Bends smaller than these are no matter: a share of the size, degrees.
_LEAST_SHARE, _LEAST_DEG = 0.001, 0.06


@dataclass(frozen=True, slots=True)
class Bent:
    """kind: "stretch", "shear" or "perspective"; amount: by what share the drawing is too long up
    its own paper (or too short if less than 0), its shear in degrees, or the share by which its
    scale changes over its size; gain: by how much the misfit would fall, in squared standard
    deviations."""

    picture: str
    kind: str
    amount: float
    gain: float


def bent(solution: Solution) -> tuple[Bent, ...]:
    """Drawings that look bent, the best explanation first; others that explain the misfit as well
    stand beside it."""
    problem = solution.problem
    start = guess_from(solution)
    arrays = arrays_of(problem, start.mirrored)
    unknowns = int(arrays.free_pose.sum() + arrays.free_point.sum())
    if unknowns > _MOST or 2 * len(problem.sightings) <= unknowns:
        return ()
    found = rows(arrays, first_state(problem, arrays, start))
    slopes = _slopes(arrays, found)
    off = np.concatenate([found.marks.ravel(), found.lengths, found.known])
    basis = _basis(slopes)
    rest = off - basis @ (basis.T @ off)
    misfit, spare = float(rest @ rest), max(1, len(off) - basis.shape[1])
    tried = [
        bend
        for i, picture in enumerate(problem.pictures)
        if not picture.pinned and (arrays.picture == i).sum() >= 4
        for bend in _bends(problem, arrays, found, i, basis, rest)
    ]
    best = max((b.gain for b in tried), default=0.0)
    noise = max(1.0, (misfit - best) / spare)
    good = [b for b in tried if b.gain > _GAIN * noise * _numbers(b) and _matters(b)]
    # Of two that gain alike the one with fewer numbers is the plainer.
    good.sort(key=lambda b: _GAIN * noise * _numbers(b) - b.gain)
    least = good[0].gain - _NEARLY * noise if good else 0.0
    return tuple(b for b in good if b.gain > least and b.kind == good[0].kind)


def _numbers(bend: Bent) -> int:
    return 2 if bend.kind == "perspective" else 1


def _matters(bend: Bent) -> bool:
    least = _LEAST_DEG if bend.kind == "shear" else _LEAST_SHARE
    return abs(bend.amount) > least


def _slopes(arrays: Arrays, found: Rows) -> Floats:
    """(r, u) how all residuals change with everything that is to be found."""
    n, groups = arrays.count
    marks = len(found.marks)
    poses = np.zeros((marks, 2, n, 5))
    at = np.arange(marks)
    poses[at, :, arrays.picture] = found.by_pose * arrays.free_pose[arrays.picture][:, None]
    points = np.zeros((marks, 2, groups, 3))
    group = arrays.group[arrays.landmark]
    points[at, :, group] = found.by_point * arrays.free_point[group][:, None]
    above = np.concatenate(
        [poses.reshape(2 * marks, 5 * n), points.reshape(2 * marks, 3 * groups)], axis=1
    )
    lengths = np.zeros((len(found.lengths), groups, 3))
    for side in (0, 1):
        group = arrays.group[arrays.length_ends[:, side]]
        np.add.at(
            lengths,
            (np.arange(len(group)), group),
            found.by_ends[:, side] * arrays.free_point[group],
        )
    known = np.zeros((len(found.known), n, 5))
    at = np.arange(len(found.known))
    free = arrays.free_pose[arrays.known_picture][:, :2]
    known[at, arrays.known_picture, :2] = found.by_scale * free
    middle = np.concatenate(
        [np.zeros((len(lengths), 5 * n)), lengths.reshape(len(lengths), 3 * groups)], axis=1
    )
    below = np.concatenate(
        [known.reshape(len(known), 5 * n), np.zeros((len(known), 3 * groups))], axis=1
    )
    return np.concatenate([above, middle, below])


def _basis(slopes: Floats) -> Floats:
    """(r, k) orthonormal: all that the unknowns can make of the residuals."""
    size = np.linalg.norm(slopes, axis=0)
    even = slopes[:, size > 0] / size[size > 0]
    left, values, _ = np.linalg.svd(even, full_matrices=False)
    return np.asarray(left[:, values > 1e-9 * values.max(initial=1.0)])


def _bends(
    problem: Problem, arrays: Arrays, found: Rows, i: int, basis: Floats, rest: Floats
) -> list[Bent]:
    """What each way of bending a picture would gain."""
    mine = np.flatnonzero(arrays.picture == i)
    px = arrays.px[mine]
    x, y = (px - px.mean(axis=0)).T
    half = float(np.ptp(px, axis=0).max()) / 2 + 1e-9
    zero = np.zeros_like(x)
    ways = {
        "shear": [np.stack([-y, zero], axis=1)],
        "perspective": [
            np.stack([x * x, x * y], axis=1) / (2 * half),
            np.stack([x * y, y * y], axis=1) / (2 * half),
        ],
    }
    if not problem.pictures[i].stretched:
        ways["stretch"] = [np.stack([zero, y], axis=1)]
    tried = []
    for kind, columns in ways.items():
        extra = np.zeros((len(rest), len(columns)))
        for k, column in enumerate(columns):
            for side in (0, 1):
                extra[2 * mine + side, k] = column[:, side] * arrays.weight[mine]
        guided = arrays.guided[mine]
        if guided.any():
            # A guide tells one way only, which need not be along the rows or columns.
            extra[2 * mine[guided]] = extra[2 * mine[guided] + 1] = 0.0
        own = extra - basis @ (basis.T @ extra)
        size = np.linalg.norm(own, axis=0)
        if (size < 1e-6 * np.linalg.norm(extra, axis=0)).any():
            continue
        amounts, *_ = np.linalg.lstsq(own, rest, rcond=None)
        gain = float(((own @ amounts) ** 2).sum())
        # Residuals are the prediction less the mark: what bends the marks more counts against it.
        amount = -float(amounts[int(np.argmax(np.abs(amounts)))])
        if kind == "shear":
            amount = float(np.degrees(np.arctan(amount)))
        tried.append(Bent(problem.pictures[i].id, kind, amount, gain))
    return tried
