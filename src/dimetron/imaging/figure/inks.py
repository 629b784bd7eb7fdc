"""The inks that lines are drawn with, told apart by their colours whatever their strength: all
mixtures of an ink with its paper lie along one direction from the paper's colour."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from dimetron.imaging.figure.ground import Pixels
from dimetron.imaging.figure.said import Colour

#: What differs from the paper by less, of 255, shows no colour of its own.
_TELLING = 40.0
#: Directions closer than this are one ink; beyond this from all of them lies none, in degrees.
_APART, _NEAR = 17.0, 30.0
#: An ink makes up this share of what is drawn at least; no more are told apart.
_LEAST, _MOST = 0.015, 6
#: Paper is looked for around a line as far as this, in pixels.
_REACH = 31
_SAMPLE = 20_000
#: An ink is as strong as the strongest tenth of what is drawn with it.
_STRONG = 90
_ROUNDS = 4
#: Files keep colours coarser than light: what a line lacks of its own lies beside it, so far.
_SPREAD = 1.5
#: Scraps of up to so many pixels, and of what differs from the paper by so much.
_SCRAP_PX, _FAINT = 30, 20.0

Vectors = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Ink:
    """colour: at its strongest; way: the direction from the paper to it, of length 1; share: how
    much of all that is drawn it makes up; guide: whether it is no part of the object."""

    colour: Colour
    way: tuple[float, float, float]
    share: float
    guide: bool = False


def inks_of(pixels: Pixels) -> tuple[Ink, ...]:
    """The inks of a picture (h, w, 3) of lines, the commonest first."""
    paper = cv2.medianBlur(pixels, _REACH).astype(np.float32)
    bare = np.abs(pixels.astype(np.float32) - paper).max(axis=2).ravel()
    off = (_spread(pixels) - paper).reshape(-1, 3).astype(np.float64)
    strong = bare >= _TELLING
    if not strong.any():
        return ()
    off, own = off[strong], pixels.reshape(-1, 3)[strong]
    step = max(1, len(off) // _SAMPLE)
    off, own = off[::step], own[::step]
    size = np.linalg.norm(off, axis=1)
    ways = off / size[:, None]
    found: list[Ink] = []
    left = np.ones(len(ways), bool)
    while len(found) < _MOST and left.mean() >= _LEAST:
        way = _densest(ways[left])
        near = left & (ways @ way >= np.cos(np.radians(_APART)))
        left &= ways @ way < np.cos(np.radians(_APART))
        if near.mean() < _LEAST:
            break
        strongest = near & (size >= np.percentile(size[near], _STRONG))
        r, g, b = (int(v) for v in np.median(own[strongest], axis=0))
        found.append(Ink((r, g, b), _three(way), float(near.mean())))
    return tuple(sorted(found, key=lambda ink: -ink.share))


def with_guides(inks: Sequence[Ink], guides: Sequence[Colour]) -> tuple[Ink, ...]:
    """Of inks those that are nearest to a guide's colour are guides."""
    named = {
        min(range(len(inks)), key=lambda i: _unlike(inks[i].colour, guide)) for guide in guides
    } if inks else set()  # fmt: skip
    return tuple(replace(ink, guide=i in named) for i, ink in enumerate(inks))


def guided(pixels: Pixels, inks: Sequence[Ink], paper: Colour) -> NDArray[np.bool_]:
    """(h, w) where pixels (h, w, 3) are of an ink that is a guide, be it ever so faint."""
    found = _nearest_is_guide(_spread(pixels), inks, paper) | _nearest_is_guide(
        pixels.astype(np.float32), inks, paper
    )
    strong = np.abs(pixels.astype(np.float32) - np.array(paper, np.float32)).max(axis=2) > _FAINT
    return found | _scraps(strong & ~found, strong & found)


def _scraps(others: NDArray[np.bool_], guides: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """(h, w) what is small and hangs on guides: where two cross, their mixture is like another
    ink."""
    _, parts, stats, _ = cv2.connectedComponentsWithStats(others.astype(np.uint8), connectivity=8)
    small = stats[:, cv2.CC_STAT_AREA] <= _SCRAP_PX
    small[0] = False
    beside = cv2.dilate(guides.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    hangs = np.bincount(parts[beside & others], minlength=len(stats)) > 0
    return np.asarray((small & hangs)[parts])


def _nearest_is_guide(
    pixels: NDArray[np.float32], inks: Sequence[Ink], paper: Colour
) -> NDArray[np.bool_]:
    off = pixels - np.array(paper, np.float32)
    ways = np.array([ink.way for ink in inks], np.float32)
    size = np.maximum(np.linalg.norm(off, axis=2), 1e-6)
    alike = off @ ways.T
    near = alike.max(axis=2) >= np.cos(np.radians(_NEAR)) * size
    return np.asarray(np.array([ink.guide for ink in inks])[alike.argmax(axis=2)] & near)


def _spread(pixels: Pixels) -> NDArray[np.float32]:
    return np.asarray(cv2.GaussianBlur(pixels.astype(np.float32), (0, 0), _SPREAD), np.float32)


def _densest(ways: Vectors) -> Vectors:
    """(3,) the direction that most lie near to."""
    cells, counts = np.unique(np.round(ways * 5).astype(int), axis=0, return_counts=True)
    way = cells[int(np.argmax(counts))].astype(np.float64)
    way /= np.linalg.norm(way)
    for _ in range(_ROUNDS):
        near = ways[ways @ way >= np.cos(np.radians(_APART))]
        if not len(near):
            break
        way = near.mean(axis=0) / np.linalg.norm(near.mean(axis=0))
    return np.asarray(way, np.float64)


def _unlike(one: Colour, other: Colour) -> float:
    return float(np.linalg.norm(np.subtract(one, other)))


def _three(way: Vectors) -> tuple[float, float, float]:
    return float(way[0]), float(way[1]), float(way[2])
