"""Which way views face each other: what a view sees is near to it.

A drawing shows what lies toward the eye with all its lines, and of what lies behind only what
stands out. So along the axis that two drawings share, the ink of one is more like that of the
other's near half than of its far half.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from itertools import combinations

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from dimetron.registration.byink.signature import Signature, normal, resampled
from dimetron.registration.byink.ways import WAYS, plainly

Floats = NDArray[np.float64]
#: Ink is compared on so many cells, softened by so many.
_CELLS, _SOFT = 64, 1.5
#: How much the difference tells, in logarithms of odds, and what it tells at most.
_TELLS, _MOST = 3.0, 2.5


def facing(signatures: Sequence[Signature]) -> Floats:
    """(n, n, 24, 24) by how much each pair of ways of each two drawings is likelier because each
    shows what is near to it."""
    count = len(signatures)
    found = np.zeros((count, count, len(WAYS), len(WAYS)))
    whole = [_profiles(s.shape.ink) for s in signatures]
    halves = [_halves(s.shape.ink) for s in signatures]
    for i, j in combinations(range(count), 2):
        near = _likeness(whole[i], halves[j]), _likeness(whole[j], halves[i])
        for a, b, sees, seen in _across():
            told = near[0][sees] - near[0][_far(sees)] + near[1][seen] - near[1][_far(seen)]
            found[i, j, a, b] = np.clip(_TELLS * told, -_MOST, _MOST)
        found[j, i] = found[i, j].T
    return found


#: Side of the one that sees, side of the other along the same axis, which half of that, and whether
#: they run opposite ways.
_Key = tuple[int, int, int, int]


def _far(key: _Key) -> _Key:
    return key[0], key[1], 1 - key[2], key[3]


@lru_cache(maxsize=1)
def _across() -> list[tuple[int, int, _Key, _Key]]:
    """All pairs of ways across each other: what each sees of the other."""
    return [
        (a, b, _sees(a, b), _sees(b, a))
        for a, one in enumerate(WAYS)
        for b, other in enumerate(WAYS)
        if one.depth_axis != other.depth_axis
    ]


def _sees(a: int, b: int) -> _Key:
    one, other = WAYS[a], WAYS[b]
    axis = next(x for x in one.axes if x in other.axes)
    s, t = one.axes.index(axis), other.axes.index(axis)
    # The other's second side runs along the line of sight; its near half is where the eye is.
    toward_eye = -plainly(one).view.directions.forward[one.depth_axis]
    near = int(toward_eye == other.signs[1 - t])
    return s, t, near, int(one.signs[s] != other.signs[t])


def _likeness(whole: Floats, halves: Floats) -> NDArray[np.float64]:
    """(2, 2, 2, 2) how alike a drawing's profile along a side is to a half's of another, the same
    way round or opposite ways."""
    same = np.einsum("sn,thn->sth", whole, halves)
    opposite = np.einsum("sn,thn->sth", whole, halves[..., ::-1])
    return np.stack([same, opposite], axis=-1)


def _profiles(ink: NDArray[np.bool_]) -> Floats:
    """(2, cells) how much ink there is along the paper's right and its up."""
    return np.stack([_profile(ink.mean(axis=0)), _profile(ink.mean(axis=1)[::-1])])


def _halves(ink: NDArray[np.bool_]) -> Floats:
    """(2, 2, cells): along the right of the lower and the upper half, along the up of the left and
    the right one."""
    h, w = ink.shape
    upper, lower = ink[: h // 2], ink[h - h // 2 :]
    left, right = ink[:, : w // 2], ink[:, w - w // 2 :]
    along = [[_profile(part.mean(axis=0)) for part in (lower, upper)]]
    along.append([_profile(part.mean(axis=1)[::-1]) for part in (left, right)])
    return np.array(along)


def _profile(ink: Floats) -> Floats:
    """(cells,) how ink is spread along a side, given how much each row or column holds."""
    return normal(gaussian_filter1d(resampled(ink, _CELLS), _SOFT))
