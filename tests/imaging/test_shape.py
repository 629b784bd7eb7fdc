"""A drawing's shape: set straight, measured to the middle of its strokes, even or not."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from PIL import Image, ImageDraw

from dimetron.imaging.pyramid import build
from dimetron.imaging.shape import Shape, shape_of

FINE = 3
Points = Sequence[tuple[float, float]]
#: A gable with a step: uneven left to right.
GABLE: Points = ((0, 0), (400, 0), (400, 180), (260, 180), (140, 300), (0, 180))
#: An arrow that is even about x = 150.
ARROW: Points = ((150, 0), (300, 140), (220, 140), (220, 420), (80, 420), (80, 140), (0, 140))


def drawn(
    outlines: Sequence[Points],
    turn_deg: float = 0.0,
    wide: float = 4.0,
    size: tuple[int, int] = (640, 620),
    filled: bool = False,
) -> tuple[Image.Image, np.ndarray]:
    """Closed outlines turned about the middle of the first; and its corners in pixels."""
    sheet = Image.new("L", (size[0] * FINE, size[1] * FINE), 246)
    pen = ImageDraw.Draw(sheet)
    middle = (np.max(outlines[0], axis=0) + np.min(outlines[0], axis=0)) / 2
    c, s = np.cos(np.radians(turn_deg)), np.sin(np.radians(turn_deg))
    first = np.zeros((0, 2))
    for outline in outlines:
        away = np.array(outline) - middle
        px = away @ np.array([[c, -s], [s, c]]) + np.array(size) / 2
        first = px if not len(first) else first
        path = [(float(x), float(y)) for x, y in px * FINE]
        if filled:
            pen.polygon(path, 40)
        pen.line([*path, path[0], path[1]], 40, round(wide * FINE), joint="curve")
    return sheet.reduce(FINE), first


def read(image: Image.Image) -> Shape:
    found = shape_of(build(image))
    assert found is not None
    return found


def sides(shape: Shape) -> tuple[float, float]:
    left, top, right, bottom = shape.box
    return right - left, bottom - top


@settings(max_examples=12, deadline=None)
@given(st.floats(-4, 4), st.floats(2.5, 6.0), st.sampled_from([GABLE, ARROW]))
@example(0.0625, 4.25, ARROW)
def test_turn_and_size_are_those_of_the_outline(turn: float, wide: float, outline: Points) -> None:
    image, corners = drawn([outline], turn, wide)
    shape = read(image)
    assert shape.turn_deg == pytest.approx(turn, abs=0.25)
    assert sides(shape) == pytest.approx(tuple(np.ptp(outline, axis=0)), rel=0.008)
    # The straightened box is where the corners are.
    left, top, right, bottom = shape.box
    there = shape.to_picture([(left, top), (right, top), (right, bottom), (left, bottom)])
    assert there.mean(axis=0) == pytest.approx(
        (np.max(there, axis=0) + np.min(there, axis=0)) / 2, abs=3.0
    )
    span = corners.max(axis=0) - corners.min(axis=0)
    assert np.abs(there.max(axis=0) - there.min(axis=0) - span).max() < 0.1 * span.max()


def test_what_is_even_and_about_which_line() -> None:
    arrow, gable = read(drawn([ARROW])[0]), read(drawn([GABLE])[0])
    assert arrow.even[0] > 0.9 > 0.8 > max(arrow.even[1], *gable.even)
    left, _, right, _ = arrow.box
    assert arrow.centre[0] == pytest.approx((left + right) / 2, abs=2.0)


def test_evenness_is_about_its_own_line_and_not_the_middle_of_the_ink() -> None:
    flag = ((220, 300), (420, 300), (420, 340), (220, 340))
    shape = read(drawn([ARROW, flag])[0])
    left, _, right, _ = shape.box
    off = (left + right) / 2 - shape.centre[0]
    assert off == pytest.approx(60.0, abs=4.0)


def test_specks_and_words_beside_the_object_do_not_count() -> None:
    image, _ = drawn([GABLE], size=(800, 700))
    before = read(image)
    pen = ImageDraw.Draw(image)
    for x, y in ((20, 30), (700, 90), (60, 650)):
        pen.point([(x, y), (x + 1, y)], 60)
    for k in range(5):
        pen.rectangle([600 + 14 * k, 640, 608 + 14 * k, 652], outline=50, width=2)
    after = read(image)
    assert after.box == pytest.approx(before.box, abs=0.5)


def test_what_lines_enclose_is_filled_over_small_gaps() -> None:
    image, _ = drawn([GABLE])
    whole = read(image)
    ImageDraw.Draw(image).rectangle([318, 456, 321, 476], fill=246)
    gapped = read(image)
    assert gapped.filled.mean() == pytest.approx(whole.filled.mean(), abs=0.01)
    assert whole.filled.mean() > 0.6 > 0.1 > whole.ink.mean()


def test_surfaces_begin_at_their_edge() -> None:
    image, _ = drawn([GABLE], wide=1.0, filled=True)
    assert sides(read(image)) == pytest.approx((400, 300), abs=2.5)


def test_a_large_picture_is_read_on_a_reduced_one_to_its_own_pixels() -> None:
    image, _ = drawn([GABLE])
    small = read(image)
    large = read(image.resize((image.width * 6, image.height * 6), Image.Resampling.BICUBIC))
    assert large.step > 1.0
    assert np.array(sides(large)) / 6 == pytest.approx(sides(small), rel=0.01)


# What slopes by itself is no turn.

#: A hull that tapers, a pair of wings that rise, a body whose top and bottom slope apart, and one
#: with a single wing: nothing of them tells a turn but that the first two are even.
TAPER: Points = ((-150, -300), (150, -300), (115, 300), (-115, 300))
WINGS: Points = (
    (0, -70), (60, -50), (300, -75), (300, -61), (60, -10), (40, 70),
    (-40, 70), (-60, -10), (-300, -61), (-300, -75), (-60, -50),
)  # fmt: skip
SLOPING: Points = ((-300, 60), (-160, 75), (250, 40), (290, 0), (240, -40), (60, -62), (-300, -25))
ONE_WING: Points = (
    (-60, -60),
    (300, -90),
    (300, -78),
    (-30, -10),
    (-40, 60),
    (-120, 60),
    (-130, 0),
)


@pytest.mark.parametrize("turn_deg", [0.0, 1.2, -1.5])
@pytest.mark.parametrize("outline", [TAPER, WINGS], ids=["taper", "wings"])
def test_what_is_even_is_turned_as_a_whole(outline: Points, turn_deg: float) -> None:
    shape = read(drawn([outline], turn_deg, size=(760, 760))[0])
    assert shape.told and shape.turn_deg == pytest.approx(turn_deg, abs=0.25)


@pytest.mark.parametrize("outline", [SLOPING, ONE_WING], ids=["sloping", "one wing"])
def test_one_slope_is_no_turn(outline: Points) -> None:
    shape = read(drawn([outline], size=(760, 500))[0])
    assert not shape.told and shape.turn_deg == 0.0


def test_several_lines_that_lie_apart_tell_a_turn() -> None:
    steps: Points = (
        (-250, -120), (-90, -120), (-90, -40), (80, -40), (80, 50), (250, 50), (250, 140),
        (-250, 140),
    )  # fmt: skip
    shape = read(drawn([steps], 1.7, size=(700, 500))[0])
    assert shape.told and shape.turn_deg == pytest.approx(1.7, abs=0.1)


def test_three_lines_of_one_direction_are_several() -> None:
    planks: list[Points] = [
        ((-260, y), (200 + y, y), (230 + y, y + 26), (-200 + y, y + 26)) for y in (-150, -30, 90)
    ]
    shape = read(drawn(planks, 1.6, size=(760, 500))[0])
    assert shape.told and shape.turn_deg == pytest.approx(1.6, abs=0.15)
