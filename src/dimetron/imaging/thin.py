"""Strokes thinned to lines one pixel wide, 64 pixels at a time.

Source: Z. Guo and R. W. Hall, Parallel thinning with two-subiteration algorithms, Communications of
the ACM 32 (1989), 359 to 373 (algorithm A1).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Mask = NDArray[np.bool_]
#: Pixels as bits of words, the leftmost the highest.
Words = NDArray[np.uint64]
_ONE, _LAST = np.uint64(1), np.uint64(63)


def thinned(mask: Mask) -> Mask:
    """(h, w) the middle lines of what a mask covers, connected as it is."""
    h, w = mask.shape
    # Empty columns at both sides, so that rows do not see each other's ends.
    padded = np.zeros((h + 2, -(-(w + 2) // 64) * 64), np.bool_)
    padded[1:-1, 1 : w + 1] = mask
    words = np.packbits(padded, axis=1).view(">u8").astype(np.uint64)
    flat = words.ravel()
    # Only where something went, something more can go.
    near = words > 0
    while near.any():
        gone = np.zeros_like(near)
        for second in (False, True):
            at = np.flatnonzero(near & (words > 0))
            goes = _goes(flat, at, words.shape[1], second)
            flat[at] ^= goes
            changed = np.zeros_like(near)
            changed.ravel()[at[goes > 0]] = True
            changed = _around(changed)
            gone |= changed
            near |= changed
        near = gone
    back = np.unpackbits(words.astype(">u8").view(np.uint8), axis=1)
    return np.asarray(back[1:-1, 1 : w + 1] > 0)


def _around(cells: Mask) -> Mask:
    """The cells and their eight neighbours."""
    wide = cells.copy()
    wide[:, 1:] |= cells[:, :-1]
    wide[:, :-1] |= cells[:, 1:]
    tall = wide.copy()
    tall[1:] |= wide[:-1]
    tall[:-1] |= wide[1:]
    return tall


def _goes(flat: Words, at: NDArray[np.intp], row: int, second: bool) -> Words:
    """Which pixels of some words a half of a round takes away. row: words a row."""
    (p9, p2, p3), (p8, here, p4), (p7, p6, p5) = (_three(flat, at + to) for to in (-row, 0, row))
    p23, p34, p45, p56, p67, p78, p89, p92 = (
        *(p2 | p3, p3 | p4, p4 | p5, p5 | p6),
        *(p6 | p7, p7 | p8, p8 | p9, p9 | p2),
    )
    parts = ~p2 & p34, ~p4 & p56, ~p6 & p78, ~p8 & p92
    one = (parts[0] | parts[1] | parts[2] | parts[3]) & ~_two(*parts)
    thick = _two(p92, p34, p56, p78) & _two(p23, p45, p67, p89)
    whole = (p92 & p34 & p56 & p78) & (p23 & p45 & p67 & p89)
    kept = (p23 | ~p5) & p4 if second else (p67 | ~p9) & p8
    return np.asarray(here & one & thick & ~whole & ~kept)


def _three(flat: Words, at: NDArray[np.intp]) -> tuple[Words, Words, Words]:
    """What lies to the left of every pixel of some words, they themselves, and to the right."""
    here = flat[at]
    # The first and the last word of all are empty: there is nothing to lose beyond them.
    left = here >> _ONE | flat[at - 1] << _LAST
    right = here << _ONE | flat[(at + 1) % len(flat)] >> _LAST
    return left, here, right


def _two(a: Words, b: Words, c: Words, d: Words) -> Words:
    """Where at least two of four are."""
    return np.asarray((a & b) | (c & d) | ((a | b) & (c | d)))
