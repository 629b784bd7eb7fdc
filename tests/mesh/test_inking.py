"""Rows brought to what is drawn, against outlines that are known."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageDraw

from dimetron.geometry.segments import line_crossings
from dimetron.geometry.views import View
from dimetron.imaging.inkline import ink_crossings
from dimetron.mesh.inking import brought, fitted, row_through, rows_of
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.starter import starters
from tests.mesh.truth import edges_where

WHOLE = Selection(Kind.WHOLE, np.zeros(0, np.int32))


def cylinder(radius: float = 40.0) -> Mesh:
    shape = starters()["cylinder"]
    low, high = np.array([-radius, -radius, 0.0]), np.array([radius, radius, 100.0])
    return shape.filling(low, high, 2, shape.settings(sides=12, rows=5))


#: The outline of a vase in the front view: as wide at a height as this says.
def half_width(z: np.ndarray) -> np.ndarray:
    return 45 + 10 * np.sin(z / 30)


HEIGHTS = np.linspace(-10, 110, 241)
VASE = np.concatenate(
    [
        np.column_stack([half_width(HEIGHTS), HEIGHTS]),
        np.column_stack([-half_width(HEIGHTS) + 3, HEIGHTS])[::-1],
    ]
)


def vase(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    return line_crossings([VASE], a, b)


def test_both_ends_of_every_row_meet_the_outline() -> None:
    mesh = cylinder()
    rows = rows_of(mesh, WHOLE, View.FRONT)
    assert len(rows) == 6
    for vertices in rows:
        row = fitted(mesh, vertices, View.FRONT, vase, 30.0, False)
        assert row is not None
        assert row.met == (True, True)
        mesh = mesh.with_moved(vertices, brought(mesh, row, View.FRONT, False))
    for vertices in rows:
        x, z = mesh.positions[vertices, 0], mesh.positions[vertices[0], 2]
        assert x.max() == pytest.approx(half_width(z), abs=0.02)
        assert x.min() == pytest.approx(3 - half_width(z), abs=0.02)
    assert np.ptp(mesh.positions[:, 1]) == pytest.approx(80), "depth is left alone"


def test_depth_goes_along_where_it_is_asked_for() -> None:
    mesh = cylinder()
    vertices = rows_of(mesh, WHOLE, View.FRONT)[2]
    row = fitted(mesh, vertices, View.FRONT, vase, 30.0, False)
    assert row is not None
    before = mesh.positions[vertices]
    after = brought(mesh, row, View.FRONT, True)
    times = np.ptp(after[:, 0]) / np.ptp(before[:, 0])
    assert np.ptp(after[:, 1]) / np.ptp(before[:, 1]) == pytest.approx(times)


@settings(max_examples=30)
@given(st.floats(25, 60), st.floats(-4, 4))
def test_an_end_without_ink_within_reach_stays(reach: float, off: float) -> None:
    mesh = cylinder()
    vertices = rows_of(mesh, WHOLE, View.FRONT)[3]

    def one_side(a: np.ndarray, b: np.ndarray) -> np.ndarray:
        return line_crossings([np.array([[50 + off, -1e3], [50 + off, 1e3], [1e4, 0]])], a, b)

    row = fitted(mesh, vertices, View.FRONT, one_side, reach, False)
    assert row is not None
    assert row.met == (False, True)
    assert row.moved == (pytest.approx(0), pytest.approx(10 + off, abs=1e-6))
    assert fitted(mesh, vertices, View.FRONT, one_side, 1.0, False) is None


def test_an_end_does_not_look_beyond_the_middle_of_its_row() -> None:
    mesh = cylinder(6.0)
    vertices = rows_of(mesh, WHOLE, View.FRONT)[3]

    def right(a: np.ndarray, b: np.ndarray) -> np.ndarray:
        return line_crossings([np.array([[5, -1e3], [1e4, -1e3], [1e4, 1e3], [5, 1e3]])], a, b)

    row = fitted(mesh, vertices, View.FRONT, right, 30.0, False)
    assert row is not None
    assert row.met == (False, True), "the other side's line is not this end's"
    assert row.to[:, 0].tolist() == pytest.approx([-6, 5])


def test_the_outermost_of_several_lines_can_be_meant() -> None:
    mesh = cylinder()
    vertices = rows_of(mesh, WHOLE, View.FRONT)[3]
    pens = [np.array([[-x, -1e3], [x, -1e3], [x, 1e3], [-x, 1e3]]) for x in (42.0, 48.0)]

    def two(a: np.ndarray, b: np.ndarray) -> np.ndarray:
        return line_crossings(pens, a, b)

    for outermost, wide in ((False, 42.0), (True, 48.0)):
        row = fitted(mesh, vertices, View.FRONT, two, 20.0, outermost)
        assert row is not None
        assert np.abs(row.to[:, 0]).tolist() == pytest.approx([wide, wide])


def test_a_row_is_what_hangs_together_at_its_height() -> None:
    mesh = cylinder()
    rim = edges_where(mesh, z=100.0).indices
    for edge in rim.tolist():
        row = row_through(mesh, edge, View.FRONT)
        assert np.allclose(mesh.positions[row, 2], 100), "the lid's edges are of its rim's row"
        assert np.ptp(mesh.positions[row, 0]) == pytest.approx(80)
    t = mesh.topology
    upright = int(np.flatnonzero(np.ptp(mesh.positions[t.edges][:, :, 2], axis=1) > 1)[0])
    column = row_through(mesh, upright, View.FRONT)
    assert np.ptp(mesh.positions[column, 2]) == pytest.approx(100)
    edges = edges_where(mesh, z=40.0)
    assert [len(row) for row in rows_of(mesh, edges, View.FRONT)] == [12]


@pytest.mark.parametrize("tilt", [0.0, 0.2, -0.5])
@pytest.mark.parametrize("pen", [1, 3, 6])
def test_the_middle_of_a_stroke_is_found_across_it(tilt: float, pen: int) -> None:
    scale = 8
    big = Image.new("L", (200 * scale, 120 * scale), 250)
    draw = ImageDraw.Draw(big)
    for x in (60, 140):
        top = (x + tilt * 60) * scale, 0
        bottom = (x - tilt * 60) * scale, 120 * scale
        draw.line([bottom, top], fill=20, width=pen * scale)
    picture = big.resize((200, 120), Image.Resampling.BOX)
    found = ink_crossings(picture, (10.0, 60.5), (190.0, 60.5))
    assert found.tolist() == pytest.approx([50, 130], abs=0.35)
    assert not len(ink_crossings(picture, (90.0, 60.5), (110.0, 60.5)))
    assert not len(ink_crossings(picture, (90.0, 60.5), (90.0, 60.5)))


def test_ink_that_runs_along_counts_with_both_its_ends() -> None:
    picture = Image.new("L", (200, 60), 250)
    draw = ImageDraw.Draw(picture)
    draw.line([(20, 0), (20, 60)], fill=20, width=3)
    draw.line([(180, 0), (180, 60)], fill=20, width=3)
    draw.line([(60, 30), (140, 30)], fill=20, width=3)
    found = ink_crossings(picture, (0.0, 30.5), (200.0, 30.5))
    assert found.tolist() == pytest.approx([20.5, 61.5, 139.5, 180.5], abs=1.5)
    alone = ink_crossings(picture, (40.0, 30.5), (160.0, 30.5))
    assert alone.tolist() == pytest.approx([20, 100], abs=6)
