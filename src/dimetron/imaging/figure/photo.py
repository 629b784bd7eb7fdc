"""An object cut from a busy ground: the bench, the wall and the shadow behind it.

By GrabCut (Rother, Kolmogorov, Blake, "GrabCut: interactive foreground extraction using iterated
graph cuts", 2004): what the picture's rim looks like is ground, what a hand said holds. First on a
small picture, then along the edge on a larger one, so that thin parts and holes survive.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from dimetron.imaging.figure.ground import Pixels
from dimetron.imaging.figure.said import Touch
from dimetron.imaging.figure.touched import touched
from dimetron.imaging.flat import Matrix, between_centres

Floats = NDArray[np.float32]
Labels = NDArray[np.uint8]

#: Cut at this size first, and along the edge at that one, so far to both sides.
_SMALL_PX, _FINE_PX, _BAND = 280, 1100, 7
#: How wide the rim is that shows the ground, as a share of the shorter side.
_RIM = 0.03
_ROUNDS, _FINE_ROUNDS = 3, 1
#: Edges are softened by so many pixels.
_SOFT = 0.7
#: Colours are counted in cells of so many levels; what is not so many times as common inside as on
#: the rim is ground at first. Where that leaves less than this share of the picture, be it fewer.
_CELL, _COMMON, _LEAST = 16, (3.0, 1.5, 0.7), 0.02
#: A colour is that of a stroke if it is this share of what that went over.
_LIKE_IT = 0.02
#: Colours on the rim and inside that have so much in common are the same.
_ALIKE = 0.92
#: What stands apart and is smaller than this share of the largest is none of the object, unless it
#: is no farther from that than this share of the longer side; pinholes smaller than this share of
#: the object are none.
_PART, _BESIDE, _HOLE = 0.15, 0.02, 0.002


@dataclass(frozen=True, slots=True, eq=False)
class Cut:
    """mask (h, w) 0..1: how far the object covers each part of the picture; ``whole`` (3, 3) takes
    the pixels of what is asked for to shares of it, None where it is the picture itself."""

    mask: Floats
    whole: Matrix | None = None

    def cover(self, size: tuple[int, int], whole: Matrix | None = None) -> Floats:
        """(h, w) 0..1 of a picture of ``size`` (width, height); ``whole`` takes its pixels to
        shares of the picture that this is of."""
        w, h = size
        if whole is None:
            whole = np.diag([1 / w, 1 / h, 1.0])
        if self.whole is not None:
            whole = self.whole @ whole
        rows, columns = self.mask.shape
        matrix = between_centres(np.diag([columns, rows, 1.0]) @ whole)
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        return np.asarray(cv2.warpPerspective(self.mask, matrix, (w, h), flags=flags), np.float32)

    def seen(self, whole: Matrix, size: tuple[int, int]) -> Cut:
        """The same for a part of the picture that is ``size`` (width, height) large."""
        shares = whole @ np.diag([size[0], size[1], 1.0])
        return replace(self, whole=shares if self.whole is None else self.whole @ shares)


def cut_from(pixels: Pixels, touches: Sequence[Touch] = ()) -> Cut:
    """Cut the object from a picture (h, w, 3); ``touches`` say what is part of it."""
    small = _reduced(pixels, _SMALL_PX)
    for common in _COMMON:
        labels = _first_guess(small, common, touches)
        _say(labels, touches)
        labels = _settled(_cut(small, labels, _ROUNDS))
        if np.isin(labels, (cv2.GC_FGD, cv2.GC_PR_FGD)).mean() >= _LEAST:
            break
    fine = _reduced(pixels, _FINE_PX)
    if fine.shape != small.shape:
        labels = _along_edge(labels, (fine.shape[1], fine.shape[0]))
        _say(labels, touches)
        labels = _cut(fine, labels, _FINE_ROUNDS)
    soft = cv2.GaussianBlur(_of_one_piece(labels).astype(np.float32), (0, 0), _SOFT)
    said = touched(touches, (soft.shape[1], soft.shape[0]))
    return Cut(np.where(said == 0, soft, (said > 0).astype(np.float32)).astype(np.float32))


def _reduced(pixels: Pixels, longest: int) -> Pixels:
    h, w = pixels.shape[:2]
    scale = min(1.0, longest / max(h, w))
    size = max(8, round(w * scale)), max(8, round(h * scale))
    if size == (w, h):
        return pixels
    return np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.uint8)


def stands_out(pixels: Pixels) -> bool:
    """Whether what is inside a picture (h, w, 3) has other colours than its rim at all."""
    on_rim, inside = _rim_and_inside(_reduced(pixels, _SMALL_PX))[:2]
    return float(np.minimum(on_rim, inside).sum()) < _ALIKE


def _rim_and_inside(
    pixels: Pixels,
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.int32], NDArray[np.bool_]]:
    """How common each cell of colour (n, n, n) is on the rim and inside, the cell of each pixel
    (h, w, 3), and (h, w) what is rim."""
    h, w = pixels.shape[:2]
    wide = max(2, round(_RIM * min(h, w)))
    rim = np.ones((h, w), bool)
    rim[wide:-wide, wide:-wide] = False
    lab = cv2.cvtColor(cv2.GaussianBlur(pixels, (0, 0), 1.5), cv2.COLOR_RGB2LAB)
    cells = (lab // _CELL).astype(np.int32)
    return _counted(cells[rim]), _counted(cells[~rim]), cells, rim


def _first_guess(pixels: Pixels, common: float, touches: Sequence[Touch]) -> Labels:
    """(h, w) labels: the rim is ground, and so is probably what has its colours: what is not so
    many times as ``common`` inside."""
    on_rim, inside, cells, rim = _rim_and_inside(pixels)
    said = touched(touches, (pixels.shape[1], pixels.shape[0]))
    object_ = inside > common * on_rim
    # What looks like what a stroke went over is probably what that said.
    added, taken = (_counted(cells[said == way]) > _LIKE_IT for way in (1, -1))
    object_ = (object_ | (added & ~taken)) & ~(taken & ~added)
    likely = object_[cells[..., 0], cells[..., 1], cells[..., 2]]
    labels = np.where(likely, cv2.GC_PR_FGD, cv2.GC_PR_BGD).astype(np.uint8)
    labels[rim] = cv2.GC_BGD
    return np.asarray(labels, np.uint8)


def _counted(cells: NDArray[np.int32]) -> NDArray[np.float64]:
    """(n, n, n) how common each cell of colour and those beside it are."""
    n = 256 // _CELL
    counts, _ = np.histogramdd(cells, bins=(n, n, n), range=((0, n),) * 3)
    for axis in range(3):
        counts = counts + 0.5 * (np.roll(counts, 1, axis) + np.roll(counts, -1, axis))
    return np.asarray(counts / max(1.0, float(counts.sum())), np.float64)


def _say(labels: Labels, touches: Sequence[Touch]) -> None:
    said = touched(touches, (labels.shape[1], labels.shape[0]))
    labels[said > 0], labels[said < 0] = cv2.GC_FGD, cv2.GC_BGD


def _cut(pixels: Pixels, labels: Labels, rounds: int) -> Labels:
    object_, ground = (
        np.isin(labels, pair) for pair in ((cv2.GC_FGD, cv2.GC_PR_FGD), (cv2.GC_BGD, cv2.GC_PR_BGD))
    )
    # Without some of both there is nothing to tell apart.
    if object_.sum() < 10 or ground.sum() < 10:
        return labels
    cv2.setRNGSeed(1)
    models = np.zeros((1, 65)), np.zeros((1, 65))
    labels, _, _ = cv2.grabCut(
        np.ascontiguousarray(pixels[..., ::-1]), labels, None, *models, rounds,
        cv2.GC_INIT_WITH_MASK,
    )  # fmt: skip
    return np.asarray(labels, np.uint8)


def _along_edge(labels: Labels, size: tuple[int, int]) -> Labels:
    """Labels at a larger size (width, height): open along the edge, settled elsewhere."""
    mask = np.isin(labels, (cv2.GC_FGD, cv2.GC_PR_FGD)).astype(np.uint8)
    mask = (cv2.resize(mask * 255, size, interpolation=cv2.INTER_LINEAR) > 127).astype(np.uint8)
    around = np.ones((2 * _BAND + 1,) * 2, np.uint8)
    sure, maybe = cv2.erode(mask, around), cv2.dilate(mask, around)
    fine = np.where(mask > 0, cv2.GC_PR_FGD, cv2.GC_PR_BGD)
    fine = np.where(sure > 0, cv2.GC_FGD, np.where(maybe > 0, fine, cv2.GC_BGD))
    return np.asarray(fine, np.uint8)


def _settled(labels: Labels) -> Labels:
    """Labels where what is cut out is of one piece."""
    mask = _of_one_piece(labels)
    probably = np.where(mask, cv2.GC_PR_FGD, cv2.GC_PR_BGD).astype(np.uint8)
    return np.where((labels == cv2.GC_FGD) | (labels == cv2.GC_BGD), labels, probably)


def _of_one_piece(labels: Labels) -> NDArray[np.bool_]:
    """(h, w) the object without what stands apart from it and is small, pinholes closed."""
    mask = np.isin(labels, (cv2.GC_FGD, cv2.GC_PR_FGD))
    parts, area = _parts(mask)
    if not area.any():
        return mask
    apart = area < _PART * area.max()
    # What a hand went over stays, however small; so does what all but touches the largest.
    reach = max(1, round(_BESIDE * max(mask.shape)))
    around = np.ones((2 * reach + 1,) * 2, np.uint8)
    close = cv2.dilate((parts == int(np.argmax(area))).astype(np.uint8), around) > 0
    apart[np.unique(parts[close | (labels == cv2.GC_FGD)])] = False
    mask &= ~apart[parts]
    holes, area = _parts(~mask)
    small = area < _HOLE * float(mask.sum())
    small[0] = False
    return np.asarray(mask | small[holes], bool)


def _parts(mask: NDArray[np.bool_]) -> tuple[NDArray[np.int32], NDArray[np.float64]]:
    """(h, w) numbers of what hangs together, 0 for the rest, and how large each is, 0 for that."""
    _, parts, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    area = stats[:, cv2.CC_STAT_AREA].astype(np.float64)
    area[0] = 0
    return np.asarray(parts, np.int32), area
