"""Where lines of print stand on a levelled sheet, and what they say."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from PIL import Image

from dimetron.imaging.split.furniture import LETTER, parts_of
from dimetron.imaging.split.level import Bits, LevelSheet
from dimetron.imaging.split.regions import Boxes
from dimetron.imaging.wording.model import Floats, recogniser

#: Letters are no higher than this, and what hangs together of a word no longer, in LETTERs.
_HIGH, _LONG = 1.8, 10.0
#: Less than this many working pixels high nothing can be read.
_LOW = 4
#: Letters no farther apart than this share of the heights of both are of one line.
_APART = 0.6
#: A line is longer than it is high.
_LONGER = 1.25
#: Room round a line for the model, as a share of its height, and the height that it takes.
_ROOM, _HEIGHT_PX = 0.2, 48
#: Longer lines than this, in heights, are notes.
_LONGEST = 30
#: What is less sure than this was not read.
_SURE = 0.6


@dataclass(frozen=True, slots=True, eq=False)
class Line:
    """box (4,) of a line of print, in pixels of the levelled sheet, and what it says."""

    box: Boxes
    text: str


def lines_of_print(ink: Bits, without: list[Boxes]) -> Boxes:
    """(n, 4) boxes of what may be lines of level print outside the boxes ``without``."""
    letter = LETTER * max(ink.shape)
    boxes = parts_of(ink).boxes[1:]
    x, y, w, h, _ = boxes.T
    letters = (h <= _HIGH * letter) & (h >= _LOW) & (w <= _LONG * letter)
    for x0, y0, x1, y1 in without:
        inside = (x + w / 2 > x0) & (x + w / 2 < x1) & (y + h / 2 > y0) & (y + h / 2 < y1)
        letters &= ~inside
    rows = np.zeros(ink.shape, np.uint8)
    for left, top, wide, high, _ in boxes[letters].tolist():
        grown = round(_APART * high)
        rows[top : top + high, max(0, left - grown) : left + wide + grown] = 255
    found = parts_of(rows).boxes[1:, :4].astype(np.float64)
    found[:, 2:] += found[:, :2]
    size = found[:, 2:] - found[:, :2]
    longer = (size[:, 0] > _LONGER * size[:, 1]) & (size[:, 0] < _LONGEST * size[:, 1])
    return np.asarray(found[longer & (size[:, 1] <= _HIGH * letter)])


class Writing:
    """What is written on a sheet; every line is read at most once."""

    def __init__(self, image: Image.Image, level: LevelSheet) -> None:
        self._image, self._level = image, level
        self._known: dict[tuple[int, ...], str] = {}

    @property
    def ink(self) -> Bits:
        """(h, w) the levelled sheet's ink."""
        return self._level.ink

    def read(self, boxes: Boxes) -> list[Line]:
        """What stands in boxes (n, 4) of the levelled sheet, read from the picture itself; without
        those in which nothing could be read."""
        reader = recogniser() if len(boxes) else None
        if reader is None:
            return []
        found = []
        for box in boxes:
            key = tuple(np.rint(box).astype(int).tolist())
            if key not in self._known:
                text, sure = reader.read(_straight(self._image, self._level, box))
                self._known[key] = text if sure >= _SURE else ""
            if self._known[key]:
                found.append(Line(box, self._known[key]))
        return found


def _straight(image: Image.Image, level: LevelSheet, box: Boxes) -> Floats:
    """(1, 3, 48, w) what a box shows, level, as the model takes it."""
    x0, y0, x1, y1 = box
    room = _ROOM * (y1 - y0)
    x0, y0, x1, y1 = x0 - room, y0 - room, x1 + room, y1 + room
    corners = level.to_source(np.array([[x0, y0], [x1, y0], [x0, y1], [x1, y1]]))
    left, top = np.floor(corners.min(axis=0)).astype(int).tolist()
    right, bottom = np.ceil(corners.max(axis=0)).astype(int).tolist()
    own = np.asarray(image.crop((left, top, right, bottom)).convert("RGB"))[:, :, ::-1]
    wide = max(_HEIGHT_PX, round(_HEIGHT_PX * (x1 - x0) / (y1 - y0)))
    to = np.array([[0, 0], [wide, 0], [0, _HEIGHT_PX]], np.float32)
    of = (corners[:3] - [left, top]).astype(np.float32)
    flat = cv2.warpAffine(
        np.ascontiguousarray(own), cv2.getAffineTransform(of, to), (wide, _HEIGHT_PX),
        flags=cv2.INTER_AREA, borderMode=cv2.BORDER_REPLICATE,
    )  # fmt: skip
    return np.asarray(flat.astype(np.float32).transpose(2, 0, 1)[None] / 127.5 - 1)
