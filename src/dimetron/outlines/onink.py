"""How far an outline lies off what is drawn, and bringing it onto the nearest line."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dimetron.imaging.pyramid import Pyramid
from dimetron.outlines.fit import fitted
from dimetron.outlines.ink import Inked, seen
from dimetron.outlines.path import Floats, Mask, OutlineError, Path, at, unit
from dimetron.outlines.smoothing import smoothed
from dimetron.outlines.window import window_on

#: Lines farther away than this are not what an outline is meant to follow, in pixels.
REACH_PX = 14.0
#: Lines are brought in from so far.
LAY_PX = 30.0
#: Read in steps of so many pixels, so many places at a time.
_STEP, _AT_ONCE = 0.5, 700
#: A run of ink longer than so many pens leads across.
_ACROSS = 2.5
#: An outline of which less than this share lies near ink does not lie on it.
_FEW = 0.2


@dataclass(frozen=True, slots=True, eq=False)
class OffInk:
    """points (n, 2): along the outline, about a pixel apart; to (n, 2): where the line each belongs
    to is; off (n,): how far away, signed; known (n,): whether there is one within reach."""

    points: Floats
    to: Floats
    off: Floats
    known: Mask
    piece: NDArray[np.intp]

    @property
    def mean(self) -> float:
        """The mean miss in pixels, where it is known."""
        return float(np.abs(self.off[self.known]).mean()) if self.known.any() else 0.0

    @property
    def most(self) -> float:
        """The largest miss in pixels."""
        return float(np.abs(self.off[self.known]).max()) if self.known.any() else 0.0

    @property
    def told(self) -> bool:
        """Whether enough of it lies near ink to say anything."""
        return bool(self.known.mean() >= _FEW)


def off_ink(pyramid: Pyramid, path: Path, reach: float = REACH_PX) -> OffInk:
    """How far a path in a picture's pixels lies from the lines and edges drawn there."""
    points, ways, piece = _along(path)
    to, known = points.copy(), np.zeros(len(points), bool)
    for first in range(0, len(points), _AT_ONCE):
        part = slice(first, first + _AT_ONCE)
        window = window_on(
            pyramid, points[part].min(axis=0) - reach, points[part].max(axis=0) + reach
        )
        if window is None:
            continue
        own = window.from_picture(points[part])
        off, there = _nearest(window.ink, own, ways[part], reach / window.scale)
        normal = np.stack([-ways[part][:, 1], ways[part][:, 0]], axis=1)
        to[part] = window.to_picture(own + off[:, None] * normal)
        known[part] = there
    normal = np.stack([-ways[:, 1], ways[:, 0]], axis=1)
    off = ((to - points) * normal).sum(axis=1)
    return OffInk(points, to, np.where(known, off, 0.0), known, piece)


def laid_on(
    pyramid: Pyramid, path: Path, miss: float, reach: float = LAY_PX, only: Mask | None = None
) -> Path:
    """A path brought onto the nearest line, fitted within ``miss`` pixels; its corners stay
    corners. only (pieces,): the pieces that move. Raises OutlineError if no line is near."""
    found = off_ink(pyramid, path, reach)
    if not found.told:
        raise OutlineError("No drawn line is near this outline.")
    known = found.known if only is None else found.known & only[found.piece]
    if not known.any():
        raise OutlineError("No drawn line is near this part of the outline.")
    shift = found.to - found.points
    # Where there is no line it moves along with what lies beside.
    index = np.arange(len(shift))
    period = len(shift) if path.closed else None
    for k in (0, 1):
        shift[:, k] = np.interp(index, index[known], shift[known, k], period=period)
    if only is not None:
        shift[~only[found.piece]] = 0.0
    points = found.points + shift
    corners = _corner_places(path, found.piece)
    runs = _smooth_between(points, corners, path.closed)
    return fitted(runs, miss, corners, path.closed)


def _along(path: Path) -> tuple[Floats, Floats, NDArray[np.intp]]:
    """Places on a path about a pixel apart, its directions there, and of which piece they are."""
    pieces = path.pieces
    long = np.hypot(*np.diff(pieces, axis=1).transpose(2, 0, 1)).sum(axis=1)
    counts = np.clip(np.ceil(long), 4, 20_000).astype(np.intp)
    piece = np.repeat(np.arange(len(pieces)), counts)
    first = np.repeat(np.cumsum(counts) - counts, counts)
    t = (np.arange(len(piece)) - first) / counts[piece]
    if not path.closed:
        piece, t = np.append(piece, len(pieces) - 1), np.append(t, 1.0)
    cubics = pieces[piece]
    points = at(cubics, t)
    near = at(cubics, np.clip(t + 1e-3, 0, 1)) - at(cubics, np.clip(t - 1e-3, 0, 1))
    return points, unit(near), piece


def _nearest(ink: Inked, points: Floats, ways: Floats, reach: float) -> tuple[Floats, Mask]:
    """How far along its normal the line or edge nearest to each place is, and whether there is
    one."""
    normal = np.stack([-ways[:, 1], ways[:, 0]], axis=1)
    count = 2 * int(np.ceil(reach / _STEP)) + 1
    steps = np.linspace(-reach, reach, count)
    places = points[:, None] + steps[None, :, None] * normal[:, None]
    dark = seen(ink.dark, places)
    line_off, line = _stroke(ink, dark, steps)
    if not ink.thick.any():
        return line_off, line
    thick = seen(ink.thick.astype(np.float32), places) > 0.5
    edge_off, edge = _edge(dark, thick, steps)
    nearer = edge & (~line | (np.abs(edge_off) < np.abs(line_off)) | thick.any(axis=1))
    return np.where(nearer, edge_off, line_off), line | edge


def _stroke(ink: Inked, dark: NDArray[np.float32], steps: Floats) -> tuple[Floats, Mask]:
    there = dark > ink.level
    cost = np.where(there, np.abs(steps)[None], np.inf)
    seed = np.argmin(cost, axis=1)
    row = np.arange(len(dark))
    found = np.isfinite(cost[row, seed])
    begins = there & ~np.concatenate([np.zeros((len(there), 1), bool), there[:, :-1]], axis=1)
    number = np.cumsum(begins, axis=1)
    own = there & (number == number[row, seed][:, None])
    wide = own.sum(axis=1) * float(steps[1] - steps[0])
    pen = max(1.5, ink.pen)
    found &= (wide < _ACROSS * pen + 1) & ~own[:, 0] & ~own[:, -1]
    # The soft rim of the stroke counts as well.
    rim = own.copy()
    rim[:, 1:] |= own[:, :-1]
    rim[:, :-1] |= own[:, 1:]
    weight = np.clip(dark - 0.5 * ink.level, 0, None) * rim
    total = weight.sum(axis=1)
    off = (weight * steps).sum(axis=1) / np.where(total > 0, total, 1.0)
    return np.where(found, off, 0.0), found


def _edge(dark: NDArray[np.float32], thick: Mask, steps: Floats) -> tuple[Floats, Mask]:
    differs = thick[:, 1:] != thick[:, :-1]
    middles = (steps[1:] + steps[:-1]) / 2
    cost = np.where(differs, np.abs(middles)[None], np.inf)
    best = np.argmin(cost, axis=1)
    row = np.arange(len(dark))
    found = np.isfinite(cost[row, best])
    # The half of what is darkest and lightest close by, between two steps.
    around = np.clip(best[:, None] + np.arange(-5, 7)[None], 0, len(steps) - 1)
    near = dark[row[:, None], around]
    half = (near.max(axis=1) + near.min(axis=1)) / 2
    over = near > half[:, None]
    turns = over[:, 1:] != over[:, :-1]
    place = np.argmin(np.where(turns, np.abs(np.arange(-5, 6))[None], np.inf), axis=1)
    low, high = near[row, place], near[row, place + 1]
    share = np.where(high != low, (half - low) / np.where(high != low, high - low, 1.0), 0.5)
    index = np.clip(best - 5 + place + np.clip(share, 0, 1), 0, len(steps) - 1)
    off = np.interp(index, np.arange(len(steps)), steps)
    return np.where(found, off, 0.0), found


def _corner_places(path: Path, piece: NDArray[np.intp]) -> NDArray[np.intp]:
    """Where among the places along a path its corners are."""
    first = np.searchsorted(piece, np.arange(path.piece_count))
    places = first if path.closed else np.append(first, len(piece) - 1)
    return np.asarray(places[path.corner], np.intp)


def _smooth_between(points: Floats, corners: NDArray[np.intp], closed: bool) -> Floats:
    """Points with the noise taken out between corners."""
    if closed and not len(corners):
        return smoothed(points, 1.5, ring=True)
    result = points.copy()
    stops = np.unique(np.concatenate([[0], corners, [len(points) - 1]])).astype(np.intp)
    for a, b in zip(stops[:-1].tolist(), stops[1:].tolist(), strict=True):
        result[a : b + 1] = smoothed(points[a : b + 1], 1.5, ring=False)
    return result
