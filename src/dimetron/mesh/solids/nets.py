"""The same solid as an even mesh of quads: a surface net over the views' joint distance field.

Source: S. F. F. Gibson, Constrained elastic surface nets, MICCAI 1998: one vertex for each cell
that the surface runs through, relaxed among its neighbours, and brought back onto the outlines.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import map_coordinates
from scipy.spatial import cKDTree

from dimetron.mesh.arrays import Floats, Ints, Mask, MeshError
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.solids.seen import Seen, box_of, nothing_in_common
from dimetron.mesh.solids.within import dense, within

#: How often vertices are relaxed and brought back.
_ROUNDS = 4
#: A grid of more cells than this is refused.
MOST_CELLS = 60_000_000
#: An outline that is its own mirror image within this share of its extent is even.
_EVEN = 0.002
#: Cells around what is seen.
_RIM = 2
#: A corner turns by so much; points no farther from it than so many cells move onto it.
_SHARP_DEG, _NEAR, _BEYOND = 40.0, 1.0, 0.02
#: Places looked up at a time, as many as a picture may have rows.
_ROWS = 16_000
#: Distances are exact within so many steps of an outline.
_EXACT = 6.0
#: Outlines are sampled at this share of a cell.
_FINE = 0.2

Field = NDArray[np.float32]


@dataclass(frozen=True, slots=True, eq=False)
class _Flat:
    """A view's distance field (rows up, columns across) from ``corner`` on, ``step`` mm a cell;
    positive outside. layers (rows, columns, 3): it, and how it grows across and up."""

    seen: Seen
    field: Field
    layers: Field
    corner: Floats
    step: float

    def at(self, plane: Floats) -> tuple[Floats, Floats]:
        """The distance at places (n, 2), and (n, 2) which way it grows."""
        place = ((plane - self.corner) / self.step).astype(np.float32)
        both = np.concatenate(
            [
                cv2.remap(
                    self.layers,
                    place[None, k : k + _ROWS, 0],
                    place[None, k : k + _ROWS, 1],
                    cv2.INTER_LINEAR,
                    borderMode=cv2.BORDER_REPLICATE,
                )[0]
                for k in range(0, len(place), _ROWS)
            ]
        ).astype(np.float64)
        return both[:, 0], both[:, 1:]


def even_quads(seen: Sequence[Seen], size: float) -> Mesh:
    """The solid that views allow, as quads about ``size`` mm large; even about X = 0 if all views
    are. Raises MeshError."""
    box = box_of(seen)
    if not size > 0:
        raise MeshError("The size of the quads must be more than nothing.")
    even = _is_even(seen, box)
    axes = _axes(box, size, even)
    count = int(np.prod([float(len(axis)) for axis in axes]))
    if count > MOST_CELLS:
        raise MeshError("Quads so small would be too many; choose larger ones.")
    flats = [_flat(one, box, size) for one in seen]
    field = _joint(flats, axes)
    if even:
        field = np.asarray((field + field[::-1]) / 2, np.float32)
    inside = sound(field)
    if not inside.any():
        raise nothing_in_common()
    points, quads, cells = net(field, inside, axes)
    points = _cornered(_relaxed(points, quads, flats), flats, size)
    if even:
        points = _evened(points, cells, [len(axis) - 1 for axis in axes])
    return from_faces(points, quads)


def _axes(box: Floats, size: float, even: bool) -> list[Floats]:
    """The places of the grid along each axis; about the middle, or X = 0 where it is even."""
    axes = []
    for axis, (low, high) in enumerate(box.T):
        middle = 0.0 if even and axis == 0 else (low + high) / 2
        reach = max(high - middle, middle - low)
        half = int(np.ceil(reach / size)) + _RIM
        axes.append(np.asarray(middle + size * (np.arange(-half, half) + 0.5), np.float64))
    return axes


def _flat(one: Seen, box: Floats, size: float) -> _Flat:
    """The exact distance from a view's outline at a grid over its plane."""
    corners = np.stack(np.meshgrid(*box.T, indexing="ij"), axis=-1).reshape(-1, 3)
    plane = one.view.to_plane(corners)
    low = np.minimum(plane.min(axis=0), one.bounds[0]) - 3 * size
    high = np.maximum(plane.max(axis=0), one.bounds[1]) + 3 * size
    step = size / 2
    columns, rows = (int(np.ceil(s / step)) + 1 for s in high - low)
    outline = np.concatenate([dense(loop, size * _FINE) for loop in one.loops])
    x, y = low[0] + step * np.arange(columns), low[1] + step * np.arange(rows)
    places = np.stack(np.meshgrid(x, y), axis=-1).reshape(-1, 2)
    inside = within([(loop - low) / step for loop in one.loops], rows, columns)
    away = _away(outline, places, inside, low, step)
    field = np.where(inside, -away, away)
    up, across = np.gradient(field, step)
    layers = np.stack([field, across, up], axis=-1).astype(np.float32)
    return _Flat(one, field, layers, low, step)


def _away(outline: Floats, places: Floats, inside: Mask, low: Floats, step: float) -> Field:
    """(rows, columns) how far places of a grid lie from an outline: exactly close by, where the
    surface will run; farther off as a raster has it."""
    rows, columns = inside.shape
    cells = np.rint((outline - low) / step).astype(np.intp)
    raster = np.ones((rows, columns), np.uint8)
    raster[cells[:, 1].clip(0, rows - 1), cells[:, 0].clip(0, columns - 1)] = 0
    away = cv2.distanceTransform(raster, cv2.DIST_L2, 5).astype(np.float32) * np.float32(step)
    near = np.flatnonzero(away.ravel() < _EXACT * step)
    away.ravel()[near] = cKDTree(outline).query(places[near])[0]
    return np.asarray(away, np.float32)


def _joint(flats: Sequence[_Flat], axes: Sequence[Floats]) -> Field:
    """(x, y, z) how far outside the farthest view says each place is."""
    field = np.full([len(axis) for axis in axes], -np.inf, np.float32)
    for flat in flats:
        across, up = flat.seen.view.paper_axes
        if across is None or up is None:
            grid = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, 3)
            own = flat.at(flat.seen.view.to_plane(grid))[0].reshape(field.shape)
            np.maximum(field, own.astype(np.float32), out=field)
            continue
        signs = flat.seen.view.paper_signs
        columns = (axes[across] * signs[0] - flat.corner[0]) / flat.step
        rows = (axes[up] * signs[1] - flat.corner[1]) / flat.step
        places = np.meshgrid(rows, columns, indexing="ij")
        plane = map_coordinates(flat.field, places, order=1, mode="nearest")
        if across < up:
            plane = plane.T
        shape = [len(axis) if n in (across, up) else 1 for n, axis in enumerate(axes)]
        np.maximum(field, plane.astype(np.float32).reshape(shape), out=field)
    return field


def sound(field: Field) -> Mask:
    """Which places of the grid are inside, such that the surface touches itself nowhere: cells that
    meet only across an edge or a corner are filled in between."""
    inside = np.asarray(field < 0)
    for _ in range(8):
        filled = False
        for one, other in ((0, 1), (0, 2), (1, 2)):
            a, b, c, d = (_cut(inside, one, other, i, j) for i in (0, 1) for j in (0, 1))
            crossed = (a & d & ~b & ~c) | (~a & ~d & b & c)
            if crossed.any():
                filled = True
                for part in (a, b, c, d):
                    part |= crossed
        corners = [
            inside[_ends(i), _ends(j), _ends(k)] for i in (0, 1) for j in (0, 1) for k in (0, 1)
        ]
        count = np.sum(corners, axis=0, dtype=np.int8)
        for number in range(4):
            pair = corners[number] & corners[7 - number] & (count == 2)
            pair |= ~corners[number] & ~corners[7 - number] & (count == 6)
            if pair.any():
                filled = True
                for part in corners:
                    part |= pair
        if not filled:
            break
    field[inside & (field >= 0)] = -1e-6
    return inside


def _ends(which: int) -> slice:
    return slice(1, None) if which else slice(None, -1)


def _cut(inside: Mask, one: int, other: int, i: int, j: int) -> Mask:
    parts = [slice(None)] * 3
    parts[one], parts[other] = _ends(i), _ends(j)
    return inside[tuple(parts)]


def net(field: Field, inside: Mask, axes: Sequence[Floats]) -> tuple[Floats, Ints, Ints]:
    """Points, quads, and of which cell each point is: a quad around each edge of the grid that
    the surface crosses, a point amid the crossings of each cell."""
    shape = np.array(field.shape)
    strides = np.array([shape[1] * shape[2], shape[2], 1])
    flat, heights = inside.ravel(), field.ravel()
    cells, places = [], []
    for axis in range(3):
        step = strides[axis]
        parts = [slice(None)] * 3
        parts[axis] = slice(None, -1)
        differs = np.zeros(field.shape, bool)
        np.not_equal(
            inside[tuple(parts)],
            np.take(inside, range(1, shape[axis]), axis),
            out=differs[tuple(parts)],
        )
        at = np.flatnonzero(differs)
        low, high = heights[at], heights[at + step]
        share = np.clip(low / (low - high), 0.05, 0.95)
        index = np.stack(np.unravel_index(at, field.shape), axis=1)
        place = np.stack([axes[k][index[:, k]] for k in range(3)], axis=1)
        place[:, axis] += share * (axes[axis][1] - axes[axis][0])
        one, other = strides[(axis + 1) % 3], strides[(axis + 2) % 3]
        around = np.stack([at - one - other, at - other, at, at - one], axis=1)
        outward = flat[at]
        around[~outward] = around[~outward, ::-1]
        cells.append(around)
        places.append(place)
    quads, crossings = np.concatenate(cells), np.concatenate(places)
    number = np.zeros(field.size, np.int32)
    number[quads.ravel()] = 1
    used = np.flatnonzero(number)
    number[used] = np.arange(len(used), dtype=np.int32)
    faces = number[quads]
    spread = faces.ravel()
    counts = np.bincount(spread, minlength=len(used))
    points = np.stack(
        [
            np.bincount(spread, np.repeat(crossings[:, k], 4), minlength=len(used)) / counts
            for k in range(3)
        ],
        axis=1,
    )
    return points, faces, np.stack(np.unravel_index(used, field.shape), axis=1)


def _relaxed(points: Floats, quads: Ints, flats: Sequence[_Flat]) -> Floats:
    """Points amid their neighbours, and on the outlines again."""
    a, b = quads.ravel(), np.roll(quads, -1, axis=1).ravel()
    counts = np.bincount(a, minlength=len(points))[:, None] * 2.0
    back = np.roll(quads, 1, axis=1).ravel()
    for number in range(_ROUNDS):
        means = (
            np.stack(
                [
                    np.bincount(a, points[b, k] + points[back, k], minlength=len(points))
                    for k in range(3)
                ],
                axis=1,
            )
            / counts
        )
        points = (points + means) / 2 if number < _ROUNDS - 1 else points
        points = _brought_back(points, flats)
    return points


def _brought_back(points: Floats, flats: Sequence[_Flat]) -> Floats:
    """Moved along the way the farthest view's distance grows, until that is none."""
    for _ in range(2):
        found = [flat.at(flat.seen.view.to_plane(points)) for flat in flats]
        away = np.stack([distance for distance, _ in found])
        most = np.argmax(away, axis=0)
        move = np.zeros_like(points)
        for number, flat in enumerate(flats):
            own = most == number
            distance, slope = away[number, own], found[number][1][own]
            steep = np.maximum((slope * slope).sum(axis=1), 0.25)
            move[own] = flat.seen.view.to_world(-(distance / steep)[:, None] * slope)
        points = points + move
    return points


def _cornered(points: Floats, flats: Sequence[_Flat], size: float) -> Floats:
    """What relaxing rounded is sharp again: along the line of sight, of the points near a corner of
    an outline the nearest one moves onto it."""
    for flat in flats:
        view = flat.seen.view
        plane, depth = view.to_plane(points), points @ view.directions.forward
        layer = np.floor(depth / size).astype(np.intp)
        rim = np.abs(flat.at(plane)[0]) < size
        for corner in _sharp(flat.seen.loops, size):
            away = np.hypot(*(plane - corner).T)
            near = np.flatnonzero(rim & (away < _NEAR * size))
            near = near[np.argsort(away[near], kind="stable")]
            if not len(near):
                continue
            chosen = near[np.unique(layer[near], return_index=True)[1]]
            moved = points[chosen] + view.to_world(corner - plane[chosen])
            # Not where another view would not have it.
            others = [f.at(f.seen.view.to_plane(moved))[0] for f in flats if f is not flat]
            allowed = np.max(others, axis=0) < _BEYOND * size
            points[chosen[allowed]] = moved[allowed]
            plane[chosen[allowed]] = corner
    return points


def _sharp(loops: Sequence[Floats], size: float) -> Floats:
    """(k, 2) the corners of outlines, as far as quads of a size can show them."""
    found = [np.zeros((0, 2))]
    for loop in loops:
        line = dense(loop, size / 8)
        reach = 6
        if len(line) < 4 * reach:
            continue
        on = np.roll(line, -reach, axis=0) - line
        back = line - np.roll(line, reach, axis=0)
        turn = np.einsum("ij,ij->i", on, back) / np.maximum(
            np.hypot(*on.T) * np.hypot(*back.T), 1e-12
        )
        around = np.stack([np.roll(turn, k) for k in range(-reach, reach + 1)])
        sharp = (turn < np.cos(np.radians(_SHARP_DEG))) & (turn <= around.min(axis=0))
        found.append(line[sharp])
    return np.concatenate(found)


def _is_even(seen: Sequence[Seen], box: Floats) -> bool:
    """Whether all views that show X are their own mirror images about X = 0."""
    extent = float(np.linalg.norm(box[1] - box[0]))
    for one in seen:
        axes = one.view.paper_axes
        if 0 in axes:
            if None in axes:
                return False
            outline = np.concatenate([dense(loop, extent / 400) for loop in one.loops])
            flip = np.where(np.array(axes) == 0, -1.0, 1.0)
            away = cKDTree(outline).query(outline * flip)[0]
            if float(away.mean()) > _EVEN * extent:
                return False
        elif abs(float(one.view.directions.forward[0])) < 1:
            return False
    return True


def _evened(points: Floats, cells: Ints, counts: Sequence[int]) -> Floats:
    """Each point and the one of the mirrored cell made mirror images."""
    number = np.full([count + 1 for count in counts], -1, np.int64)
    number[tuple(cells.T)] = np.arange(len(cells))
    mirrored = cells.copy()
    mirrored[:, 0] = counts[0] - 1 - cells[:, 0]
    other = number[tuple(mirrored.T)]
    partner = np.where(other >= 0, other, np.arange(len(points)))
    return np.asarray((points + points[partner] * (-1.0, 1.0, 1.0)) / 2)
