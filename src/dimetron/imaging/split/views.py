"""All steps of splitting a sheet."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PIL import Image

from dimetron.geometry.views import Projection, View
from dimetron.imaging.skew import Skew
from dimetron.imaging.split.agree import Agreed, agreed, ink_runs
from dimetron.imaging.split.candidates import Readings, readings
from dimetron.imaging.split.level import LevelSheet, Points, levelled
from dimetron.imaging.split.naming import doubts, named, stands_in
from dimetron.imaging.split.reconcile import reconciled
from dimetron.imaging.split.regions import Boxes
from dimetron.imaging.split.uncut import uncut


@dataclass(frozen=True, slots=True, eq=False)
class FoundView:
    """corners (4, 2): top-left, top-right, bottom-right, bottom-left of the tight box round the
    object's own lines, in pixels of the picture that came in; its own top-left where it lies
    turned. ``doubt``: why it is left to the person to say; empty where the proposal is sure.
    ``view`` is None where no name fits. turns: by how many quarters it is turned counter-clockwise.
    size: how many times as much a pixel of it shows as those of the others."""

    view: View | None
    corners: Points
    doubt: str = ""
    turns: int = 0
    size: float = 1.0

    @property
    def sure(self) -> bool:
        """Whether it can be taken without a look."""
        return self.view is not None and not self.doubt


@dataclass(frozen=True, slots=True, eq=False)
class Split:
    """``skew``: how the sheet lies. ``found``: sure ones first, each kind in reading order.
    arranged: whether they are named by where they stand, else by what they show."""

    skew: Skew
    projection: Projection
    found: tuple[FoundView, ...]
    arranged: bool = True

    @property
    def views(self) -> tuple[FoundView, ...]:
        """Only what is sure."""
        return tuple(v for v in self.found if v.sure)


#: More things than this on a sheet are not views of one object.
MOST_VIEWS = 24


@dataclass(frozen=True, slots=True, eq=False)
class Arranged:
    """A sheet read by its arrangement: names and doubts by the number of the box."""

    boxes: list[Agreed]
    names: dict[int, View]
    doubts: dict[int, str]
    projection: Projection
    read: Readings

    def found(self, level: LevelSheet) -> list[FoundView]:
        """The views, in no order."""
        return [
            FoundView(
                self.names.get(i),
                corners_of(level, box.box),
                self.doubts.get(i, _unnamed(i, self.names)),
            )
            for i, box in enumerate(self.boxes)
        ]


def arranged(
    level: LevelSheet,
    projection: Projection | None = None,
    read: Readings | None = None,
    called: dict[int, View] | None = None,
) -> Arranged:
    """Read a levelled sheet as standards arrange views; ``read``: its readings, if known;
    ``called``: what the boxes show, by number, where it need not be told by where they stand."""
    read = read or readings(level)
    strokes = ink_runs(read.ink)
    boxes = agreed(read, strokes)[:MOST_VIEWS]
    names, projection = named(boxes, projection)
    if called:
        names, projection = called, stands_in(boxes, called) or projection
    boxes = reconciled(boxes, read.spots, names, strokes)
    boxes, cut = uncut(boxes, read)
    return Arranged(boxes, names, {**cut, **doubts(boxes, names)}, projection, read)


def split_views(
    image: Image.Image, projection: Projection | None = None, skew_deg: float | None = None
) -> Split:
    """Propose the views on a sheet that is arranged as standards have it. ``skew_deg`` overrides
    how far it lies counter-clockwise."""
    level = levelled(image, skew_deg)
    sheet = arranged(level, projection)
    return split_of(level.skew, sheet.projection, sheet.found(level))


def split_of(
    skew: Skew, projection: Projection, found: list[FoundView], by_place: bool = True
) -> Split:
    """Views in order: sure ones first, each kind in that of the standard."""
    found = sorted(found, key=lambda v: (not v.sure, list(View).index(v.view) if v.view else 9))
    return Split(skew, projection, tuple(found), by_place)


def _unnamed(number: int, names: dict[int, View]) -> str:
    return "" if number in names else "it stands apart from the arrangement"


def corners_of(level: LevelSheet, box: Boxes) -> Points:
    """(4, 2) of a box of the levelled sheet, from its top-left clockwise, in the picture's own
    pixels."""
    x0, y0, x1, y1 = box
    return level.to_source(np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]]))
