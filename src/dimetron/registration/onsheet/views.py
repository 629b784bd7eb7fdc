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
from dimetron.imaging.shape import Shape, shape_from
from dimetron.imaging.split.level import LevelSheet, levelled
from dimetron.imaging.split.regions import Boxes
from dimetron.imaging.split.views import (
    Arranged,
    FoundView,
    Split,
    arranged,
    corners_of,
    split_of,
)
from dimetron.registration.byink.signature import Signature
from dimetron.registration.onsheet.candidates import candidates
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
    image: Image.Image, projection: Projection | None = None, skew_deg: float | None = None
) -> Split:
    """Propose the views on a sheet. ``projection``: how it is said to be arranged; ``skew_deg``:
    how far it is said to lie counter-clockwise."""
    level = levelled(image, skew_deg)
    sheet = arranged(level, projection)
    if _borne_out(level, sheet, _DOUBTED if projection is None else _DOUBTED_IF_SAID):
        return split_of(level.skew, sheet.projection, sheet.found(level))
    boxes = candidates(level, sheet.read)
    return split_of(level.skew, sheet.projection, _freely(level, sheet, boxes), False)


def _borne_out(level: LevelSheet, sheet: Arranged, doubted: float) -> bool:
    """Whether what the views show agrees with the names that the arrangement gives them."""
    if len(sheet.names) < _FEWEST:
        return False
    if len(sheet.names.keys() - sheet.doubts.keys()) >= _PLENTY:
        return True
    shown = {i: _shape(level, sheet.boxes[i].box) for i in sheet.names}
    signatures = {i: Signature(shape) for i, shape in shown.items() if shape is not None}
    if len(signatures) < _FEWEST:
        return False
    views = [sheet.names[i] for i in signatures]
    lines = not level.medium.kind.areas
    return contradicted(list(signatures.values()), views, lines) <= doubted


def _freely(level: LevelSheet, sheet: Arranged, boxes: list[Boxes]) -> list[FoundView]:
    shapes = [(box, _shape(level, box)) for box in boxes[:_MOST]]
    shown = [(box, Signature(shape)) for box, shape in shapes if shape is not None]
    if len(shown) < 2:
        return [
            FoundView(None, corners_of(level, b), "nothing else tells what it shows") for b in boxes
        ]
    known = {
        i: view
        for i, (box, _) in enumerate(shown)
        if (view := _arranged_name(sheet, box)) is not None
    }
    lines = not level.medium.kind.areas
    named = named_by_shape([signature for _, signature in shown], known, lines)
    sizes = _sizes(named)
    found: list[FoundView] = []
    for (box, _), reading, size in zip(shown, named.readings, sizes, strict=True):
        doubt = "" if named.certain >= SURE else "its shape does not tell for sure what it shows"
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


def _arranged_name(sheet: Arranged, box: Boxes) -> View | None:
    """The name that the arrangement gives to what lies in a box."""
    for i, own in enumerate(sheet.boxes):
        if np.abs(own.box - box).max() < 0.1 * float((box[2:] - box[:2]).max()):
            return sheet.names.get(i)
    return None


def _shape(level: LevelSheet, box: Boxes) -> Shape | None:
    x0, y0, x1, y1 = (round(float(v)) for v in box)
    window = slice(max(0, y0), y1), slice(max(0, x0), x1)
    ink, strokes = level.ink[window] > 0, level.strokes[window] > 0
    return shape_from(ink, (x1 - x0, y1 - y0), 0.0, True, 1.0, strokes)
