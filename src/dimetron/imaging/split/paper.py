"""Lines that are the paper's and not the drawing's: squares and rules printed on it, and folds."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from dimetron.imaging.ink import Darkness

#: The sheet is looked at in so many strips; a line of the paper is seen in nearly all of them, one
#: between others at least in some.
_STRIPS, _IN_MOST, _IN_SOME = 14, 0.8, 0.3
#: A row is a line in a strip where most of it is darker by this than the rows around, so far away,
#: and by so many times what rows differ by otherwise.
_STANDS_OUT, _AROUND, _GRAIN = 0.02, 9, 4.0
#: From strip to strip a line may wander so far, in pixels, and it is so wide.
_WANDER, _WIDE = 3, 2
#: Lines are printed if there are at least so many, and most lie as far from the next as the others,
#: within this share.
_MANY, _MOSTLY, _EVENLY = 8, 0.6, 0.15
#: A fold runs to within this share of both edges; a sheet is folded no more often each way.
_EDGE, _FOLDS = 0.012, 7
#: What is darker than this many times the line is something drawn across it.
_ACROSS = 2.0


def without_paper_lines(dark: Darkness) -> Darkness:
    """Darkness (h, w) of a level sheet without the paper's own lines."""
    cleaned = _without_rows(dark)
    return np.ascontiguousarray(_without_rows(np.ascontiguousarray(cleaned.T)).T)


def _without_rows(dark: Darkness) -> Darkness:
    h, w = dark.shape
    if min(h, w) < 8 * _STRIPS:
        return dark
    strips = list(pairwise(np.linspace(0, w, _STRIPS + 1).astype(int)))
    levels = np.stack([np.median(dark[:, a:b], axis=1) for a, b in strips])
    peaks = _peaks(levels)
    seen = np.where(peaks, levels, 0.0)
    near = maximum_filter1d(seen, 2 * _WANDER + 1, axis=1)
    rows = _middles((near > 0).mean(axis=0) >= _IN_MOST)
    strength = np.median(near[:, rows], axis=0)
    printed, fold = _printed(rows), _from_edge_to_edge(dark, rows)
    if printed.any():
        # A frame among them is stronger, and stays.
        usual = float(np.median(strength))
        strength = np.minimum(strength, usual)
    found = [*zip(rows[printed | fold], strength[printed | fold], strict=True)]
    if printed.any():
        found += [(row, usual) for row in _between(rows[printed], near)]
    out = dark.copy()
    for row, strong in found:
        top, bottom = max(0, row - _WANDER - _WIDE), min(h, row + _WANDER + _WIDE + 1)
        line = maximum_filter1d(seen[:, top:bottom], 2 * _WIDE + 1, axis=1) > 0
        # Where something beside it hides where it runs, it runs straight on.
        hidden = ~line.any(axis=1)
        line[hidden] = np.abs(np.arange(top, bottom) - row) <= _WIDE
        for here, (a, b) in zip(line, strips, strict=True):
            part = out[top:bottom, a:b]
            part[here[:, None] & (part <= _ACROSS * strong)] = 0.0
    return out


def _between(rows: NDArray[np.intp], near: Darkness) -> list[int]:
    """Rows that print must have between and beside those that were found, and that are seen in
    some strips; ``near`` (strips, h): how strong a line is near each row."""
    gap = float(np.median(np.diff(rows)))
    count = np.round((rows - rows[0]) / gap)
    gap, first = np.polyfit(count, rows, 1)
    wanted = np.arange(first % gap, near.shape[1] - 1, gap).round().astype(int)
    new = np.abs(wanted[:, None] - rows).min(axis=1) > _WANDER
    seen = (near[:, wanted] > 0).mean(axis=0) >= _IN_SOME
    return [int(row) for row in wanted[new & seen]]


def _peaks(levels: Darkness) -> NDArray[np.bool_]:
    """(strips, h) rows that stand out from those around them."""
    around = np.stack([np.roll(levels, by, axis=1) for by in (-_AROUND, _AROUND)]).max(axis=0)
    off = levels - around
    grain = 1.4826 * float(np.median(np.abs(off - np.median(off))))
    stands_out = off > max(_STANDS_OUT, _GRAIN * grain)
    return np.asarray(stands_out & (levels >= maximum_filter1d(levels, 3, axis=1)))


def _middles(rows: NDArray[np.bool_]) -> NDArray[np.intp]:
    """The middle row of each run that is no longer than one line gives; grain gives long ones."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], rows.astype(np.int8), [0]])))
    first, end = edges[::2], edges[1::2]
    thin = end - first <= 4 * _WANDER
    return np.asarray((first + end - 1)[thin] // 2, np.intp)


def _printed(rows: NDArray[np.intp]) -> NDArray[np.bool_]:
    """Whether rows are as evenly spaced as print is: all of them or none."""
    none = np.zeros(len(rows), bool)
    if len(rows) < _MANY:
        return none
    gaps = np.diff(rows)
    usual = float(np.median(gaps))
    evenly = np.abs(gaps / usual - np.round(gaps / usual)) <= _EVENLY
    return ~none if evenly.mean() >= _MOSTLY else none


def _from_edge_to_edge(dark: Darkness, rows: NDArray[np.intp]) -> NDArray[np.bool_]:
    """Which rows go on to both edges of the sheet, where nothing is drawn."""
    w = dark.shape[1]
    edge = max(3, round(_EDGE * w))
    reach = 2 * _WANDER + 1
    ends = []
    for part in (dark[:, :edge], dark[:, -edge:]):
        level = np.median(part, axis=1)
        around = np.maximum(np.roll(level, _AROUND), np.roll(level, -_AROUND))
        ends.append(maximum_filter1d((level - around > _STANDS_OUT).astype(np.uint8), reach) > 0)
    found = (ends[0] & ends[1])[rows]
    return np.asarray(found if found.sum() <= _FOLDS else np.zeros(len(rows), bool))
