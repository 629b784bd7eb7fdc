"""The radius of the rounded edges of a slab, from run to run of its outline."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.geometry.segments import nearest_on
from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.parameters import Place

#: A run of edges ends at a corner that turns by more than this.
_CORNER_DEG = 30.0
#: From one radius to another within this many steps, over the larger radius, or this share of the
#: run where it is short.
_STEPS, _SHARE = 6, 0.4


@dataclass(frozen=True, slots=True, eq=False)
class Edge:
    """loop (n, 2), with points put in where the radius changes; radii (n,) of the edge at each;
    end (n,): the number of the corner that a point is near to, and near (n,): how near, 1 at it and
    0 from where nothing changes any more; 0 at corners themselves."""

    loop: Floats
    radii: Floats
    end: Ints
    near: Floats


def with_radii(loop: Floats, radius: float, places: Sequence[Place], inset: float = 0.0) -> Edge:
    """A closed loop (n, 2) whose edge has a ``radius``, but along the runs of edges that ``places``
    (at, radius) are nearest to another one. At a corner between two runs the smaller of both holds.
    inset: by how much more its sides move inward elsewhere."""
    runs = _runs(loop)
    own = np.full(len(runs), radius)
    for x, y, value in places:
        own[_nearest(loop, runs, np.array([x, y]))] = value
    count = len(loop)
    if len(runs) == 1 or (own == own[0]).all():
        return Edge(loop, np.full(count, own[0]), np.zeros(count, np.int32), np.zeros(count))
    found: list[Edge] = []
    first = 0
    for number, run in enumerate(runs):
        ends = (min(own[number], own[number - 1]), min(own[number], own[(number + 1) % len(runs)]))
        part = _eased(loop[run], float(own[number]), ends, inset)
        # The next run begins with its last point.
        count = len(part.loop) - 1
        end = first + np.where(part.end[:-1] > 0, count, 0)
        found.append(Edge(part.loop[:-1], part.radii[:-1], end, part.near[:-1]))
        first += count
    return Edge(
        np.concatenate([part.loop for part in found]),
        np.concatenate([part.radii for part in found]),
        np.concatenate([part.end for part in found]) % first,
        np.concatenate([part.near for part in found]),
    )


def nearest_to(loops: Sequence[Floats], place: Place) -> int:
    """The number of the loop that a place is nearest to."""
    at = np.array(place[:2])
    away = [nearest_on(at, loop, np.roll(loop, -1, axis=0))[1].min() for loop in loops]
    return int(np.argmin(away))


def _runs(loop: Floats) -> list[Ints]:
    """Numbers of the points along each run of edges, its last the next one's first."""
    on, back = np.roll(loop, -1, axis=0) - loop, loop - np.roll(loop, 1, axis=0)
    cosine = (on * back).sum(axis=1) / np.maximum(np.hypot(*on.T) * np.hypot(*back.T), 1e-12)
    corners = np.flatnonzero(cosine < np.cos(np.radians(_CORNER_DEG)))
    if len(corners) < 2:
        return [np.arange(len(loop) + 1) % len(loop)]
    ends = np.append(corners[1:], corners[0] + len(loop))
    return [np.arange(a, b + 1) % len(loop) for a, b in zip(corners, ends, strict=True)]


def _nearest(loop: Floats, runs: Sequence[Ints], at: Floats) -> int:
    away = [nearest_on(at, loop[run[:-1]], loop[run[1:]])[1].min() for run in runs]
    return int(np.argmin(away))


def _eased(line: Floats, radius: float, ends: tuple[float, float], inset: float) -> Edge:
    """A run (n, 2) with points where its radius grows from that at either end to its own; which end
    a point is near to is 0 or 1."""
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    whole = float(along[-1])
    reach = [min(max(radius, 2 * (end + inset)), _SHARE * whole) for end in ends]
    grows = [end < radius for end in ends]
    steps = np.linspace(0, 1, _STEPS + 1)[1:]
    extra = [steps * reach[0]] if grows[0] else []
    extra += [whole - steps * reach[1]] if grows[1] else []
    every = np.unique(np.concatenate([along, *extra]))
    # Two points in nearly one place would make a needle.
    every = every[np.append(True, np.diff(every) > 1e-6 * whole)]
    points = np.stack([np.interp(every, along, line[:, k]) for k in (0, 1)], axis=1)
    radii, near = np.full(len(every), radius), np.zeros(len(every))
    for k, from_end in enumerate((every, whole - every)):
        if grows[k]:
            share = np.clip(from_end / reach[k], 0, 1)
            # Smooth at both ends, like the rounding itself.
            radii = np.minimum(
                radii, ends[k] + (radius - ends[k]) * share * share * (3 - 2 * share)
            )
            near = np.maximum(near, 1 - share)
    near[[0, -1]] = 0.0
    return Edge(points, radii, (2 * every > whole).astype(np.int32), near)
