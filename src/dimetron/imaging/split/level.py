"""The sheet at working size, level: its ink as darkness and as a mask."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from dimetron.imaging.ink import Darkness, drawn, faint_level, ink_level, reduced
from dimetron.imaging.medium import Medium, medium_of
from dimetron.imaging.skew import Skew, skew_of
from dimetron.imaging.split.paper import without_paper_lines

Bits = NDArray[np.uint8]
Points = NDArray[np.float64]
#: Longest side at which views are looked for: an A3 sheet has 4.3 pixels a millimetre then.
WORK_PX = 1800
#: A line that is worn is ink down to this share of the level for ink.
_FADED = 0.6


@dataclass(frozen=True, slots=True, eq=False)
class LevelSheet:
    """dark (h, w) 0..1 and ink (h, w) 0 or 255 of the levelled sheet; strokes (h, w) the same with
    areas as their edges. ``back`` (2, 3) takes its pixels to those of the picture that came in."""

    dark: Darkness
    ink: Bits
    strokes: Bits
    skew: Skew
    back: NDArray[np.float64]
    medium: Medium

    def to_source(self, points: Points) -> Points:
        """Points of the level sheet in the picture's own pixels."""
        return np.asarray(points @ self.back[:, :2].T + self.back[:, 2])


def levelled(
    image: Image.Image, skew_deg: float | None = None, medium: Medium | None = None
) -> LevelSheet:
    """Reduce and level a sheet; its skew, and what it is drawn with, are found unless given."""
    medium = medium or medium_of(image)
    small = reduced(image, WORK_PX) if medium.kind.areas else image
    dark = drawn(small, medium, WORK_PX)
    level = ink_level(dark, medium)
    lines = medium.strokes(small, dark > level).astype(np.uint8) * 255
    found = skew_of(dark, level, medium) if skew_deg is None else Skew(skew_deg, True)
    if not found.sure:
        found = Skew(0.0, False)
    h, w = dark.shape
    # Turned about its middle on a sheet of the same size: margins may be lost, views hardly.
    a = math.radians(found.deg)
    turn = np.array([[math.cos(a), -math.sin(a)], [math.sin(a), math.cos(a)]]).T
    centre = np.array([w / 2, h / 2])
    level_to_work = np.column_stack([turn, centre - turn @ centre])
    if found.deg:
        # OpenCV counts from the middle of the first pixel, we from its corner.
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        shift = level_to_work @ np.array([0.5, 0.5, 1.0]) - 0.5
        matrix = np.column_stack([turn, shift])
        dark = np.asarray(cv2.warpAffine(dark, matrix, (w, h), flags=flags), np.float32)
        lines = np.asarray(cv2.warpAffine(lines, matrix, (w, h), flags=flags), np.uint8)
    if not medium.kind.areas:
        dark = without_paper_lines(dark)
        level = ink_level(dark, medium)
    ink = (dark > level).astype(np.uint8) * 255
    lines = (lines > 127).astype(np.uint8) * 255 if medium.kind.areas else ink
    scale = image.size[0] / w, image.size[1] / h
    back = np.diag(scale) @ level_to_work
    return LevelSheet(dark, ink, lines, found, back, medium)


def as_worn(sheet: LevelSheet) -> LevelSheet:
    """The same sheet of lines, which go on where they are too faint to be ink by themselves."""
    level = ink_level(sheet.dark, sheet.medium)
    faint = max(faint_level(sheet.dark, sheet.medium), _FADED * level)
    count, parts = cv2.connectedComponents((sheet.dark > faint).astype(np.uint8), connectivity=8)
    inked = np.zeros(count, bool)
    inked[np.unique(parts[sheet.dark > level])] = True
    inked[0] = False
    ink = inked[parts].astype(np.uint8) * 255
    return replace(sheet, ink=ink, strokes=ink)
