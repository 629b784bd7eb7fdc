"""Strokes and lettering before they reach the GPU."""

from __future__ import annotations

from collections.abc import Iterator

import moderngl
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.geometry.camera import OrthoCamera
from dimetron.geometry.units import Unit
from dimetron.geometry.views import View
from dimetron.render import grid
from dimetron.render.headless import offscreen
from dimetron.render.ink import Pen, Sheet
from dimetron.render.palette import DAY

INK = (0.0, 0.0, 0.0, 1.0)
far = st.floats(-1e7, 1e7)


@given(st.lists(st.tuples(st.tuples(far, far), st.tuples(far, far)), max_size=20))
def test_endless_lines_are_cut_to_what_the_pane_can_show(segments: list) -> None:
    sheet = Sheet((400.0, 300.0))
    sheet.lines(np.array(segments).reshape(-1, 2, 2), INK)
    for rows in sheet.strokes:
        assert np.isfinite(rows).all()
        assert np.abs(rows[:, :2]).max() < 31000


def test_a_cut_line_still_runs_through_the_same_pixels() -> None:
    sheet = Sheet((400.0, 300.0))
    sheet.lines([[[-1e6, -1e6 + 50], [1e6, 1e6 + 50]]], INK)
    (rows,) = sheet.strokes
    middle = rows[:, :2]
    assert np.allclose(np.abs(middle[:, 1] - middle[:, 0] - 50), 1.5 * np.sqrt(2), atol=0.01)


def test_points_without_a_place_are_left_out() -> None:
    sheet = Sheet((400.0, 300.0))
    sheet.lines([[[np.nan, 0], [5, 5]], [[3, 3], [3, 3]]], INK)
    assert sheet.strokes == []


@pytest.fixture(scope="module")
def pen() -> Iterator[Pen]:
    with offscreen((64, 64)) as (renderer, _):
        yield renderer.pen


def test_figures_have_one_width(pen: Pen) -> None:
    widths = {pen.width(figure, 12, 1.0) for figure in "0123456789"}
    assert len(widths) == 1
    assert pen.width("412 mm", 12, 1.0) > pen.width("41 mm", 12, 1.0)
    # The same size on the screen whatever the pixel ratio.
    assert pen.width("412 mm", 12, 2.0) == pytest.approx(pen.width("412 mm", 12, 1.0), rel=0.08)


def test_the_texture_begins_again_when_it_is_full(pen: Pen) -> None:
    lettering = pen.lettering
    for size in range(40, 90):
        boxes, sources = lettering.quads("ABCDEFGHIJKLMNOPQRSTUVWXYZ", (0.0, 50.0), size)
        assert len(boxes) == 26
        assert sources.min() >= 0
        assert sources.max() <= 1
    assert isinstance(lettering.texture, moderngl.Texture)


@pytest.mark.parametrize("unit", Unit)
@pytest.mark.parametrize("view", View)
def test_grid_numbers_name_world_coordinates(view: View, unit: Unit) -> None:
    camera = OrthoCamera(view, (10.0, 20.0, 30.0), 0.8, (600.0, 400.0))
    sheet = Sheet(camera.size)
    grid.draw_numbers(sheet, camera, unit, DAY)
    assert len(sheet.words) >= 3
    from dimetron.geometry.lengths import parse_length

    across, _ = view.axes
    for words, (x, y), *_ in sheet.words:
        if y > 380:  # along the lower edge
            world = camera.point_at((x - 3, y))
            assert parse_length(words, unit) == pytest.approx(world[across], abs=0.5)


def test_grid_lines_lie_on_multiples_of_the_step() -> None:
    from dimetron.geometry.graduation import graduation

    camera = OrthoCamera(View.FRONT, (3.0, 0.0, 7.0), 0.5, (300.0, 200.0))
    sheet = Sheet(camera.size)
    grid.draw_flat(sheet, camera, Unit.MM, DAY)
    step = graduation(0.5, Unit.MM).fine
    uprights = sheet.strokes[0][:, 0].reshape(-1, 6).mean(axis=1)
    world = np.array([camera.point_at((x, 0.0))[0] for x in uprights])
    assert np.allclose(world / step, np.round(world / step), atol=1e-6)
