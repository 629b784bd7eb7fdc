"""The lines of meshes as a draughtsman would draw them in a view: those that nothing hides.

Borders, sharp edges, edges between what is seen and what is not, and the lines in which meshes run
through each other. Whether a place is hidden is asked of the meshes themselves; where a line comes
into sight or goes out of it is found by halving.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

import numpy as np

from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, Ints, Mask
from dimetron.mesh.crossing import crossing
from dimetron.mesh.joined import joined
from dimetron.mesh.layers import CREASE, layers
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.outline import SHARP_DEG, feature_edges, sharp_edges
from dimetron.mesh.rays import first_met

#: Places along lines at which it is asked whether they are hidden, along the larger extent; how
#: often what lies between them is halved; how far off the surface they are asked, as a share of it.
_FINE, _HALVINGS, _OFF = 400, 12, 2e-5
#: Lines that are shorter than this share of the extent are none.
_POINT = 5e-5


class Together:
    """Meshes as they are seen together; what no view changes is worked out once."""

    def __init__(self, meshes: Sequence[Mesh]) -> None:
        shown = [_bare(mesh) for mesh in meshes if mesh.topology.face_count]
        self.mesh = joined(shown) if shown else None

    @cached_property
    def crossings(self) -> Floats:
        """(k, 2, 3) the lines in which they run through each other, or themselves."""
        return (
            np.zeros((0, 2, 3)) if self.mesh is None else crossing(self.mesh, touching=True).lines
        )


def _bare(mesh: Mesh) -> Mesh:
    """With nothing but its creases."""
    kept = {CREASE: mesh.layers[CREASE]} if CREASE in mesh.layers else {}
    return Mesh(mesh.positions, mesh.topology, layers(**kept))


def seen_lines(meshes: Together, view: AnyView, sharp_deg: float = SHARP_DEG) -> list[Floats]:
    """(n, 3) polylines of what is seen."""
    whole = meshes.mesh
    if whole is None:
        return []
    return _seen(meshes, view, whole, feature_edges(whole, view.directions.forward, sharp_deg))


def inner_lines(meshes: Together, view: AnyView, sharp_deg: float = SHARP_DEG) -> list[Floats]:
    """(n, 3) polylines of what is seen of creases, borders, sharp edges, and of lines in which
    meshes run through each other: all but outlines of what is round."""
    whole = meshes.mesh
    return [] if whole is None else _seen(meshes, view, whole, sharp_edges(whole, sharp_deg))


def _seen(meshes: Together, view: AnyView, whole: Mesh, edges: Ints) -> list[Floats]:
    size = float(np.ptp(whole.bounds, axis=0).max())
    drawn = whole.positions[whole.topology.edges[edges]]
    ends = np.concatenate([drawn, meshes.crossings])
    ends = ends[np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1) > 1e-9 * size]
    begin, end = _in_sight(whole, view, ends, size)
    # What is seen as less than a point is left out.
    seen = np.linalg.norm(view.to_plane(end) - view.to_plane(begin), axis=1) > _POINT * size
    return _chained(begin[seen], end[seen], size)


def _hidden(mesh: Mesh, view: AnyView, places: Floats, size: float) -> Mask:
    """(n,) which places something lies before."""
    toward = np.broadcast_to(-view.directions.forward, places.shape)
    away, _ = first_met(mesh.index, mesh.positions, places, toward, _OFF * size, 4 * size)
    return np.asarray(np.isfinite(away))


def _in_sight(mesh: Mesh, view: AnyView, ends: Floats, size: float) -> tuple[Floats, Floats]:
    """(m, 3), (m, 3) from where to where parts of lines (k, 2, 3) are seen."""
    way = ends[:, 1] - ends[:, 0]
    parts = np.maximum(np.ceil(np.linalg.norm(way, axis=1) / size * _FINE), 1).astype(np.int64)
    line = np.repeat(np.arange(len(ends)), parts)
    number = np.arange(len(line)) - np.repeat(np.cumsum(parts) - parts, parts)

    def at(line: Ints, share: Floats) -> Floats:
        return np.asarray(ends[line, 0] + share[:, None] * way[line])

    middles = (number + 0.5) / parts[line]
    seen = ~_hidden(mesh, view, at(line, middles), size)
    # Between two middles of which one is hidden, the line goes out of sight or comes into it.
    turn = np.flatnonzero((line[1:] == line[:-1]) & (seen[1:] != seen[:-1]))
    low, high = middles[turn], middles[turn + 1]
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        same = ~_hidden(mesh, view, at(line[turn], middle), size) == seen[turn]
        low, high = np.where(same, middle, low), np.where(same, high, middle)
    first = np.flatnonzero(seen & np.concatenate([[True], _breaks(line, seen)]))
    last = np.flatnonzero(seen & np.concatenate([_breaks(line, seen), [True]]))
    from_, to = np.zeros(len(line)), np.ones(len(line))
    from_[turn + 1], to[turn] = high, low
    return at(line[first], from_[first]), at(line[last], to[last])


def _breaks(line: Ints, seen: Mask) -> Mask:
    """Whether something begins between each part and the next."""
    return np.asarray((line[1:] != line[:-1]) | (seen[1:] != seen[:-1]))


def _chained(begin: Floats, end: Floats, size: float) -> list[Floats]:
    """Pieces put together where the ends of just two meet."""
    if not len(begin):
        return []
    ends = np.concatenate([begin, end])
    _, spot = np.unique(np.rint(ends / (1e-6 * size)).astype(np.int64), axis=0, return_inverse=True)
    spot = spot.reshape(-1)
    count = len(begin)
    meeting: dict[int, list[int]] = {}
    for number, place in enumerate(spot.tolist()):
        meeting.setdefault(place, []).append(number)
    # Where an end goes on: the other piece's end at the same place.
    on = np.full(2 * count, -1)
    for numbers in meeting.values():
        if len(numbers) == 2:
            on[numbers[0]], on[numbers[1]] = numbers[1], numbers[0]
    used = np.zeros(count, bool)
    loose = np.flatnonzero(on < 0)
    return [
        ends[_followed(int(at), on, used, count)]
        for at in [*loose.tolist(), *range(count)]
        if not used[at % count]
    ]


def _followed(at: int, on: Ints, used: Mask, count: int) -> list[int]:
    """Ends one after the other, from an end on through pieces that were not used yet."""
    run = [at]
    while at >= 0 and not used[at % count]:
        used[at % count] = True
        far = at + count if at < count else at - count
        run.append(far)
        at = int(on[far])
    return run
