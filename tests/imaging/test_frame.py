"""Crop, turn, mirror, lens and rectification: where points go, and back."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from dimetron.demo.photo import BULGE, SIZE_PX, taken
from dimetron.imaging.flat import Circle, FrameError, Rectangle, unbulged
from dimetron.imaging.frame import (
    LEVEL,
    Crop,
    Flattening,
    Frame,
    Straightening,
    crop_of,
    drawing_frame,
    sheet_frame,
)
from dimetron.imaging.prepare import prepared
from dimetron.imaging.rectify import bulge_from_lines
from dimetron.imaging.tone import Tone

SIZE = (640, 400)
straightenings = st.builds(
    Straightening, st.integers(-5, 5), st.floats(-45, 45), st.booleans()
)  # fmt: skip


@given(straightenings, straightenings, st.floats(-0.2, 0.2), st.floats(0.2, 3))
def test_points_come_back(
    sheet: Straightening, own: Straightening, bulge: float, scale: float
) -> None:
    whole = sheet_frame(SIZE, Flattening(bulge, None, sheet, scale))
    frame = drawing_frame(whole, Crop(20, 30, 100, 50), own)
    points = np.array([[0.5, 0.5], [320, 200], [639, 10], [100, 399.5]])
    np.testing.assert_allclose(frame.to_source(frame.to_frame(points)), points, atol=1e-6)


@given(st.integers(0, 300), st.integers(0, 200), st.integers(1, 300), st.integers(1, 190))
def test_a_drawing_begins_at_the_corner_it_is_cut_at(
    left: int, top: int, width: int, height: int
) -> None:
    frame = drawing_frame(sheet_frame(SIZE, Flattening()), Crop(left, top, width, height), LEVEL)
    assert frame.size_px == (width, height)
    assert np.allclose(frame.to_frame([[left, top]]), (0, 0), atol=1e-9)
    corner = [[left + width, top + height]]
    assert np.allclose(frame.to_frame(corner), (width, height), atol=1e-9)


@given(straightenings, straightenings)
def test_what_is_turned_stays_in_the_middle_of_its_picture(
    sheet: Straightening, own: Straightening
) -> None:
    whole = sheet_frame(SIZE, Flattening(straightening=sheet))
    assert np.allclose(whole.to_frame([[320, 200]]), np.array(whole.size_px) / 2, atol=1e-6)
    crop = Crop(20.25, 30.5, 100.4, 50.3)
    frame = drawing_frame(whole, crop, own)
    middle = whole.to_source(crop.corners.mean(axis=0)[None])
    assert np.allclose(frame.to_frame(middle), np.array(frame.size_px) / 2, atol=1e-6)


@given(st.floats(-0.2, 0.2).filter(lambda b: abs(b) > 0.01))
def test_a_barrel_is_bent_outwards_and_a_cushion_inwards(bulge: float) -> None:
    middle = np.array([320.0, 200.0])
    away = np.array([[280.0, 0.0], [0.0, 190.0]])
    flat = unbulged(middle + away, SIZE, bulge) - middle
    longer = np.linalg.norm(flat, axis=1) / np.linalg.norm(away, axis=1)
    assert ((longer > 1) == (bulge > 0)).all()


@given(straightenings)
def test_a_straightened_sheet_keeps_all_of_itself(how: Straightening) -> None:
    frame = sheet_frame(SIZE, Flattening(straightening=how))
    corners = frame.to_frame(np.array([[0, 0], [640, 0], [640, 400], [0, 400]]))
    assert corners.min() >= -1e-6
    assert (corners <= np.array(frame.size_px) + 1e-6).all()


def test_an_untouched_sheet_is_the_picture_itself() -> None:
    image = Image.new("RGB", SIZE, "white")
    assert prepared(image, sheet_frame(SIZE, Flattening()), Tone()) is image


def test_quarter_turns_and_mirror_move_pixels_and_change_none() -> None:
    rng = np.random.default_rng(1)
    pixels = rng.integers(0, 255, (40, 64, 3), dtype=np.uint8)
    image = Image.fromarray(pixels)
    for turns in range(4):
        for mirrored in (False, True):
            frame = sheet_frame(
                (64, 40), Flattening(straightening=Straightening(turns, 0, mirrored))
            )
            wanted = np.rot90(pixels, turns)
            wanted = wanted[:, ::-1] if mirrored else wanted
            np.testing.assert_array_equal(np.asarray(prepared(image, frame, Tone())), wanted)


def test_a_crop_shows_exactly_its_pixels() -> None:
    pixels = np.arange(40 * 64, dtype=np.uint32).reshape(40, 64).astype(np.uint8)
    frame = drawing_frame(sheet_frame((64, 40), Flattening()), Crop(5, 7, 20, 11), Straightening())
    cut = prepared(Image.fromarray(pixels), frame, Tone())
    np.testing.assert_array_equal(np.asarray(cut), pixels[7:18, 5:25])


def test_a_fine_turn_levels_a_slanted_line() -> None:
    pixels = np.full((400, 640), 255, np.uint8)
    x = np.arange(40, 600)
    y = np.rint(200 - (x - 320) * np.tan(np.radians(2.0))).astype(int)
    pixels[y, x] = pixels[y + 1, x] = 0
    frame = sheet_frame(SIZE, Flattening(straightening=Straightening(angle_deg=-2.0)))
    turned = np.asarray(prepared(Image.fromarray(pixels), frame, Tone()))
    rows = np.nonzero(turned.min(axis=1) < 100)[0]
    assert np.ptp(rows) <= 4


def _distances(points: np.ndarray) -> np.ndarray:
    return np.linalg.norm(points[:, None] - points[None], axis=2)


def _dial(count: int = 8) -> np.ndarray:
    turn = np.linspace(0, 2 * np.pi, count + 1)[:-1]
    return np.stack([120 * np.cos(turn), 150 + 120 * np.sin(turn)], axis=1)


def _pairs(points: np.ndarray) -> tuple[tuple[float, float], ...]:
    return tuple((float(x), float(y)) for x, y in points)


AWAY = np.array([[-140, 60], [135, 260], [0, 300.0], [-20, 10], [90, 130]])


@pytest.mark.parametrize("kind", ["rectangle", "circle"])
def test_a_rectified_photo_has_true_lengths_away_from_the_picks(kind: str) -> None:
    photo = taken()
    noise = np.random.default_rng(3)
    if kind == "circle":
        rim = photo.px(_dial(12)) + noise.normal(scale=0.3, size=(12, 2))
        known = Circle(_pairs(rim), _pairs(photo.px(np.array([[0, 150.0]])))[0], 240.0)
    else:
        corners = np.array([[-100, 250], [100, 250], [100, 50], [-100, 50.0]])
        picked = photo.px(corners) + noise.normal(scale=0.2, size=(4, 2))
        known = Rectangle(_pairs(picked), (200.0, 200.0), True)
    frame = sheet_frame(SIZE_PX, Flattening(BULGE, known))
    assert frame.mm_per_px is not None
    found = _distances(frame.to_frame(photo.px(AWAY)) * frame.mm_per_px)
    true = _distances(AWAY)
    off = np.abs(found - true)[true > 0] / true[true > 0]
    assert off.max() < 0.003


def test_a_ratio_alone_gives_shape_without_scale() -> None:
    known = Rectangle(((10, 10), (300, 40), (310, 250), (20, 280)), (3.0, 2.0))
    frame = sheet_frame(SIZE, Flattening(known=known))
    flat = frame.to_frame(np.array(known.corners))
    sides = np.linalg.norm(np.roll(flat, -1, axis=0) - flat, axis=1)
    assert frame.mm_per_px is None
    np.testing.assert_allclose(sides[0] / sides[1], 1.5, rtol=1e-9)


def test_the_bulge_is_found_from_what_is_straight() -> None:
    photo = taken()
    lines = [
        photo.px(np.stack([np.linspace(-200, 200, 9), np.full(9, y)], axis=1))
        for y in (-60.0, 330.0)
    ]
    assert abs(bulge_from_lines(lines, SIZE_PX) - BULGE) < 0.002


@pytest.mark.parametrize(
    ("corners", "words"),
    [
        (((0, 0), (100, 0), (200, 0), (0, 100)), "in a line"),
        (((0, 0), (100, 100), (100, 0), (0, 100)), "crossed"),
        (((0, 0), (0, 100), (100, 100), (100, 0)), "clockwise"),
        (((5, 5), (5, 5), (5, 5), (5, 5)), "in a line"),
    ],
)
def test_impossible_corners_say_why(corners: tuple[tuple[float, float], ...], words: str) -> None:
    with pytest.raises(FrameError, match=words):
        sheet_frame(SIZE, Flattening(known=Rectangle(corners, (2.0, 1.0))))  # type: ignore[arg-type]


def test_impossible_values_say_why() -> None:
    with pytest.raises(FrameError, match="one pixel"):
        Crop(0, 0, 0, 10)
    with pytest.raises(FrameError, match="45"):
        Straightening(angle_deg=50)
    with pytest.raises(FrameError, match="resampled"):
        sheet_frame(SIZE, Flattening(scale=0))
    with pytest.raises(FrameError, match="five points"):
        sheet_frame(SIZE, Flattening(known=Circle(((0, 0), (1, 1)), (0, 0))))
    line = Circle(tuple((float(i), 2.0 * i) for i in range(6)), (3.0, 6.0))
    with pytest.raises(FrameError, match="circle"):
        sheet_frame(SIZE, Flattening(known=line))


@settings(max_examples=30)
@given(st.floats(-10, 10))
def test_a_crop_round_turned_corners_holds_them(angle: float) -> None:
    frame: Frame = sheet_frame(SIZE, Flattening(straightening=Straightening(angle_deg=angle)))
    corners = frame.to_source(np.array([[100, 80], [300, 80], [300, 200], [100, 200.0]]))
    crop = crop_of(frame, corners)
    assert (crop.left, crop.top, crop.width, crop.height) == (100, 80, 200, 120)
