"""A picture's ink as outlines: the middles of its lines, the edges of its areas."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from PIL import Image
from scipy.spatial import cKDTree

from dimetron.geometry.segments import nearest_on
from dimetron.imaging.ink import drawn, ink_level
from dimetron.imaging.medium import Medium
from dimetron.outlines.corners import Run
from dimetron.outlines.edges import edges
from dimetron.outlines.fit import fitted
from dimetron.outlines.ink import Inked, inked, softened
from dimetron.outlines.middles import middles
from dimetron.outlines.part import part_of
from dimetron.outlines.path import Floats, OutlineError, Path, mapped, sampled

#: By how much an outline may lie off the ink unless said, and the least that can be asked, in
#: pixels.
USUAL_MISS, LEAST_MISS = 0.5, 0.02
LINES = ("auto", "centre", "edge")


@dataclass(frozen=True, slots=True, eq=False)
class Traced:
    """path: in pixels of the picture, y down. mean, most: by how much it misses the ink, in pixels.
    area: of which filled area it is an edge, None for a line's middle."""

    path: Path
    mean: float
    most: float
    area: int | None = None


def trace(
    image: Image.Image,
    medium: Medium,
    line: str = "auto",
    miss: float = USUAL_MISS,
    progress: Callable[[float], None] = lambda share: None,
    within: Floats | None = None,
) -> tuple[Traced, ...]:
    """Trace all that is drawn in a picture, or ``within`` a polygon (n, 2) of its pixels.
    ``progress`` may raise to end it. Raises OutlineError if nothing is drawn."""
    if within is None:
        return traced(inked(image, medium, line), miss, progress)
    dark = drawn(image, medium)
    part, corner = part_of(dark, within)
    found = traced(softened(part, ink_level(dark, medium), line), miss, progress)
    return tuple(replace(t, path=mapped(t.path, np.eye(2), corner)) for t in found)


def traced(
    ink: Inked, miss: float = USUAL_MISS, progress: Callable[[float], None] = lambda share: None
) -> tuple[Traced, ...]:
    """Trace the ink of a picture that was read. Raises OutlineError."""
    if not miss >= LEAST_MISS:
        raise OutlineError(f"A miss of {miss:g} px is too small; {LEAST_MISS} px is the least.")
    runs: list[tuple[Run, int | None]] = []
    for number, area in enumerate(edges(ink)):
        runs.extend((run, number) for run in area)
    progress(0.2)
    if ink.thin.any():
        runs.extend((run, None) for run in middles(ink))
    progress(0.4)
    if not runs:
        raise OutlineError("Nothing is drawn here that could be traced.")
    found = []
    for at, (run, area_of) in enumerate(runs):
        found.append(_outline(run, miss, area_of))
        if at % 64 == 0:
            progress(0.4 + 0.6 * at / len(runs))
    return tuple(found)


def _outline(run: Run, miss: float, area: int | None) -> Traced:
    path = fitted(run.points, miss, run.corners, run.closed)
    mean, most = missed(path, run.points)
    return Traced(path, mean, most, area)


def missed(path: Path, points: Floats) -> tuple[float, float]:
    """Mean and largest distance of points (n, 2) from a path."""
    away = distances(path, points)
    return float(away.mean()), float(away.max())


def distances(path: Path, points: Floats) -> Floats:
    """(n,) how far points lie from a path."""
    size = max(1e-9, *(float(np.ptp(part, axis=0).max()) for part in (points, path.points)))
    line = sampled(path, 2e-5 * size + 1e-9)
    if path.closed:
        line = np.concatenate([line, line[:1]])
    if len(line) < 2:
        return np.asarray(np.hypot(*(points - line[0]).T))
    a, b = _denser(line, size / 200)
    middles_ = (a + b) / 2
    near = cKDTree(middles_).query(points, k=min(4, len(middles_)))[1].reshape(len(points), -1)
    return np.asarray(nearest_on(points[:, None], a[near], b[near])[1].min(axis=1))


def _denser(line: Floats, step: float) -> tuple[Floats, Floats]:
    """The beginnings and ends of a polyline's parts, none much longer than ``step``."""
    way = np.diff(line, axis=0)
    counts = np.maximum(1, np.ceil(np.hypot(*way.T) / step)).astype(np.intp)
    which = np.repeat(np.arange(len(way)), counts)
    first = np.repeat(np.cumsum(counts) - counts, counts)
    t = (np.arange(len(which)) - first)[:, None]
    part = way[which] / counts[which][:, None]
    return line[which] + t * part, line[which] + (t + 1) * part
