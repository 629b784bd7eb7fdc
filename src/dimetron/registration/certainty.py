"""How certain the numbers of a solution are, by the marks alone, and which are not determined."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from dimetron.registration.normal import Arrays, Normal, Rows, State, Weights, normal, rows
from dimetron.registration.problem import Problem
from dimetron.registration.usual import OPEN, usual_of

Floats = NDArray[np.float64]
#: Directions of the reduced system weaker than this share of a typical one are not determined.
_LOOSE = 1e-9
#: Numbers of which less is told than that (over their squared unit) are not determined either.
_INFORMED = 1e-6
#: A number that the marks tell no better than so is not determined: turn in radians, size in the
#: logarithm, place in pixels where the drawing is marked.
_TURN, _SIZE, _PLACE_PX = np.radians(1.5), 0.15, 100.0
#: Told better than so, it owes nothing to what is usual.
_TURN_SURE, _SIZE_SURE = np.radians(0.25), 0.005

#: A picture's id, and "scale", "turn" or the axis along which its place is open.
Freedom = tuple[str, str | int]


@dataclass(frozen=True, slots=True, eq=False)
class Known:
    """The normal equations at rest, the covariance (K, K) of poses and kept landmarks, what is not
    determined, and whether the marks tell everything well."""

    system: Normal
    covariance: Floats
    loose: tuple[Freedom, ...]
    certain: bool


def marks_in(arrays: Arrays) -> NDArray[np.intp]:
    """(n,) how many marks each picture has."""
    return np.bincount(arrays.picture, minlength=len(arrays.basis))


def certainty(
    problem: Problem, arrays: Arrays, state: State, weights: Callable[[Arrays, Rows], Weights]
) -> Known:
    """What the marks tell at a state. What they leave open is as uncertain as ``usual.OPEN``
    says."""
    opened = usual_of(replace(problem, in_place=True), marks_in(arrays), (OPEN,))
    arrays = replace(arrays, usual=opened)
    found = rows(arrays, state)
    system = normal(arrays, found, weights(arrays, found))
    covariance = _covariance(system.system)
    loose, certain = _freedoms(problem, arrays, state, covariance)
    return Known(system, covariance, loose, certain)


def _covariance(system: Floats) -> Floats:
    """The inverse of the normal equations, but for directions that nothing tells of. They are
    first brought to a common scale: numbers of poses differ by powers of ten."""
    told = np.diag(system)
    some = told > _INFORMED
    size = np.where(some, 1 / np.sqrt(np.where(some, told, 1.0)), 1.0)
    even = (system * size[:, None] * size)[np.ix_(some, some)]
    values, vectors = np.linalg.eigh(even)
    null = values < _LOOSE * max(1.0, float(values.max(initial=1.0)))
    kept = np.zeros((len(told), int((~null).sum())))
    kept[some] = vectors[:, ~null] / np.sqrt(np.maximum(values[~null], 1e-30))
    return np.asarray((kept @ kept.T) * size[:, None] * size)


def _freedoms(
    problem: Problem, arrays: Arrays, state: State, covariance: Floats
) -> tuple[tuple[Freedom, ...], bool]:
    """What is not determined of each picture's turn, size and place; and whether all is well."""
    loose: list[Freedom] = []
    certain = True
    for i, picture in enumerate(problem.pictures):
        here = arrays.picture == i
        if picture.pinned:
            continue
        if not here.any():
            names: tuple[str | int, ...] = ("scale", "turn", *picture.view.axes)
            loose += [(picture.id, name) for name in names]
            continue
        free = arrays.free_pose[i]
        own = covariance[5 * i : 5 * i + 5, 5 * i : 5 * i + 5] * free * free[:, None]
        turn, size, places = pose_slopes(state.poses[i], arrays.px[here].mean(axis=0))
        turned, sized = (float(np.sqrt(g @ own @ g)) for g in (turn, size))
        certain = certain and turned < _TURN_SURE and sized < _SIZE_SURE
        if sized > _SIZE:
            loose.append((picture.id, "scale"))
        if turned > _TURN:
            loose.append((picture.id, "turn"))
        for axis in picture.view.axes:
            g = arrays.basis[i][:, axis] @ places
            if float(np.sqrt(g @ own @ g)) > _PLACE_PX:
                loose.append((picture.id, axis))
    return tuple(loose), certain and not loose


def pose_slopes(pose: Floats, at_px: Floats) -> tuple[Floats, Floats, Floats]:
    """How turn, size in the logarithm and the place on the paper of a pixel, in pixels (2, 5),
    change with the five numbers of a pose."""
    a, b, x, y, aspect = (float(v) for v in pose)
    z, squared = complex(a, b), a * a + b * b
    turn = np.array([-b, a, 0.0, 0.0, 0.0]) / squared
    size = -np.array([a, b, 0.0, 0.0, 0.0]) / squared
    away = complex(float(at_px[0]) - x, -(float(at_px[1]) - y) / aspect)
    by = np.array([-away / z**2, -1j * away / z**2, -1 / z, 1j / aspect / z, 0.0]) * abs(z)
    return turn, size, np.stack([by.real, by.imag])
