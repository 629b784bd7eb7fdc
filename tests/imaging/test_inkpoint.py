"""The ink's own point near a place, against lines drawn where the truth is known."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageDraw
from scipy import ndimage

from dimetron.imaging.inkpoint import InkPoint, ink_point

SIZE, FINE = 120, 4


def drawn(draw: Callable[[ImageDraw.ImageDraw], None], noise: float = 2.0) -> Image.Image:
    """Black strokes on white, drawn finer and reduced, with a scanner's blur and grain."""
    sheet = Image.new("L", (SIZE * FINE, SIZE * FINE), 255)
    draw(ImageDraw.Draw(sheet))
    soft = ndimage.gaussian_filter(np.asarray(sheet.reduce(FINE), float), 0.7)
    grain = np.random.default_rng(1).normal(size=soft.shape) * noise
    return Image.fromarray(np.clip(soft + grain, 0, 255).astype(np.uint8))


def line(*ends: tuple[float, float]) -> Callable[[ImageDraw.ImageDraw], None]:
    points = [(x * FINE, y * FINE) for x, y in ends]
    return lambda pen: pen.line(points, 0, 3 * FINE)


def off(found: InkPoint | None, true: tuple[float, float]) -> float:
    assert found is not None
    return float(np.hypot(*np.subtract(found.px, true)))


@settings(max_examples=30, deadline=None)
@given(st.floats(20, 70), st.floats(-3, 3), st.floats(-3, 3))
def test_a_crossing_is_found_to_a_part_of_a_pixel(tilt: float, dx: float, dy: float) -> None:
    true = 60.0 + dx / 3, 60.0 - dy / 3
    c, s = np.cos(np.radians(tilt)) * 40, np.sin(np.radians(tilt)) * 40

    def both(pen: ImageDraw.ImageDraw) -> None:
        line((true[0] - c, true[1] - s), (true[0] + c, true[1] + s))(pen)
        line((true[0] + s, true[1] - c), (true[0] - s, true[1] + c))(pen)

    found = ink_point(drawn(both), (true[0] + dx, true[1] + dy), 8.0)
    assert found is not None and found.kind == "corner"
    assert off(found, true) < 0.6


@pytest.mark.parametrize("true", [(60.0, 31.5), (60.0, 88.5), (31.5, 60.0), (88.5, 60.0)])
def test_the_farthest_point_of_a_curve(true: tuple[float, float]) -> None:
    ring = drawn(
        lambda pen: pen.ellipse([30 * FINE, 30 * FINE, 90 * FINE, 90 * FINE], None, 0, 3 * FINE)
    )
    found = ink_point(ring, (true[0] + 2, true[1] - 2), 8.0)
    assert found is not None and found.kind == "extreme"
    assert off(found, true) < 0.8


@given(st.floats(25, 65), st.floats(-3, 3))
@settings(max_examples=20, deadline=None)
def test_along_a_stroke_the_hand_decides_and_across_it_the_ink(x: float, away: float) -> None:
    picture = drawn(line((5.0, 50.0), (115.0, 50.0)))
    found = ink_point(picture, (x, 50.0 + away), 8.0)
    assert found is not None and found.kind == "stroke"
    assert found.px[1] == pytest.approx(50.0, abs=0.6)
    assert found.px[0] == pytest.approx(x, abs=1.1)


def test_where_there_is_no_stroke_there_is_no_point() -> None:
    blank = Image.new("L", (50, 50), 255)
    assert ink_point(blank, (25.0, 25.0), 8.0) is None
    assert ink_point(blank, (-300.0, 900.0), 8.0) is None
    solid = Image.new("L", (200, 200), 255)
    solid.paste(0, (20, 20, 180, 180))
    assert ink_point(solid, (100.0, 100.0), 8.0) is None
    # Too far away.
    assert ink_point(drawn(line((5.0, 50.0), (115.0, 50.0))), (60.0, 75.0), 8.0) is None
