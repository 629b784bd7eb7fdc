"""What drawings share: levels and points, against a stepped block of known corners."""

from __future__ import annotations

from itertools import product

import numpy as np
import pytest
from PIL import Image, ImageDraw

from dimetron.geometry.views import View
from dimetron.imaging.pyramid import build
from dimetron.imaging.shape import shape_of
from dimetron.registration.byink.features import Placed, corners, features
from dimetron.registration.pose import Pose

FINE = 3
SCALES = {View.FRONT: 0.5, View.RIGHT: 0.4, View.TOP: 0.6}
#: Two boxes, one on the other: corners of each.
BOXES = (((-100, -60, 0), (100, 60, 80)), ((-40, -30, 80), (70, 50, 170)))


def placed(view: View, shift_mm: tuple[float, float] = (0.0, 0.0)) -> Placed:
    scale = SCALES[view]
    pose = Pose(1 / scale, 0.0, (330.0, 560.0))
    sheet = Image.new("L", (660 * FINE, 700 * FINE), 248)
    pen = ImageDraw.Draw(sheet)
    for low, high in BOXES:
        a, b = view.to_plane(np.array([low, high], float))
        square = np.array([a, (b[0], a[1]), b, (a[0], b[1]), a, (b[0], a[1])])
        px = pose.to_px(square) * FINE
        pen.line([(float(x), float(y)) for x, y in px], 50, 3 * FINE, joint="curve")
    shape = shape_of(build(sheet.reduce(FINE)))
    assert shape is not None
    x, y = pose.to_px(np.array(shift_mm))
    return Placed(view.key, view, Pose(1 / scale, 0.0, (float(x), float(y))), shape)


def test_levels_are_found_where_the_object_has_them_and_all_drawings_agree() -> None:
    found = features([placed(v) for v in SCALES])
    levels = {axis: [f for f in found if f.axis == axis] for axis in range(3)}
    true = {0: (-100, -40, 70, 100), 1: (-60, -30, 50, 60), 2: (0, 80, 170)}
    for axis, values in true.items():
        assert levels[axis], axis
        for level in levels[axis]:
            assert min(abs(level.at_mm[axis] - v) for v in values) < 0.7
            shown = {v.key for v in SCALES if axis in v.axes}
            assert set(level.px) == shown and level.off_mm < 1.0
    assert {round(level.at_mm[2], -1) for level in levels[2]} == {0, 80, 170}


def test_points_are_corners_that_three_drawings_show() -> None:
    points = [f for f in features([placed(v) for v in SCALES]) if f.axis is None]
    every = [c for low, high in BOXES for c in product(*zip(low, high, strict=True))]
    assert points
    for point in points:
        assert set(point.px) == {"front", "right", "top"}
        # Where one corner lies behind another the two cannot be told apart in a drawing; each
        # coordinate is one of a corner's.
        for axis in range(3):
            assert min(abs(point.at_mm[axis] - c[axis]) for c in every) < 2.0


def test_drawings_that_lie_apart_share_nothing_along_the_axis_in_which_they_do() -> None:
    front, right, top = (placed(v) for v in SCALES)
    lifted = Placed("right", View.RIGHT, placed(View.RIGHT, (0.0, 25.0)).pose, right.shape)
    found = features([front, lifted, top])
    assert not [f for f in found if f.axis == 2 or f.axis is None]
    assert [f for f in found if f.axis == 0] and [f for f in found if f.axis == 1]


def test_one_drawing_or_two_that_face_each_other_share_nothing() -> None:
    front = placed(View.FRONT)
    assert features([front]) == () and features([]) == ()
    back = Placed("back", View.BACK, front.pose, front.shape)
    assert features([front, back]) == ()


def test_corners_lie_on_the_drawing_itself() -> None:
    drawing = placed(View.FRONT)
    found = corners(drawing.shape)
    true = drawing.pose.to_px(
        View.FRONT.to_plane(
            np.array([(-100, 0, 0), (100, 0, 0), (100, 0, 80), (-40, 0, 170)], float)
        )
    )
    for corner in true:
        assert float(np.hypot(*(found - corner).T).min()) == pytest.approx(0.0, abs=4.0)
