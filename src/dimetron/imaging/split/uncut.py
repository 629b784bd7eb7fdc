"""Boxes that cut through ink grow until they do not, or are left to the person.

Candidates are found by what is solid, so a stroke that encloses nothing (a feeler, a wire, a stick)
sticks out of its box. So do leaders, dimensions and centrelines, which are to stay outside: they
are ruled, or short and beside writing, or slant straight to a level shelf that writing stands on.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import Enum, auto

import cv2
import numpy as np
from numpy.typing import NDArray

from dimetron.imaging.split import furniture
from dimetron.imaging.split.agree import Agreed
from dimetron.imaging.split.candidates import Readings
from dimetron.imaging.split.furniture import LETTER, Parts, parts_of
from dimetron.imaging.split.level import Bits
from dimetron.imaging.split.regions import Boxes

#: How far round a box is looked, and how far it may grow, as a share of its longer side.
_ROUND = 1.0
#: Ink this far beyond an edge is the edge's own: in working pixels, as a share of the longer side.
_SAME_PX, _SAME_SHARE = 3.0, 0.012
#: What runs along an edge for such a share of it, and no farther out, is the object's outline.
_ALONG, _OUT = 0.25, 0.04
#: A piece with more of it level or upright than this is ruled.
_RULED = 0.85
#: A dimension's extension lines go on along an edge of the box, within so many pixels, with more
#: than this share of what hangs together.
_EDGE_PX, _EXTENDS = 4.0, 0.5
#: Measured lines are lighter than the object's own, with more than this share of them.
_LIGHT = 0.5
#: A line is no thicker across than this, in pixels, however it wavers.
_LINE_PX = 12.0
#: Leaders are no longer than so many letters; writing is no farther from them than this many.
_LEADER, _BESIDE = 2.0, 1.2
#: A leader's shelf is at least this share of it, and the rest of it no thicker, in pixels.
_SHELF, _STROKE_PX = 0.2, 6.0


class _Kind(Enum):
    OBJECT = auto()
    FURNITURE = auto()
    OPEN = auto()


@dataclass(frozen=True, slots=True, eq=False)
class _Piece:
    """What sticks out of a box. box (4,) in working pixels; reach: how far; ruled: the share of it
    that is level or upright; across: how thick it is, square to the way it runs, and how thick what
    is not ruled of it; on_edge: the share that goes on along an edge; light: the share that is thin
    lines; open_ended: whether it goes on beyond where was looked."""

    box: Boxes
    reach: float
    ruled: float
    across: float
    slanted_across: float
    on_edge: float
    light: float
    open_ended: bool


def uncut(boxes: list[Agreed], read: Readings) -> tuple[list[Agreed], dict[int, str]]:
    """The boxes grown by the strokes of the object that they cut, and why others are in doubt."""
    strokes = furniture.without_writing(read.ink)
    writing = np.asarray(cv2.subtract(read.ink, strokes))
    result, doubts = list(boxes), {}
    for number, own in enumerate(boxes):
        others = [b.box for other, b in enumerate(result) if other != number]
        grown = own.box
        for piece in _pieces(strokes, read.bare, own.box, others):
            kind = _kind(piece, own.box, others, writing)
            if kind is _Kind.FURNITURE:
                continue
            wider = np.concatenate(
                [np.minimum(grown[:2], piece.box[:2]), np.maximum(grown[2:], piece.box[2:])]
            )
            fits = not any(_share(wider, other) for other in others)
            if fits and not piece.open_ended:
                grown = wider
            if kind is _Kind.OPEN or grown is not wider:
                doubts[number] = "a line runs out of it"
        if grown is not own.box:
            result[number] = replace(own, box=grown)
    return result, doubts


def _share(a: Boxes, b: Boxes) -> bool:
    """Whether two boxes overlap."""
    return bool((np.minimum(a[2:], b[2:]) > np.maximum(a[:2], b[:2])).all())


def _pieces(ink: Bits, bare: Bits, box: Boxes, others: list[Boxes]) -> list[_Piece]:
    """What hangs on the ink in a box and reaches out of it, without what lies in other boxes."""
    h, w = ink.shape
    x0, y0, x1, y1 = (round(float(v)) for v in box)
    side = max(x1 - x0, y1 - y0)
    around = round(_ROUND * side)
    left, top = max(0, x0 - around), max(0, y0 - around)
    window = slice(top, min(h, y1 + around)), slice(left, min(w, x1 + around))
    inside = np.zeros_like(ink[window])
    own = slice(max(0, y0 - top), y1 - top), slice(max(0, x0 - left), x1 - left)
    inside[own] = ink[window][own]
    outside = ink[window].copy()
    outside[own] = 0
    for other in others:
        a, b, c, d = (round(float(v)) for v in other)
        outside[max(0, b - top) : max(0, d - top), max(0, a - left) : max(0, c - left)] = 0
    parts = parts_of(outside)
    near = cv2.dilate(inside, np.ones((5, 5), np.uint8))
    hanging = np.unique(parts.labels[(near > 0) & (outside > 0)])
    heavy, run = bare[window] > 0, round(furniture.RUN * max(h, w))
    found = [_piece(parts, int(label), heavy, run, (left, top), box) for label in hanging if label]
    return [p for p in found if p.reach > max(_SAME_PX, _SAME_SHARE * side)]


def _piece(
    parts: Parts,
    label: int,
    heavy: NDArray[np.bool_],
    run: int,
    origin: tuple[int, int],
    box: Boxes,
) -> _Piece:
    x, y, w, h = (int(v) for v in parts.boxes[label, :4])
    own = parts.labels[y : y + h, x : x + w] == label
    mask = own.astype(np.uint8) * 255
    level, upright = furniture.runs(mask, run, False), furniture.runs(mask, run, True)
    ruled = float(np.mean((level > 0)[own] | (upright > 0)[own]))
    left, top = origin[0] + x, origin[1] + y
    its_box = np.array([left, top, left + w, top + h], dtype=np.float64)
    reach = max(*(box[:2] - its_box[:2]), *(its_box[2:] - box[2:]))
    slanted = own & (level == 0) & (upright == 0)
    open_ended = bool(reach > _ROUND * float((box[2:] - box[:2]).max()) - 2)
    light = 1.0 - float(np.mean(heavy[y : y + h, x : x + w][own]))
    rows, columns = np.nonzero(own)
    off = np.abs(np.stack([columns + left, rows + top, columns + left, rows + top]).T - box)
    on_edge = float(np.mean(off.min(axis=1) <= _EDGE_PX))
    return _Piece(
        its_box, float(reach), ruled, _across(own), _across(slanted), on_edge, light, open_ended
    )


def _across(mask: np.ndarray) -> float:
    """How thick the set pixels (h, w) are, square to the way they run."""
    pixels = np.stack(np.nonzero(mask), axis=1).astype(np.float64)
    if len(pixels) < 3:
        return 1.0
    away = pixels - pixels.mean(axis=0)
    _, _, ways = np.linalg.svd(away, full_matrices=False)
    return float(np.ptp(away @ ways[1]) + 1)


def _kind(piece: _Piece, box: Boxes, others: list[Boxes], writing: Bits) -> _Kind:
    """Whether a piece is the object's, or what is written and measured beside it."""
    letter = LETTER * max(writing.shape)
    if _runs_along(piece, box):
        return _Kind.OBJECT
    if piece.on_edge > _EXTENDS:
        return _Kind.FURNITURE
    short = piece.reach <= _LEADER * letter
    measured = _beside(piece, writing, _BESIDE * letter)
    # A steep slant is made of short upright runs too.
    slanted = piece.across <= _LINE_PX < float((piece.box[2:] - piece.box[:2]).min())
    if piece.ruled > _RULED and not slanted:
        if piece.across > _LINE_PX:
            return _Kind.FURNITURE if measured or piece.light > _LIGHT else _Kind.OBJECT
        return _Kind.FURNITURE if short or _meets(piece, others) else _Kind.OPEN
    shelved = piece.ruled > _SHELF and piece.slanted_across <= _STROKE_PX
    if short and (shelved or measured):
        return _Kind.FURNITURE
    return _Kind.OPEN if piece.open_ended else _Kind.OBJECT


def _runs_along(piece: _Piece, box: Boxes) -> bool:
    """Whether it is the outline itself, which lies a little outside."""
    size = box[2:] - box[:2]
    long = piece.box[2:] - piece.box[:2]
    near = piece.reach <= _OUT * max(size) and piece.across <= _LINE_PX
    return bool(near and (long > _ALONG * size).any())


def _meets(piece: _Piece, others: list[Boxes]) -> bool:
    """Whether it runs up to another view, as a projection line does."""
    a = piece.box + np.array([-6.0, -6.0, 6.0, 6.0])
    return any(_share(a, other) for other in others)


def _beside(piece: _Piece, writing: Bits, reach: float) -> bool:
    """Whether letters stand within reach of it."""
    h, w = writing.shape
    low = np.maximum(piece.box[:2] - reach, 0).astype(int)
    high = np.minimum(piece.box[2:] + reach, [w, h]).astype(int)
    return bool(writing[low[1] : high[1], low[0] : high[0]].any())
