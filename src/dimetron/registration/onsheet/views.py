"""The views on a sheet in any arrangement.

Standards put views where their names say; most pictures do not. The arrangement is read first and
believed as far as the shapes, and what is written at them, bear it out; else things are boxed
wherever they stand and named by both.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from PIL import Image

from dimetron.geometry.views import Projection, View
from dimetron.imaging.medium import Medium
from dimetron.imaging.shape import Shape, shape_from
from dimetron.imaging.split.agree import Agreed, lanes
from dimetron.imaging.split.bodies import bodies
from dimetron.imaging.split.furniture import has_frame
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
from dimetron.imaging.wording.lines import Writing
from dimetron.registration.byink.signature import Signature
from dimetron.registration.onsheet.candidates import (
    are_details,
    are_parts,
    candidates,
    things,
)
from dimetron.registration.onsheet.captions import (
    Caption,
    Views,
    captions,
    projection_written,
    without_caption,
)
from dimetron.registration.onsheet.naming import Named, contradicted, named_by_shape

#: From here on names are called sure.
SURE = 0.8
#: Names by the arrangement hold while others are by no more likelier than this, as a logarithm; and
#: where it was said how the sheet is arranged. Fewer views than this bear out nothing.
_DOUBTED, _DOUBTED_IF_SAID, _FEWEST = 4.5, 12.0, 3
#: So many views in line with one another, and none of them doubtful, are no chance.
_PLENTY = 4
#: What is written at this many, and all of them, tells that they are whole views.
_WRITTEN = 2
#: A single caption that says otherwise may be wrong itself; so many more than agree are not.
_BELIED = -2
#: By how much likelier, as a logarithm, other names may be for each view that is called so.
_BACKED = 0.5
#: Scales that differ by less, as a logarithm, are the same.
_ONE_SCALE = 0.05
#: Why a view is not sure whose caption is of another one.
_CALLED = "what is written at it is the name of another view"
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
    writing = Writing(image, level)
    split = _views(writing, level, projection)
    if level.medium.kind.areas:
        return split
    sure = bool(split.found) and all(view.sure for view in split.found)
    if sure and (split.arranged or not has_frame(level.ink)):
        return split
    # What is not sure may be broken by wear; so may what a sheet in a frame does not arrange.
    again = _views(writing, as_worn(level), projection)
    return again if _worth(again) > _worth(split) else split


def _worth(split: Split) -> tuple[int, bool]:
    return sum(view.sure for view in split.found), split.arranged


def _views(writing: Writing, level: LevelSheet, projection: Projection | None) -> Split:
    if level.medium.kind.areas:
        return _in_areas(writing, level, projection)
    projection, sheet, called = _as_written(writing, level, projection)
    whole = things(level, sheet.read)
    doubted = _DOUBTED if projection is None else _DOUBTED_IF_SAID
    if called > _BELIED and _borne_out(level, sheet, whole, doubted, called):
        return split_of(level.skew, sheet.projection, sheet.found(level))
    boxes, details = _apart(candidates(sheet.read, whole))
    places = [_place(sheet, box) for box in boxes]
    names = [p if p is None else sheet.names.get(p) for p in places]
    found = _freely(writing, level, boxes, names)
    return split_of(level.skew, sheet.projection, [*found, *_left(level, details)], False)


def _as_written(
    writing: Writing, level: LevelSheet, projection: Projection | None
) -> tuple[Projection | None, Arranged, int]:
    """The projection that is said or written; a sheet by its arrangement, of which what is written
    at the views tells the projection where nothing else does; and of how many more views what is
    written agrees with it than does not."""
    sheet = arranged(level, projection)
    if projection is not None or not sheet.names:
        return projection, sheet, 0
    told = captions(writing, [box.box for box in sheet.boxes])
    if not told:
        said = projection_written(writing)
        return said, sheet if said is None else arranged(level, said, sheet.read), 0
    odd = _contrary(sheet, told)
    if odd:
        other = next(p for p in Projection if p is not sheet.projection)
        for one in (arranged(level, other, sheet.read), _called(level, sheet, told)):
            if len(_contrary(one, told)) < len(odd):
                sheet, odd = one, _contrary(one, told)
    doubts = {**sheet.doubts, **dict.fromkeys(odd, _CALLED)}
    agree = sum(i in told for i in sheet.names) - len(odd)
    return None, replace(sheet, doubts=doubts), agree - len(odd)


def _called(level: LevelSheet, sheet: Arranged, told: dict[int, Caption]) -> Arranged:
    """A sheet whose views all are what is written at them, wherever they stand; as it was where
    that is not said of each, or of two the same."""
    names = {i: next(iter(c.views)) for i, c in told.items() if len(c.views) == 1}
    if len(set(names.values())) < len(names) or sheet.names.keys() - names.keys():
        return sheet
    return arranged(level, sheet.projection, sheet.read, names)


def _contrary(sheet: Arranged, told: dict[int, Caption]) -> list[int]:
    """Numbers of the views that are called something else than what is written at them."""
    return [i for i, view in sheet.names.items() if i in told and view not in told[i].views]


def _apart(boxes: list[Boxes]) -> tuple[list[Boxes], list[Boxes]]:
    """What may be views, and what is left to the person: details, and more than can be named."""
    small = are_details(boxes) if boxes else []
    views = [box for box, is_small in zip(boxes, small, strict=True) if not is_small]
    rest = [box for box, is_small in zip(boxes, small, strict=True) if is_small]
    return views[:_MOST], [*views[_MOST:], *rest][: MOST_VIEWS - _MOST]


def _left(level: LevelSheet, boxes: list[Boxes]) -> list[FoundView]:
    words = "it is small beside the others: a detail, or no view at all"
    return [FoundView(None, corners_of(level, box), words) for box in boxes]


def _in_areas(writing: Writing, level: LevelSheet, projection: Projection | None) -> Split:
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
    found = _freely(writing, level, boxes, [names.get(i) for i in range(len(boxes))])
    return split_of(level.skew, projection, [*found, *_left(level, details)], False)


def _borne_out(
    level: LevelSheet, sheet: Arranged, whole: list[Boxes], doubted: float, called: int
) -> bool:
    """Whether what the views show agrees with the names that the arrangement gives them;
    ``called``: of how many more views what is written agrees than does not."""
    # Nobody writes its name at a part of a view.
    written = called >= max(_WRITTEN, len(sheet.boxes), len(candidates(sheet.read, whole)))
    if not written and len(sheet.names) < _FEWEST:
        return False
    if not written and are_parts(whole, [box.box for box in sheet.boxes]):
        return False
    if not written and len(sheet.names.keys() - sheet.doubts.keys()) >= _PLENTY:
        return True
    shown = {i: _shape(level, sheet.boxes[i].box) for i in sheet.names}
    signatures = {i: Signature(shape) for i, shape in shown.items() if shape is not None}
    if len(signatures) < _FEWEST:
        return written
    views = [sheet.names[i] for i in signatures]
    return contradicted(list(signatures.values()), views) <= doubted + _BACKED * called


@dataclass(frozen=True, slots=True, eq=False)
class _Thing:
    """box (4,); place: what the arrangement calls it; called: the views that its caption fits."""

    box: Boxes
    place: View | None
    called: Views
    signature: Signature


def _freely(
    writing: Writing, level: LevelSheet, boxes: list[Boxes], places: list[View | None]
) -> list[FoundView]:
    """Things named by what they show and what is written at them; ``places``: what the arrangement
    calls each of them."""
    shown = _shown(level, boxes, places, captions(writing, boxes))
    if len(shown) < 2:
        return [
            FoundView(None, corners_of(level, b), "nothing else tells what it shows") for b in boxes
        ]
    told = named_by_shape(
        [thing.signature for thing in shown],
        {i: thing.place for i, thing in enumerate(shown) if thing.place is not None},
        not level.medium.kind.areas,
        {i: thing.called for i, thing in enumerate(shown) if thing.called},
    )
    found: list[FoundView] = []
    for thing, reading, size in zip(shown, told.readings, _sizes(told), strict=True):
        doubt = "" if told.certain >= SURE else "its shape does not tell for sure what it shows"
        if any(reading.view is other.view for other in found):
            doubt = "another one shows the same view"
        if thing.called and reading.view not in thing.called:
            doubt = _CALLED
        corners = np.roll(corners_of(level, thing.box), reading.quarters, axis=0)
        found.append(FoundView(reading.view, corners, doubt, reading.quarters, size))
    return found


def _shown(
    level: LevelSheet, boxes: list[Boxes], places: list[View | None], written: dict[int, Caption]
) -> list[_Thing]:
    """What has a shape, without what is written at it."""
    found = []
    for i, (box, place) in enumerate(zip(boxes, places, strict=True)):
        called: Views = frozenset()
        if i in written:
            called, box = written[i].views, without_caption(level.ink, box, written[i].box)
        shape = _shape(level, box)
        if shape is not None:
            found.append(_Thing(box, place, called, Signature(shape)))
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
