"""From a sheet as it came to the flat, level picture of it, and to one drawing cut from that.

Everything is a value over the untouched picture: a lens's bulge, four corners or a circle that
make a photo flat, quarter turns, a fine turn, a mirror, a crop. ``Frame`` holds what comes of it:
a map between the pixels of the picture and those of the prepared one, and their number.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dimetron.imaging.flat import (
    Circle,
    FrameError,
    Matrix,
    Points,
    Rectangle,
    bulged,
    inverse,
    projected,
    unbulged,
)
from dimetron.imaging.rectify import flattened

#: A prepared picture's longest side; a flattened photo's margins are cut rather than exceed it.
MAX_SIDE = 30_000
#: A crop beyond this lies on no sheet.
_FARTHEST_PX = 1e7
#: How much is kept round the corners of a flattened photo, as a share of their rectangle.
_MARGIN = 0.6


@dataclass(frozen=True, slots=True)
class Straightening:
    """Quarter turns counter-clockwise, then a fine turn counter-clockwise, then left and right
    swapped if mirrored."""

    turns: int = 0
    angle_deg: float = 0.0
    mirrored: bool = False

    def __post_init__(self) -> None:
        if not math.isfinite(self.angle_deg) or abs(self.angle_deg) > 45.0:
            raise FrameError("A fine turn is at most 45°; use quarter turns for more.")

    @property
    def plain(self) -> bool:
        """Whether it changes nothing."""
        return self == LEVEL


LEVEL = Straightening()


@dataclass(frozen=True, slots=True)
class Flattening:
    """What is done to a whole sheet. bulge: the lens's one parameter, see ``unbulged``; scale: the
    prepared picture's pixels for each of the sheet's."""

    bulge: float = 0.0
    known: Rectangle | Circle | None = None
    straightening: Straightening = LEVEL
    scale: float = 1.0


UNTOUCHED = Flattening()


@dataclass(frozen=True, slots=True)
class Crop:
    """A rectangle of a flattened sheet, in its pixels."""

    left: float
    top: float
    width: float
    height: float

    def __post_init__(self) -> None:
        numbers = (self.left, self.top, self.width, self.height)
        if not all(math.isfinite(n) for n in numbers) or min(self.width, self.height) < 1:
            raise FrameError("A crop must be at least one pixel wide and high.")
        if max(abs(n) for n in numbers) > _FARTHEST_PX:
            raise FrameError("A crop must lie on its sheet.")

    @property
    def right(self) -> float:
        """Its right edge."""
        return self.left + self.width

    @property
    def bottom(self) -> float:
        """Its lower edge."""
        return self.top + self.height

    @property
    def corners(self) -> Points:
        """(4, 2) top-left, top-right, bottom-right, bottom-left."""
        return np.array(
            [
                [self.left, self.top],
                [self.right, self.top],
                [self.right, self.bottom],
                [self.left, self.bottom],
            ]
        )


@dataclass(frozen=True, eq=False)
class Frame:
    """matrix (3, 3) takes unbulged picture pixels to the prepared ones; mm_per_px is their size if
    the preparation tells it (a measured rectangle or circle)."""

    source_px: tuple[int, int]
    size_px: tuple[int, int]
    matrix: Matrix
    bulge: float = 0.0
    mm_per_px: float | None = None

    def to_frame(self, points: ArrayLike) -> Points:
        """Picture pixels (..., 2) to prepared pixels (..., 2)."""
        return projected(self.matrix, unbulged(points, self.source_px, self.bulge))

    def to_source(self, points: ArrayLike) -> Points:
        """Prepared pixels (..., 2) to picture pixels (..., 2)."""
        return bulged(projected(inverse(self.matrix), points), self.source_px, self.bulge)

    @property
    def untouched(self) -> bool:
        """Whether the prepared picture is the file's, pixel for pixel."""
        return self.bulge == 0 and self.size_px == self.source_px and self.whole_pixels

    @property
    def whole_pixels(self) -> bool:
        """Whether every prepared pixel is one of the picture's, only moved."""
        m = self.matrix
        moved = np.allclose(m[:2, :2], np.eye(2), atol=1e-12) and np.allclose(m[2], [0, 0, 1])
        return self.bulge == 0 and bool(moved and np.allclose(m[:2, 2], np.rint(m[:2, 2])))


def sheet_frame(size_px: tuple[int, int], flat: Flattening) -> Frame:
    """The frame of a whole sheet of ``size_px``. Raises FrameError."""
    if not math.isfinite(flat.scale) or not 0.01 <= flat.scale <= 16:
        raise FrameError("A sheet can be resampled to between a hundredth and sixteen times.")
    if not math.isfinite(flat.bulge) or abs(flat.bulge) > 0.5:
        raise FrameError("The lens correction goes from −0.5 to 0.5.")
    matrix, mm_per_px, outline = np.eye(3), None, _rim(size_px)
    outline = unbulged(outline, size_px, flat.bulge)
    if flat.known is not None:
        matrix, mm_per_px = flattened(flat.known, size_px, flat.bulge)
        outline = _kept(matrix, outline, flat.known, size_px, flat.bulge)
    matrix = scaled(flat.scale) @ matrix
    mm_per_px = mm_per_px / flat.scale if mm_per_px is not None else None
    turn = straightened(flat.straightening)
    corners = outline * flat.scale
    return _fitted(size_px, turn @ matrix, projected(turn, corners), flat.bulge, mm_per_px)


def _rim(size_px: tuple[int, int]) -> Points:
    """Points along the picture's edge; a bulge bends it."""
    w, h = size_px
    t = np.linspace(0, 1, 9)[:-1, None]
    c = np.array([[0, 0], [w, 0], [w, h], [0, h]], dtype=np.float64)
    return np.concatenate([c[i] * (1 - t) + c[(i + 1) % 4] * t for i in range(4)])


def _kept(
    matrix: Matrix,
    outline: Points,
    known: Rectangle | Circle,
    size_px: tuple[int, int],
    bulge: float,
) -> Points:
    """The part of a flattened photo that is kept: round what is known, within the photo."""
    marks = np.array(known.corners if isinstance(known, Rectangle) else known.rim)
    inner = projected(matrix, unbulged(marks, size_px, bulge))
    low, high = inner.min(axis=0), inner.max(axis=0)
    room = (high - low) * _MARGIN
    depth = outline @ matrix[2, :2] + matrix[2, 2]
    # Edges beyond the horizon do not limit anything.
    flat = projected(matrix, outline[depth > 1e-6])
    low = np.maximum(low - room, np.minimum(flat.min(axis=0), low))
    high = np.minimum(high + room, np.maximum(flat.max(axis=0), high))
    return np.array([low, [high[0], low[1]], high, [low[0], high[1]]])


def scaled(factor: float) -> Matrix:
    """(3, 3) that many times as large about the origin."""
    return np.diag([factor, factor, 1.0])


def straightened(how: Straightening) -> Matrix:
    """(3, 3) turn and mirror about the origin, y down."""
    a = math.radians(90.0 * (how.turns % 4) + how.angle_deg)
    c, s = math.cos(a), math.sin(a)
    if how.angle_deg == 0:
        c, s = float(round(c)), float(round(s))
    turn = np.array([[c, s, 0.0], [-s, c, 0.0], [0.0, 0.0, 1.0]])
    return np.diag([-1.0, 1.0, 1.0]) @ turn if how.mirrored else turn


def _fitted(
    source_px: tuple[int, int], matrix: Matrix, corners: Points, bulge: float, mm: float | None
) -> Frame:
    """Shift so that the corners' box begins at the origin; whole pixels where it was whole."""
    low, high = corners.min(axis=0), corners.max(axis=0)
    size = np.maximum(np.ceil(high - low - 1e-6), 1).astype(int)
    if size.max() > MAX_SIDE:
        raise FrameError("The prepared picture would be too large; resample it to less.")
    # The rest of the last pixel is shared by both sides.
    shift = -low + (size - (high - low)) / 2
    move = np.array([[1, 0, shift[0]], [0, 1, shift[1]], [0, 0, 1.0]])
    return Frame(source_px, (int(size[0]), int(size[1])), move @ matrix, bulge, mm)


def crop_of(frame: Frame, corners: ArrayLike) -> Crop:
    """The crop of a sheet's frame round points (n, 2) of the picture, within the frame."""
    flat = frame.to_frame(corners)
    low = np.clip(np.floor(flat.min(axis=0) + 0.01), 0, None)
    high = np.minimum(np.ceil(flat.max(axis=0) - 0.01), frame.size_px)
    w, h = np.maximum(high - low, 1)
    return Crop(float(low[0]), float(low[1]), float(w), float(h))


def drawing_frame(sheet: Frame, crop: Crop | None, how: Straightening) -> Frame:
    """The frame of a drawing cut from a sheet's frame: its crop, then its own turn and mirror.
    The turned drawing keeps all of its crop."""
    w, h = sheet.size_px
    cut = crop or Crop(0, 0, w, h)
    turn = straightened(how)
    corners = projected(turn, cut.corners)
    return _fitted(sheet.source_px, turn @ sheet.matrix, corners, sheet.bulge, sheet.mm_per_px)
