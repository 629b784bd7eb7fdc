"""The views on a sheet in any arrangement.

Standards put views where their names say; most pictures do not. The arrangement is read first and
believed as far as the shapes bear it out; else things are boxed wherever they stand and named by
what they show.
"""

from __future__ import annotations

import math

import numpy as np
from PIL import Image

from dimetron.geometry.views import Projection, View
from dimetron.imaging.medium import Medium
from dimetron.imaging.shape import Shape, shape_from
from dimetron.imaging.split.agree import Agreed, lanes
from dimetron.imaging.split.bodies import bodies
from dimetron.imaging.split.level import LevelSheet, as_worn, levelled
from dimetron.imaging.split.naming import named
from dimetron.imaging.split.regions import Boxes
from dimetron.imaging.split.views import (
    MOST_VIEWS,
    Arranged,
    FoundView,
    Split,
    arranged,
    corners_of,
    split_of,
)
from dimetron.registration.byink.signature import Signature
from dimetron.registration.onsheet.candidates import (
    are_details,
    are_parts,
    candidates,
    things,
)
from dimetron.registration.onsheet.naming import Named, contradicted, named_by_shape

#: From here on names are called sure.
SURE = 0.8
#: Names by the arrangement hold while others are by no more likelier than this, as a logarithm; and
#: where it was said how the sheet is arranged. Fewer views than this bear out nothing.
_DOUBTED, _DOUBTED_IF_SAID, _FEWEST = 4.5, 12.0, 3
#: So many views in line with one another, and none of them doubtful, are no chance.
_PLENTY = 4
#: Scales that differ by less, as a logarithm, are the same.
_ONE_SCALE = 0.05
#: No more things than this are named by their shapes.
_MOST = 8


def sheet_views(
    image: Image.Image,
    projection: Projection | None = None,
    skew_deg: float | None = None,
    medium: Medium | None = None,
) -> Split:
    """Propose the views on a sheet. ``projection``: how it is said to be arranged; ``skew_deg``:
    how far it is said to lie counter-clockwise; ``medium``: what it is drawn with, if known."""
    level = levelled(image, skew_deg, medium)
    split = _views(level, projection)
    if level.medium.kind.areas or (split.found and all(view.sure for view in split.found)):
        return split
    # What is not sure may be broken by wear.
    again = _views(as_worn(level), projection)
    return again if _sure(again) > _sure(split) else split


def _sure(split: Split) -> int:
    return sum(view.sure for view in split.found)


def _views(level: LevelSheet, projection: Projection | None) -> Split:
    if level.medium.kind.areas:
        return _in_areas(level, projection)
    sheet = arranged(level, projection)
    whole = things(level, sheet.read)
    if _borne_out(level, sheet, whole, _DOUBTED if projection is None else _DOUBTED_IF_SAID):
        return split_of(level.skew, sheet.projection, sheet.found(level))
    boxes, details = _apart(candidates(sheet.read, whole))
    places = [_place(sheet, box) for box in boxes]
    found = _freely(level, boxes, [p if p is None else sheet.names.get(p) for p in places])
    return split_of(level.skew, sheet.projection, [*found, *_left(level, details)], False)


def _apart(boxes: list[Boxes]) -> tuple[list[Boxes], list[Boxes]]:
    """What may be views, and what is left to the person: details, and more than can be named."""
    small = are_details(boxes) if boxes else []
    views = [box for box, is_small in zip(boxes, small, strict=True) if not is_small]
    rest = [box for box, is_small in zip(boxes, small, strict=True) if is_small]
    return views[:_MOST], [*views[_MOST:], *rest][: MOST_VIEWS - _MOST]


def _left(level: LevelSheet, boxes: list[Boxes]) -> list[FoundView]:
    words = "it is small beside the others: a detail, or no view at all"
    return [FoundView(None, corners_of(level, box), words) for box in boxes]


def _in_areas(level: LevelSheet, projection: Projection | None) -> Split:
    """What stands on a sheet in flat areas or shade: nothing is measured there, so each thing is
    what hangs together."""
    boxes, details = _apart(list(bodies(level.ink)))
    if not boxes:
        return split_of(level.skew, projection or Projection.THIRD_ANGLE, [], False)
    array = np.array(boxes)
    rows, columns = lanes(array[:, [1, 3]]), lanes(array[:, [0, 2]])
    stand = [
        Agreed(box, int(row), int(column), 1.0, True)
        for box, row, column in zip(boxes, rows, columns, strict=True)
    ]
    names, projection = named(stand, projection)
    found = _freely(level, boxes, [names.get(i) for i in range(len(boxes))])
    return split_of(level.skew, projection, [*found, *_left(level, details)], False)


def _borne_out(level: LevelSheet, sheet: Arranged, whole: list[Boxes], doubted: float) -> bool:
    """Whether what the views show agrees with the names that the arrangement gives them."""
    if len(sheet.names) < _FEWEST:
        return False
    if are_parts(whole, [box.box for box in sheet.boxes]):
        return False
    if len(sheet.names.keys() - sheet.doubts.keys()) >= _PLENTY:
        return True
    shown = {i: _shape(level, sheet.boxes[i].box) for i in sheet.names}
    signatures = {i: Signature(shape) for i, shape in shown.items() if shape is not None}
    if len(signatures) < _FEWEST:
        return False
    views = [sheet.names[i] for i in signatures]
    return contradicted(list(signatures.values()), views) <= doubted


def _freely(level: LevelSheet, boxes: list[Boxes], places: list[View | None]) -> list[FoundView]:
    """Things named by what they show; ``places``: what the arrangement calls each of them."""
    shapes = [(box, place, _shape(level, box)) for box, place in zip(boxes, places, strict=True)]
    shown = [(box, place, Signature(s)) for box, place, s in shapes if s is not None]
    if len(shown) < 2:
        return [
            FoundView(None, corners_of(level, b), "nothing else tells what it shows") for b in boxes
        ]
    known = {i: place for i, (_, place, _) in enumerate(shown) if place is not None}
    lines = not level.medium.kind.areas
    told = named_by_shape([signature for _, _, signature in shown], known, lines)
    sizes = _sizes(told)
    found: list[FoundView] = []
    for (box, _, _), reading, size in zip(shown, told.readings, sizes, strict=True):
        doubt = "" if told.certain >= SURE else "its shape does not tell for sure what it shows"
        if any(reading.view is other.view for other in found):
            doubt = "another one shows the same view"
        corners = np.roll(corners_of(level, box), reading.quarters, axis=0)
        found.append(FoundView(reading.view, corners, doubt, reading.quarters, size))
    return found


def _sizes(named: Named) -> list[float]:
    """How many times as much a pixel of each shows as those of most; the same where they are but
    drawn a little unlike."""
    off = np.array(named.scales) - np.median(named.scales)
    if named.certain < SURE:
        return [1.0] * len(off)
    return [math.exp(o) if abs(o) > _ONE_SCALE else 1.0 for o in off]


def _place(sheet: Arranged, box: Boxes) -> int | None:
    """The number of what the arrangement has in a box."""
    for i, own in enumerate(sheet.boxes):
        if np.abs(own.box - box).max() < 0.1 * float((box[2:] - box[:2]).max()):
            return i
    return None


def _shape(level: LevelSheet, box: Boxes) -> Shape | None:
    x0, y0, x1, y1 = (round(float(v)) for v in box)
    window = slice(max(0, y0), y1), slice(max(0, x0), x1)
    ink, strokes = level.ink[window] > 0, level.strokes[window] > 0
    return shape_from(ink, (x1 - x0, y1 - y0), 0.0, True, 1.0, strokes)
