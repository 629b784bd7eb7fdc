"""A path of cubic Bézier pieces in a plane, as a value."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]
Mask = NDArray[np.bool_]

#: A path has no more points than this.
MOST_POINTS = 20_000
#: Handles of a quarter circle of radius 1.
QUARTER = 4 / 3 * (math.sqrt(2) - 1)


class OutlineError(ValueError):
    """What was asked of an outline has no meaning; the message says why in one sentence."""


@dataclass(frozen=True, slots=True, eq=False, weakref_slot=True)
class Path:
    """points (n, 2): where the pieces meet. before, after (n, 2): each point's handles, as places;
    before of the first and after of the last count only if it is closed. corner (n,): whether a
    point's handles are apart; radius (n,): by how much a corner is rounded."""

    points: Floats
    before: Floats
    after: Floats
    corner: Mask
    radius: Floats
    closed: bool = False

    def __post_init__(self) -> None:
        n = len(self.points)
        if not 1 <= n <= MOST_POINTS:
            raise OutlineError(f"An outline has 1 to {MOST_POINTS} points; this has {n}.")
        arrays = self.points, self.before, self.after, self.radius
        if any(len(part) != n for part in (*arrays, self.corner)):
            raise OutlineError("The points of an outline and their handles are not equally many.")
        if not all(np.isfinite(part).all() for part in arrays):
            raise OutlineError("A number of this outline is not finite.")
        if (self.radius < 0).any():
            raise OutlineError("A corner's radius is less than nothing.")
        for part in (*arrays, self.corner):
            part.setflags(write=False)

    def __len__(self) -> int:
        return len(self.points)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Path) and self.closed == other.closed and all(
            np.array_equal(a, b)
            for a, b in zip(self.arrays, other.arrays, strict=True)
        )  # fmt: skip

    def __hash__(self) -> int:
        return hash((self.closed, self.points.tobytes()))

    @property
    def arrays(self) -> tuple[Floats, Floats, Floats, Mask, Floats]:
        """All that is said of its points."""
        return self.points, self.before, self.after, self.corner, self.radius

    def taken(self, index: ArrayLike | slice, closed: bool | None = None) -> Path:
        """The path through some of its points, by index or slice, in that order."""
        at: Any = index
        return Path(
            self.points[at].copy(),
            self.before[at].copy(),
            self.after[at].copy(),
            self.corner[at].copy(),
            self.radius[at].copy(),
            self.closed if closed is None else closed,
        )

    @property
    def piece_count(self) -> int:
        """How many pieces it has."""
        return len(self) if self.closed and len(self) > 1 else len(self) - 1

    @property
    def pieces(self) -> Floats:
        """(m, 4, 2): the cubics, each from its point to the next."""
        after = np.roll(np.arange(len(self)), -1)
        whole = np.stack([self.points, self.after, self.before[after], self.points[after]], axis=1)
        return whole[: self.piece_count]


def path_of(
    points: ArrayLike,
    before: ArrayLike | None = None,
    after: ArrayLike | None = None,
    corner: ArrayLike | None = None,
    radius: ArrayLike | None = None,
    closed: bool = False,
) -> Path:
    """A path through points (n, 2); without handles its pieces are straight, with corners. Raises
    OutlineError."""
    at = np.array(points, np.float64).reshape(-1, 2)
    n = len(at)
    return Path(
        at,
        at.copy() if before is None else np.array(before, np.float64).reshape(-1, 2),
        at.copy() if after is None else np.array(after, np.float64).reshape(-1, 2),
        np.ones(n, bool) if corner is None else np.array(corner, bool).reshape(-1),
        np.zeros(n) if radius is None else np.array(radius, np.float64).reshape(-1),
        closed,
    )


def from_pieces(pieces: ArrayLike, closed: bool, smooth_deg: float = 1.0) -> Path:
    """The path of cubics (m, 4, 2) that follow one another; points where it turns by less than
    ``smooth_deg`` are smooth. Raises OutlineError."""
    cubics = np.array(pieces, np.float64).reshape(-1, 4, 2)
    if not len(cubics):
        raise OutlineError("There is nothing that an outline could be made of.")
    if closed:
        points, after = cubics[:, 0], cubics[:, 1]
        before = np.roll(cubics[:, 2], 1, axis=0)
    else:
        points = np.concatenate([cubics[:, 0], cubics[-1:, 3]])
        after = np.concatenate([cubics[:, 1], cubics[-1:, 3]])
        before = np.concatenate([cubics[:1, 0], cubics[:, 2]])
    path = path_of(points, before, after, closed=closed)
    return replace(path, corner=~_smooth(path, smooth_deg))


def _smooth(path: Path, deg: float) -> Mask:
    """(n,) where it goes on in the direction it came from."""
    came, goes = ends_of(path)
    turn = np.einsum("ij,ij->i", came, goes)
    smooth = turn > math.cos(math.radians(deg))
    if not path.closed:
        smooth[[0, -1]] = False
    return np.asarray(smooth)


def ends_of(path: Path) -> tuple[Floats, Floats]:
    """(n, 2) each: the unit directions in which it comes to each point and goes on from it; the
    same where it only begins or ends."""
    pieces = path.pieces
    if not len(pieces):
        return np.zeros((1, 2)), np.zeros((1, 2))
    goes = unit(_first(pieces))
    came = -unit(_first(pieces[:, ::-1]))
    if path.closed:
        return np.roll(came, 1, axis=0), goes
    return np.concatenate([goes[:1], came]), np.concatenate([goes, came[-1:]])


def _first(pieces: Floats) -> Floats:
    """(m, 2) from each piece's beginning to the first of its other places that lies apart."""
    way = pieces[:, 1] - pieces[:, 0]
    for k in (2, 3):
        none = np.abs(way).max(axis=1) < 1e-9
        way = np.where(none[:, None], pieces[:, k] - pieces[:, 0], way)
    return way


def unit(ways: Floats) -> Floats:
    """(n, 2) of length one; none stays none."""
    long = np.linalg.norm(ways, axis=-1, keepdims=True)
    return np.asarray(ways / np.where(long > 1e-12, long, 1.0))


def at(pieces: Floats, t: Floats) -> Floats:
    """Places (..., 2) on cubics (..., 4, 2) at t (...)."""
    s = 1 - t
    weights = np.stack([s**3, 3 * s * s * t, 3 * s * t * t, t**3], axis=-1)
    return np.asarray(np.einsum("...k,...kd->...d", weights, pieces))


def sampled(path: Path, miss: float) -> Floats:
    """(k, 2) a polyline that lies within ``miss`` of the path, its radii applied; the last of a
    closed one is not its first again."""
    return sampled_at(path, miss)[0]


def sampled_at(path: Path, miss: float) -> tuple[Floats, NDArray[np.intp]]:
    """The same, and (k,) of which piece each place is."""
    pieces = path.pieces
    if not len(pieces):
        return path.points, np.zeros(1, np.intp)
    counts = _counts(pieces, miss)
    which = np.repeat(np.arange(len(pieces)), counts)
    first = np.repeat(np.cumsum(counts) - counts, counts)
    t = (np.arange(len(which)) - first) / counts[which]
    points = at(pieces[which], t)
    if not path.closed:
        points = np.concatenate([points, pieces[-1:, 3]])
        which = np.append(which, len(pieces) - 1)
    return points, which


def _counts(pieces: Floats, miss: float) -> NDArray[np.intp]:
    """(m,) into how many parts each piece is cut so that chords lie within ``miss``: the second
    derivative bounds by how much a chord misses."""
    bends = pieces[:, :-2] - 2 * pieces[:, 1:-1] + pieces[:, 2:]
    most = np.where(_straight(pieces), 0.0, np.linalg.norm(bends, axis=2).max(axis=1))
    counts = np.clip(np.ceil(np.sqrt(0.75 * most / max(miss, 1e-9))), 1, 2000)
    return np.asarray(counts, np.intp)


def _straight(pieces: Floats) -> Mask:
    """(m,) whether a piece's handles lie on the way between its ends."""
    way = pieces[:, 3] - pieces[:, 0]
    square = np.maximum((way * way).sum(axis=1), 1e-300)
    there = np.ones(len(pieces), bool)
    for k in (1, 2):
        away = pieces[:, k] - pieces[:, 0]
        across = np.abs(away[:, 0] * way[:, 1] - away[:, 1] * way[:, 0]) / square
        along = (away * way).sum(axis=1) / square
        there &= (across < 1e-9) & (along > -1e-9) & (along < 1 + 1e-9)
    return there


def area(path: Path) -> float:
    """The signed area within a closed path, positive when it runs counter-clockwise where y is up:
    by Green's theorem, exact for cubics."""
    p = path.pieces
    x, y = p[..., 0], p[..., 1]
    terms = (
        6 * (x[:, 0] * y[:, 1] - x[:, 1] * y[:, 0])
        + 3 * (x[:, 0] * y[:, 2] - x[:, 2] * y[:, 0])
        + (x[:, 0] * y[:, 3] - x[:, 3] * y[:, 0])
        + 3 * (x[:, 1] * y[:, 2] - x[:, 2] * y[:, 1])
        + 3 * (x[:, 1] * y[:, 3] - x[:, 3] * y[:, 1])
        + 6 * (x[:, 2] * y[:, 3] - x[:, 3] * y[:, 2])
    )
    return float(terms.sum() / 20)


def bounds(path: Path) -> Floats:
    """(2, 2) lowest and highest place of it."""
    points = sampled(path, 1e-3 * max(1e-6, float(np.ptp(path.points, axis=0).max())))
    return np.stack([points.min(axis=0), points.max(axis=0)])


def mapped(path: Path, matrix: ArrayLike, shift: ArrayLike = (0.0, 0.0)) -> Path:
    """A path taken through a linear map (2, 2) and then moved. Radii follow its mean scale."""
    m, by = np.asarray(matrix, np.float64), np.asarray(shift, np.float64)
    size = math.sqrt(abs(float(np.linalg.det(m))))
    return replace(
        path,
        points=path.points @ m.T + by,
        before=path.before @ m.T + by,
        after=path.after @ m.T + by,
        radius=path.radius * size,
    )


def turned_round(path: Path) -> Path:
    """The same path from its other end."""
    return Path(
        path.points[::-1].copy(),
        path.after[::-1].copy(),
        path.before[::-1].copy(),
        path.corner[::-1].copy(),
        path.radius[::-1].copy(),
        path.closed,
    )


def joined(paths: Sequence[Path]) -> Path:
    """Open paths one after the other, as one; places where one ends and the next begins are one
    corner if they are the same."""
    parts = list(paths)
    whole = parts[0]
    for part in parts[1:]:
        same = np.allclose(whole.points[-1], part.points[0], atol=1e-9)
        skip = 1 if same else 0
        after = whole.after.copy()
        if same:
            after[-1] = part.after[0]
        corner = whole.corner.copy()
        corner[-1] = True
        whole = Path(
            np.concatenate([whole.points, part.points[skip:]]),
            np.concatenate([whole.before, part.before[skip:]]),
            np.concatenate([after, part.after[skip:]]),
            np.concatenate([corner, part.corner[skip:]]),
            np.concatenate([whole.radius, part.radius[skip:]]),
        )
    return whole
