"""Changes of a path: each gives a new one."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np
from numpy.typing import ArrayLike

from dimetron.outlines.fit import fitted, one_piece
from dimetron.outlines.path import (
    Floats,
    OutlineError,
    Path,
    at,
    ends_of,
    path_of,
    sampled,
    unit,
)

#: A corner whose sides go on in one another as straight as this (a cosine) is none.
_NO_TURN = 1 - 1e-5


def moved(path: Path, points: Iterable[int], by: ArrayLike) -> Path:
    """Points with their handles, by (2,)."""
    which = np.array(sorted(set(points)), np.intp)
    shifted = []
    for part in (path.points, path.before, path.after):
        new = part.copy()
        new[which] += np.asarray(by, float)
        shifted.append(new)
    return replace(path, points=shifted[0], before=shifted[1], after=shifted[2])


def shaped(path: Path, point: int, after: bool, to: ArrayLike, apart: bool = False) -> Path:
    """One handle moved to a place; at a smooth point the other one turns along, unless ``apart``,
    which makes it a corner."""
    own, other = (
        (path.after.copy(), path.before.copy())
        if after
        else (path.before.copy(), path.after.copy())
    )
    own[point] = to
    corner = path.corner.copy()
    if apart:
        corner[point] = True
    elif not corner[point]:
        way = unit(path.points[point] - own[point])
        reach = float(np.hypot(*(other[point] - path.points[point])))
        if np.abs(way).max() > 0:
            other[point] = path.points[point] + reach * way
    before_, after_ = (other, own) if after else (own, other)
    return replace(path, before=before_, after=after_, corner=corner)


def placed_by(path: Path, points: Iterable[int], matrix: ArrayLike, about: ArrayLike) -> Path:
    """Points with their handles taken through a linear map (2, 2) about a place: turned, scaled."""
    which = np.array(sorted(set(points)), np.intp)
    m, centre = np.asarray(matrix, float), np.asarray(about, float)
    changed = []
    for part in (path.points, path.before, path.after):
        new = part.copy()
        new[which] = (part[which] - centre) @ m.T + centre
        changed.append(new)
    return replace(path, points=changed[0], before=changed[1], after=changed[2])


def aligned(path: Path, points: Iterable[int], side: int) -> Path:
    """Points with the same coordinate (0: across, 1: up): that of their middle."""
    which = sorted(set(points))
    to = float(path.points[which, side].mean())
    for point in which:
        by = np.zeros(2)
        by[side] = to - path.points[point, side]
        path = moved(path, [point], by)
    return path


def spread(path: Path, points: Iterable[int]) -> Path:
    """Points evenly on the straight way from the first of them to the last."""
    which = sorted(set(points))
    ends = path.points[[which[0], which[-1]]]
    for number, point in enumerate(which):
        to = ends[0] + (ends[1] - ends[0]) * number / max(1, len(which) - 1)
        path = moved(path, [point], to - path.points[point])
    return path


def made_smooth(path: Path, points: Iterable[int]) -> Path:
    """Points that a path runs through without a turn: their handles lie in line, a third of the
    way to the neighbours long where they had none."""
    before, after, corner = path.before.copy(), path.after.copy(), path.corner.copy()
    n = len(path)
    for point in points:
        if not path.closed and point in (0, n - 1):
            continue
        here, last, then = path.points[[point, (point - 1) % n, (point + 1) % n]]
        way = unit(then - last)
        reaches = []
        for handle, far in ((before[point], last), (after[point], then)):
            reach = float(np.hypot(*(handle - here)))
            reaches.append(reach if reach > 1e-9 else float(np.hypot(*(far - here))) / 3)
        before[point], after[point] = here - reaches[0] * way, here + reaches[1] * way
        corner[point] = False
    return replace(path, before=before, after=after, corner=corner, radius=_flat(path, points))


def _flat(path: Path, points: Iterable[int]) -> Floats:
    radius = path.radius.copy()
    radius[list(points)] = 0.0
    return radius


def made_corner(path: Path, points: Iterable[int], straight: bool = False) -> Path:
    """Points whose handles are apart; ``straight``: they have none any more."""
    which = list(points)
    corner = path.corner.copy()
    corner[which] = True
    if not straight:
        return replace(path, corner=corner)
    before, after = path.before.copy(), path.after.copy()
    before[which] = after[which] = path.points[which]
    return replace(path, corner=corner, before=before, after=after)


def with_radius(path: Path, points: Iterable[int], radius: float) -> Path:
    """Corners with a rounding of a radius (0: none). Raises OutlineError for less, and for smooth
    points."""
    if not radius >= 0:
        raise OutlineError("A radius cannot be less than nothing.")
    which = list(points)
    if not path.corner[which].all():
        raise OutlineError("Only corners can be rounded; this point is smooth.")
    radii = path.radius.copy()
    radii[which] = radius
    return replace(path, radius=radii)


def inserted(path: Path, piece: int, t: float) -> Path:
    """The same shape with one more point, on a piece at t (0 to 1): by de Casteljau."""
    cubic = path.pieces[piece]
    left, right = halved(cubic, t)
    n = len(path)
    nxt = (piece + 1) % n
    smooth = bool(np.abs(unit(left[3] - left[2]) - unit(right[1] - right[0])).max() < 1e-6)
    straight = _is_straight(cubic)
    before, after = path.before.copy(), path.after.copy()
    after[piece], before[nxt] = left[1], right[2]

    at_ = piece + 1
    return Path(
        np.insert(path.points, at_, left[3], axis=0),
        np.insert(before, at_, left[2], axis=0),
        np.insert(after, at_, right[1], axis=0),
        np.insert(path.corner, at_, straight or not smooth),
        np.insert(path.radius, at_, 0.0),
        path.closed,
    )


def _is_straight(cubic: Floats) -> bool:
    way = cubic[3] - cubic[0]
    away = cubic[1:3] - cubic[0]
    across = np.abs(away[:, 0] * way[1] - away[:, 1] * way[0]).max()
    return bool(across <= 1e-9 * max(float(way @ way), 1e-12))


def halved(cubic: Floats, t: float) -> tuple[Floats, Floats]:
    """(4, 2) twice: a cubic up to t, and from there on."""
    rows = [cubic]
    while len(rows[-1]) > 1:
        row = rows[-1]
        rows.append(row[:-1] + t * (row[1:] - row[:-1]))
    return np.array([row[0] for row in rows]), np.array([row[-1] for row in rows[::-1]])


def without(path: Path, points: Iterable[int]) -> Path | None:
    """The path without some points; the pieces beside them become one that keeps their
    directions. None if nothing is left of it."""
    gone = set(points)
    kept = [k for k in range(len(path)) if k not in gone]
    if len(kept) < 2:
        return None
    result = path.taken(kept, path.closed and len(kept) > 2)
    return _refitted(path, result, kept)


def _refitted(old: Path, new: Path, kept: list[int]) -> Path:
    """Where points went, handles as long as follow the old shape best."""
    before, after = new.before.copy(), new.after.copy()
    came, goes = ends_of(old)
    n = len(old)
    pairs = list(zip(range(len(kept)), kept, [*kept[1:], kept[0]], strict=True))
    for number, first, last in pairs if new.closed else pairs[:-1]:
        steps = (last - first) % n or n
        if steps == 1:
            continue
        pieces = old.pieces[[(first + k) % n for k in range(steps)]]
        line = np.concatenate(
            [at(np.repeat(p[None], 24, 0), np.linspace(0, 1, 24)) for p in pieces]
        )
        nxt = (number + 1) % len(kept)
        after[number], before[nxt] = one_piece(line, goes[first], came[last])[1:3]
    return replace(new, before=before, after=after)


def closed(path: Path, close: bool = True) -> Path:
    """Closed, ends that lie in one place becoming one point; or open where it begins. Raises
    OutlineError if there is too little of it."""
    if close == path.closed:
        return path
    if close:
        if len(path) > 2 and np.allclose(path.points[0], path.points[-1], atol=1e-9):
            before = path.before[:-1].copy()
            before[0] = path.before[-1]
            return replace(path.taken(slice(0, -1), True), before=before)
        if len(path) < 2:
            raise OutlineError("A closed outline needs two points at least.")
        return replace(path, closed=True)
    opened = path.taken([*range(len(path)), 0], False)
    corner = opened.corner.copy()
    corner[[0, -1]] = True
    return replace(opened, corner=corner)


def begun_at(path: Path, point: int) -> Path:
    """A closed path from another of its points on."""
    return path.taken(np.roll(np.arange(len(path)), -point))


def split(path: Path, point: int) -> tuple[Path, ...]:
    """Cut at a point: a closed path opens there, an open one falls in two."""
    if path.closed:
        return (closed(begun_at(path, point), False),)
    if not 0 < point < len(path) - 1:
        return (path,)
    return path.taken(slice(0, point + 1)), path.taken(slice(point, None))


def simplified(path: Path, miss: float) -> Path:
    """As few points as stay within a miss; corners stay. Raises OutlineError for no miss."""
    if not miss > 0:
        raise OutlineError("The miss must be more than nothing.")
    line = sampled(path, miss / 20)
    came, goes = ends_of(path)
    turns = np.einsum("ij,ij->i", came, goes) < _NO_TURN
    corners = [
        int(np.argmin(np.hypot(*(line - point).T))) for point in path.points[path.corner & turns]
    ]
    found = fitted(_dense(line, path.closed, miss), miss, np.zeros(0, np.intp), path.closed)
    if corners:
        dense, which = _dense_with(line, corners, path.closed, miss)
        found = fitted(dense, miss, which, path.closed)
    return found if len(found) < len(path) else path


def _dense(line: Floats, ring: bool, miss: float) -> Floats:
    return _dense_with(line, [], ring, miss)[0]


def _dense_with(
    line: Floats, corners: list[int], ring: bool, miss: float
) -> tuple[Floats, np.ndarray]:
    """A polyline by more places, and where its corners are among them."""
    whole = np.concatenate([line, line[:1]]) if ring else line
    way = np.diff(whole, axis=0)
    long = np.hypot(*way.T)
    step = max(miss, float(long.sum()) / 4000)
    counts = np.maximum(1, np.ceil(long / step)).astype(np.intp)
    first = np.cumsum(counts) - counts
    which = np.repeat(np.arange(len(way)), counts)
    t = (np.arange(len(which)) - first[which]) / counts[which]
    dense = whole[which] + t[:, None] * way[which]
    if not ring:
        dense = np.concatenate([dense, whole[-1:]])
        first = np.append(first, len(dense) - 1)
    return dense, np.array([int(first[c]) for c in corners], np.intp)


def offset(path: Path, by: float) -> tuple[Path, ...]:
    """A closed path's outlines so far outside it (or inside, if less than nothing): corners stay
    corners. Raises OutlineError if nothing is left, or it is open."""
    import manifold3d

    if not path.closed:
        raise OutlineError("Only a closed outline can be offset; close it first.")
    size = max(1e-9, float(np.ptp(path.points, axis=0).max()))
    line = sampled(path, size * 1e-5)
    section = manifold3d.CrossSection([line], manifold3d.FillRule.NonZero)
    if section.area() <= 0:
        section = manifold3d.CrossSection([line[::-1]], manifold3d.FillRule.NonZero)
    grown = section.offset(by, manifold3d.JoinType.Miter, 4.0).simplify(size * 1e-6)
    loops = [np.asarray(loop, float) for loop in grown.to_polygons()]
    if not loops:
        raise OutlineError("Nothing is left of the outline so far inside.")
    return tuple(path_through(loop, size * 2e-4) for loop in loops)


def path_through(loop: Floats, miss: float) -> Path:
    """A closed path of few points within ``miss`` of a closed polygon (n, 2), with its corners."""
    path = path_of(loop, closed=True)
    came, goes = ends_of(path)
    turn = np.einsum("ij,ij->i", came, goes)
    corners = np.flatnonzero(turn < np.cos(np.radians(20)))
    dense, which = _dense_with(loop, corners.tolist(), True, miss)
    return fitted(dense, miss, which, True)
