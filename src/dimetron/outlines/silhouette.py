"""The outermost outline of what is drawn: the middle of its outermost line, or an area's edge."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from dimetron.imaging.ink import Darkness, drawn, ink_level
from dimetron.imaging.pyramid import Pyramid
from dimetron.imaging.shape import without_specks
from dimetron.outlines.corners import Run, with_corners
from dimetron.outlines.edges import edges, refined, slopes_of
from dimetron.outlines.fit import fitted
from dimetron.outlines.ink import Inked, Mask, inked_of, seen
from dimetron.outlines.middles import middles
from dimetron.outlines.part import part_of
from dimetron.outlines.path import Floats, OutlineError, Path, mapped, unit
from dimetron.outlines.smoothing import smoothed

Ints = NDArray[np.intp]

#: Outlines lie within so many pixels unless said.
_MISS = 0.3
#: Outlines are read at no more than this size.
_WORK_PX = 4000
#: Gaps of an outline are closed over at most this share of the larger side, in such steps; what
#: that encloses must be this share of what is enclosed at most.
_GAP, _STEPS, _ENCLOSED = 0.008, 4, 0.97
#: Parts smaller than this share of the largest are left out.
_PART = 0.002
#: How far inward a stroke is looked for, in pens and pixels; in steps of so many pixels.
_PENS, _ROOM, _STEP, _AT_LEAST = 2.0, 3.0, 0.25, 16.0
#: What has ground behind its border for so much of it is drawn with lines.
_LINED = 0.35
#: Lines that lead outward are at most so many pens wide.
_SPUR_PENS = 0.75
#: A run of ink longer than so many pens is a line that leads inward.
_LONG = 1.6


@dataclass(frozen=True, slots=True, eq=False)
class Silhouette:
    """The outer outlines of what is drawn, one for each part that stands apart; pen: how wide their
    lines are, in pixels."""

    paths: tuple[Path, ...]
    pen: float


def silhouette(
    pyramid: Pyramid, miss: float = _MISS, within: Floats | None = None
) -> tuple[Path, ...]:
    """The outer outlines of what is drawn on a picture, or ``within`` a polygon (n, 2) of its
    pixels, within ``miss`` of them: one for each part that stands apart. Raises OutlineError if
    nothing is drawn that encloses anything."""
    return read_silhouette(pyramid, miss, within).paths


def read_silhouette(
    pyramid: Pyramid, miss: float = _MISS, within: Floats | None = None
) -> Silhouette:
    """The same, and how wide its lines are. Raises OutlineError."""
    dark, threshold, scale = _at_work(pyramid)
    areas = pyramid.medium.kind.areas
    step = float(scale[0, 0])
    corner = np.zeros(2)
    if within is not None:
        dark, corner = part_of(dark, within @ np.linalg.inv(scale))
    found = silhouette_of(dark, threshold, areas, miss / step)
    paths = tuple(mapped(path, scale, scale @ corner) for path in found.paths)
    return Silhouette(paths, found.pen * step)


def _at_work(pyramid: Pyramid) -> tuple[Darkness, float, Floats]:
    """How dark a picture is, as fine as it is read; from where on that is ink; and (2, 2) from its
    pixels to the picture's."""
    level = 0
    while max(pyramid.levels[level].size) > _WORK_PX and level + 1 < len(pyramid.levels):
        level += 1
    image = pyramid.levels[level]
    dark = drawn(image, pyramid.medium)
    return dark, ink_level(dark, pyramid.medium), np.diag(np.array(pyramid.size_px) / image.size)


def strokes(pyramid: Pyramid) -> list[Floats]:
    """Lines (n, 2) in a picture's pixels: the middles of all that are drawn, and the edges of
    filled areas; closed ones end where they begin."""
    dark, threshold, scale = _at_work(pyramid)
    ink = without_specks(dark > threshold)
    if not ink.any():
        return []
    read = inked_of(np.where(ink, dark, np.float32(0.0)), threshold, "auto")
    runs = [run for area in edges(read) for run in area]
    if read.thin.any():
        runs += middles(read)
    return [
        (np.concatenate([run.points, run.points[:1]]) if run.closed else run.points) @ scale
        for run in runs
    ]


def silhouette_of(dark: Darkness, level: float, areas: bool, miss: float = _MISS) -> Silhouette:
    """The same of a picture that was read; areas: whether it consists of areas."""
    ink = without_specks(dark > level)
    if not ink.any():
        raise OutlineError("Nothing is drawn here.")
    inside = _enclosed(ink)
    read = inked_of(np.where(ink, dark, np.float32(0.0)), level, "centre")
    # Thick lines may have been taken for areas; behind those there is no ground.
    areas = areas and not _lined(read, dark, inside)
    if not areas:
        inside = _without_lines(inside, read.pen)
    runs = [_run(read, dark, chain, inside, areas) for chain in _borders(inside)]
    if not runs:
        raise OutlineError("What is drawn here encloses nothing.")
    paths = tuple(fitted(run.points, miss, run.corners, True) for run in runs)
    return Silhouette(paths, max(1.0, read.pen))


def _enclosed(ink: Mask) -> Mask:
    """What ink encloses; its gaps closed no farther than it takes."""
    most = max(2, round(max(ink.shape) * _GAP))
    reaches = [0, *(round(most * (k / _STEPS) ** 2) for k in range(1, _STEPS + 1))]
    widest = _filled(ink, reaches[-1])
    size = int(widest.sum())
    for reach in reaches[:-1]:
        found = _filled(ink, reach)
        if int(found.sum()) >= _ENCLOSED * size:
            return found
    return widest


def _without_lines(inside: Mask, pen: float) -> Mask:
    """Without lines that only lead outward: they enclose nothing but their own width."""
    reach = int(np.ceil(_SPUR_PENS * max(pen, 1.5))) + 1
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
    room = cv2.copyMakeBorder(inside.astype(np.uint8), *[reach] * 4, cv2.BORDER_CONSTANT)
    body = cv2.morphologyEx(room, cv2.MORPH_OPEN, disc)
    # Corners that the disc does not reach into belong to it still.
    near = cv2.dilate(body, np.ones((3, 3), np.uint8), iterations=max(1, round(pen)))
    kept = (room & near)[reach:-reach, reach:-reach] > 0
    return kept if kept.any() else inside


def _filled(ink: Mask, reach: int) -> Mask:
    room = 2 * reach + 2
    padded = cv2.copyMakeBorder(ink.astype(np.uint8), *[room] * 4, cv2.BORDER_CONSTANT)
    if reach:
        disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
        padded = cv2.morphologyEx(padded, cv2.MORPH_CLOSE, disc)
    cv2.floodFill(padded, None, (0, 0), (2,))
    return np.asarray(padded != 2)[room:-room, room:-room]


def _borders(inside: Mask) -> list[Floats]:
    """The outer borders (n, 2) of what is inside, the largest parts only."""
    # A line that leads outward encloses nothing, but for its own width.
    found, _ = cv2.findContours(inside.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    sizes = [cv2.contourArea(chain) for chain in found]
    largest = max(sizes, default=0.0)
    return [
        chain[:, 0].astype(np.float64) + 0.5
        for chain, size in zip(found, sizes, strict=True)
        if size > max(16.0, _PART * largest)
    ]


@dataclass(frozen=True, slots=True, eq=False)
class _Runs:
    """The first ink inward from places along a border: places and ways (n, 2), steps (m,) along
    them, weight (n, m) of ink there; first, last (n,): the run's steps; found, ends (n,): whether
    there is ink, and ground again behind it."""

    ways: Floats
    steps: Floats
    weight: Floats
    first: Ints
    last: Ints
    found: Mask
    ends: Mask

    @property
    def wide(self) -> Floats:
        """(n,) how wide each is, in pixels."""
        return np.asarray((self.last - self.first) * _STEP, np.float64)


def _runs(read: Inked, dark: Darkness, chain: Floats, inside: Mask) -> _Runs:
    inward = slopes_of(inside.astype(np.float32))
    ways = unit(np.stack([seen(part, chain) for part in inward], axis=1).astype(np.float64))
    steps = np.arange(-_ROOM, max(_PENS * read.pen, _AT_LEAST) + _ROOM, _STEP)
    profile = seen(dark, chain[:, None] + steps[None, :, None] * ways[:, None])
    weight = np.clip(profile - 0.5 * read.level, 0.0, None).astype(np.float64)
    there = np.asarray(profile > read.level)
    first = there.argmax(axis=1)
    rest = np.where(np.arange(len(steps))[None] >= first[:, None], ~there, False)
    ends = np.asarray(rest.any(axis=1))
    last = np.where(ends, rest.argmax(axis=1), len(steps))
    return _Runs(ways, steps, weight, first, last, np.asarray(there.any(axis=1)), ends)


def _lined(read: Inked, dark: Darkness, inside: Mask) -> bool:
    """Whether behind the border's ink there is ground again."""
    found = [_runs(read, dark, chain, inside) for chain in _borders(inside)]
    lined = np.concatenate([runs.found & runs.ends for runs in found] or [np.zeros(1, bool)])
    return bool(lined.mean() >= _LINED)


def _run(read: Inked, dark: Darkness, chain: Floats, inside: Mask, areas: bool) -> Run:
    if areas:
        return with_corners(refined(read, chain, slopes_of(read.dark)), True, 0.0)
    runs = _runs(read, dark, chain, inside)
    pen = max(1.5, read.pen)
    crossed = runs.wide[runs.found & runs.ends]
    if len(crossed):
        # Seen square to it a line is crossed the shortest.
        pen = max(pen, float(np.percentile(crossed, 25)))
    off, known = _middle(runs, pen)
    # Across a gap there is no ink: there it runs straight between what is known.
    if known.any() and not known.all():
        at = np.arange(len(chain))
        off = np.interp(at, at[known], off[known], period=len(chain))
    points = smoothed(chain + off[:, None] * runs.ways, 1.2, ring=True)
    return with_corners(points, True, pen)


def _middle(runs: _Runs, pen: float) -> tuple[Floats, Mask]:
    """(n,) how far inward the middle of the line lies, and whether there is one."""
    number = np.arange(len(runs.steps))[None]
    margin = round(1.0 / _STEP)
    near = (number >= runs.first[:, None] - margin) & (number < runs.last[:, None] + margin)
    own = runs.weight * near
    total = own.sum(axis=1)
    middle = (own * runs.steps).sum(axis=1) / np.where(total > 0, total, 1.0)
    long = runs.wide > _LONG * pen
    begins = runs.steps[np.minimum(runs.first, len(runs.steps) - 1)]
    off = np.where(long, begins + pen / 2, middle)
    return off, runs.found & ~(long & (runs.first == 0))
