"""What is usual of drawings, as weighted observations: they lie level as they lie now, their sizes
stay to one another, and what stands on the origin stays there.

Each is observed twice. Closely, by an estimate that forgets what is far off (Cauchy's), so that
marks which say otherwise outvote it at once and entirely; and widely by plain least squares, so
that where marks leave something open it does not run away. How uncertain a number is follows from
the marks alone, with an observation so wide that it only keeps open numbers finite.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dimetron.registration.problem import Picture, Problem

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@dataclass(frozen=True, slots=True)
class Widths:
    """Standard deviations: turn in radians, size in the logarithm for drawings of one body and for
    others, place in pixels. forgetful: whether what is far off counts less."""

    turn: float
    alike: float
    size: float
    place: float
    forgetful: bool


CLOSELY = Widths(np.radians(0.5), 0.002, 0.4, 15.0, True)
WIDELY = Widths(np.radians(10.0), 1.5, 1.5, 2000.0, False)
#: What open numbers are left with when uncertainties are told.
OPEN = Widths(np.radians(20.0), 0.002, 1.0, 2000.0, False)


@dataclass(frozen=True, slots=True, eq=False)
class Usual:
    """Observations of poses. turned: present (alpha, beta) of each picture (n, 2), which tells its
    turn; pairs (m, 2) of pictures and by how much the first is larger (m,), in the logarithm; stays
    (n, 2): the origin's pixel in pictures that are to stay, else NaN. forgetful: of each row."""

    turned: Floats
    turn_sigma: Floats
    pairs: Ints
    ratio: Floats
    ratio_sigma: Floats
    stays: Floats
    stays_sigma: Floats
    forgetful: NDArray[np.bool_]


def usual_of(problem: Problem, counts: Ints, widths: Sequence[Widths]) -> Usual:
    """What is usual of a problem's pictures, each observed with every of the widths. counts (n,):
    how many marks each has; sizes are held to those of the most marked."""
    poses = np.array([(p.present.alpha, p.present.beta) for p in problem.pictures]).reshape(-1, 2)
    origins = np.array([p.present.origin_px for p in problem.pictures]).reshape(-1, 2)
    if not problem.in_place:
        origins = np.full_like(origins, np.nan)
    pairs, alike = held_together(problem.pictures, counts)
    ratio = _size(poses)[pairs[:, 0]] - _size(poses)[pairs[:, 1]]
    n, times, standing = len(poses), len(widths), int((~np.isnan(origins)).sum())
    return Usual(
        np.tile(poses, (times, 1)),
        np.repeat([w.turn for w in widths], n),
        np.tile(pairs, (times, 1)),
        np.tile(ratio, times),
        np.concatenate([np.where(alike, w.alike, w.size) for w in widths]),
        origins,
        np.array([w.place for w in widths]),
        np.concatenate(
            [np.repeat([w.forgetful for w in widths], k) for k in (n, len(pairs), standing)]
        ),
    )


def _size(poses: Floats) -> Floats:
    """(n,) logarithm of mm per pixel."""
    return np.asarray(-0.5 * np.log(np.maximum((poses[:, :2] ** 2).sum(axis=1), 1e-24)))


def held_together(pictures: Sequence[Picture], counts: Ints) -> tuple[Ints, NDArray[np.bool_]]:
    """Pairs of pictures (m, 2) whose sizes are held to each other, and which of them (m,) are of
    one body: each to the most marked one of its body, and those to the most marked of all."""
    order = sorted(range(len(pictures)), key=lambda i: (not pictures[i].pinned, -counts[i]))
    leaders: dict[str, int] = {}
    pairs, alike = [], []
    for i in order:
        body = pictures[i].body or pictures[i].id
        if body in leaders:
            pairs.append((i, leaders[body]))
            alike.append(True)
        else:
            leaders[body] = i
            if i != order[0]:
                pairs.append((i, order[0]))
                alike.append(False)
    return np.array(pairs, np.intp).reshape(-1, 2), np.array(alike, bool)


def usual_rows(usual: Usual, poses: Floats) -> tuple[Floats, Floats]:
    """Residuals (r,) at poses (n, 5), each over its standard deviation, and their slopes
    (r, 5 n)."""
    parts = _turn_rows(usual, poses), _ratio_rows(usual, poses), _place_rows(usual, poses)
    return np.concatenate([r for r, _ in parts]), np.concatenate([s for _, s in parts])


def _turn_rows(usual: Usual, poses: Floats) -> tuple[Floats, Floats]:
    n = len(poses)
    row = np.arange(len(usual.turned))
    picture = row % n
    a, b = poses[picture, 0], poses[picture, 1]
    was, sideways = usual.turned[:, 0], usual.turned[:, 1]
    angle = np.arctan2(b * was - a * sideways, a * was + b * sideways)
    size = np.maximum(a**2 + b**2, 1e-24) * usual.turn_sigma
    slopes = np.zeros((len(row), 5 * n))
    slopes[row, 5 * picture], slopes[row, 5 * picture + 1] = -b / size, a / size
    return angle / usual.turn_sigma, slopes


def _ratio_rows(usual: Usual, poses: Floats) -> tuple[Floats, Floats]:
    row, (first, other) = np.arange(len(usual.pairs)), usual.pairs.T
    size = _size(poses)
    away = (size[first] - size[other] - usual.ratio) / usual.ratio_sigma
    by_pose = -poses[:, :2] / np.maximum((poses[:, :2] ** 2).sum(axis=1), 1e-24)[:, None]
    slopes = np.zeros((len(row), 5 * len(poses)))
    for number in (0, 1):
        slopes[row, 5 * first + number] = by_pose[first, number] / usual.ratio_sigma
        slopes[row, 5 * other + number] = -by_pose[other, number] / usual.ratio_sigma
    return away, slopes


def _place_rows(usual: Usual, poses: Floats) -> tuple[Floats, Floats]:
    picture, side = np.nonzero(~np.isnan(usual.stays))
    away = poses[picture, 2 + side] - usual.stays[picture, side]
    count = len(picture)
    slopes = np.zeros((count * len(usual.stays_sigma), 5 * len(poses)))
    for time, sigma in enumerate(usual.stays_sigma):
        slopes[time * count + np.arange(count), 5 * picture + 2 + side] = 1.0 / sigma
    return (away[None] / usual.stays_sigma[:, None]).ravel(), slopes


def usual_weights(usual: Usual, residuals: Floats) -> Floats:
    """(r,) how much each row counts: Cauchy's weights where what is far off is forgotten."""
    return np.where(usual.forgetful, 1.0 / (1.0 + residuals**2), 1.0)


def usual_cost(usual: Usual, residuals: Floats) -> float:
    """What those weights make least."""
    squared = residuals**2
    return float(np.where(usual.forgetful, np.log1p(squared), squared).sum())
