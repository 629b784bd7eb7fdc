"""What a person says about what is drawn: kinds, inks that are guides, strokes of the brush; and
objects cut from a busy ground."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageDraw

from dimetron.imaging.figure.inks import guided, inks_of, with_guides
from dimetron.imaging.figure.kind import Kind
from dimetron.imaging.figure.photo import cut_from
from dimetron.imaging.figure.said import Figure, Touch
from dimetron.imaging.figure.touched import carried, touched
from dimetron.imaging.frame import (
    LEVEL,
    UNTOUCHED,
    Crop,
    Straightening,
    drawing_frame,
    sheet_frame,
)
from dimetron.imaging.ink import drawn, ink_level
from dimetron.imaging.inkpoint import ink_point
from dimetron.imaging.medium import medium_of
from dimetron.imaging.prepare import pyramid_on
from dimetron.imaging.pyramid import build, read_as
from dimetron.imaging.reading import reading_of
from dimetron.imaging.shape import shape_of
from dimetron.imaging.tighten import inked, tightened
from dimetron.imaging.tone import PLAIN, Tone
from tests.imaging.test_figure import saved

SIZE = (900, 640)
BOX = (300, 200, 620, 460)
BLUE, RED = (110, 150, 225), (205, 50, 40)


def squared() -> Image.Image:
    """A black box on paper with a blue grid and a red centreline."""
    picture = Image.new("RGB", SIZE, (246, 244, 238))
    draw = ImageDraw.Draw(picture)
    for x in range(15, SIZE[0], 45):
        draw.line([(x, 0), (x, SIZE[1])], BLUE, 2)
    for y in range(15, SIZE[1], 45):
        draw.line([(0, y), (SIZE[0], y)], BLUE, 2)
    draw.line([(460, 60), (460, 600)], RED, 3)
    draw.rectangle(BOX, outline=(30, 30, 34), width=4)
    return saved(picture, fall=0.08)


def inks(picture: Image.Image) -> dict[str, tuple[int, int, int]]:
    found = reading_of(build(picture), Figure()).inks
    return {"black rgb"[:5] if max(i.colour) < 90 else "red" if i.colour[0] > i.colour[2] else
            "blue": i.colour for i in found}  # fmt: skip


def planks(seed: int = 3) -> np.ndarray:
    """(h, w, 3) a bench of planks of many browns."""
    rng = np.random.default_rng(seed)
    ground = np.empty((*SIZE[::-1], 3))
    for top in range(0, SIZE[1], 80):
        ground[top : top + 80] = np.array([150, 108, 66]) * rng.uniform(0.45, 1.3)
    return ground + rng.normal(0, 9, (SIZE[1], SIZE[0], 1))


def on_bench(colour: tuple[int, int, int] = (40, 130, 110)) -> Image.Image:
    """A ring with a thin handle on it."""
    mask = Image.new("L", (SIZE[0] * 2, SIZE[1] * 2), 0)
    draw = ImageDraw.Draw(mask)
    draw.ellipse([2 * 300, 2 * 160, 2 * 580, 2 * 480], outline=255, width=140)
    draw.line([(2 * 575, 2 * 320), (2 * 760, 2 * 320)], 255, 24)
    share = np.asarray(mask.reduce(2), float)[..., None] / 255
    pixels = planks() * (1 - share) + np.array(colour, float) * share
    return saved(Image.fromarray(np.clip(pixels, 0, 255).astype(np.uint8)), 0.1)


def test_inks_are_told_apart_however_strong_they_are() -> None:
    pixels = np.asarray(squared())
    found = inks_of(pixels)
    assert len(found) == 3
    assert sum(ink.share for ink in found) == pytest.approx(1.0, abs=0.05)
    marked = with_guides(found, [(120, 160, 220), (190, 60, 60)])
    is_guide = guided(pixels, marked, (246, 244, 238))
    # A middle of a blue line, of a red one, of the box's edge, and of its crossing with a blue one.
    assert is_guide[300, 105]
    assert is_guide[100, 461]
    assert not is_guide[202, 400]
    assert not is_guide[330, 302]


def test_guides_are_no_part_of_the_object() -> None:
    page = build(squared())
    colours = inks(squared())
    assert set(colours) == {"black", "red", "blue"}
    plain = inked(page)
    assert plain is not None
    assert plain.box[0] < 30
    figure = Figure(guides=(colours["red"], colours["blue"]))
    read = read_as(page, figure)
    found = inked(read)
    assert found is not None
    assert found.box == pytest.approx((300, 200, 621, 461), abs=2)
    sheet = sheet_frame(page.size_px, UNTOUCHED)
    tight = tightened(read, sheet, Crop(180, 120, 560, 460))
    assert tight is not None
    assert tight.crop.left == pytest.approx(300, abs=2)
    assert tight.crop.bottom == pytest.approx(461, abs=2)
    # In a drawing of it too, and where a hand points there.
    part = pyramid_on(page, drawing_frame(sheet, Crop(180, 120, 560, 460), LEVEL), PLAIN, figure)
    shape = shape_of(part)
    assert shape is not None
    left, _, right, _ = shape.box
    assert right - left == pytest.approx(316, abs=2)
    at = ink_point(part.levels[0], (285.0, 84.0), 12.0, part.medium)
    assert at is not None
    assert at.px[1] == pytest.approx(82, abs=1.5)
    assert ink_point(part.levels[0], (280.0, 300.0), 8.0, part.medium) is None


def test_lines_are_light_or_dark_as_it_is_said() -> None:
    picture = Image.new("RGB", SIZE, (128, 128, 128))
    draw = ImageDraw.Draw(picture)
    draw.rectangle((100, 100, 400, 400), outline=(30, 30, 30), width=4)
    draw.rectangle((500, 100, 800, 400), outline=(235, 235, 235), width=4)
    for light, side in ((False, slice(0, 450)), (True, slice(450, 900))):
        medium = medium_of(picture, Figure(Kind.LINES, light))
        assert medium.light is light
        dark = drawn(picture, medium)
        assert (dark[250, side] > ink_level(dark, medium)).any()
        # What is drawn the other way is nothing.
        assert dark[250, 501 if side.start == 0 else 101] == 0


POINT = st.tuples(st.floats(0.1, 0.9), st.floats(0.1, 0.9))


@settings(max_examples=30, deadline=None)
@given(st.lists(POINT, min_size=1, max_size=5), st.floats(0.01, 0.06), st.booleans())
def test_a_stroke_lies_in_a_part_where_it_lies_in_the_whole(
    points: list[tuple[float, float]], radius: float, adds: bool
) -> None:
    touch = Touch(tuple(points), radius, adds)
    whole = touched([touch], SIZE)
    assert set(np.unique(whole)) <= {0, 1 if adds else -1}
    x, y = (int(share * side) for share, side in zip(points[0], SIZE, strict=True))
    assert whole[y, x] == (1 if adds else -1)
    left, top, wide, high = 90, 64, 700, 500
    part = np.array([[1 / SIZE[0], 0, left / SIZE[0]], [0, 1 / SIZE[1], top / SIZE[1]], [0, 0, 1]])
    there = touched([touch], (wide, high), part)
    moved = touched([carried(touch, part, (wide, high))], (wide, high))
    same = whole[top : top + high, left : left + wide]
    assert np.mean(there != same) < 0.002
    assert np.mean(moved != there) < 0.002


def test_later_strokes_count_over_earlier_ones() -> None:
    across = ((0.1, 0.5), (0.9, 0.5))
    said = touched([Touch(across, 0.05, False), Touch(((0.5, 0.5),), 0.02, True)], SIZE)
    assert said[320, 450] == 1
    assert said[320, 200] == -1
    assert said[10, 10] == 0


def test_a_brush_takes_lines_away_and_adds_to_areas() -> None:
    page = build(squared())
    over_all_left = Touch(((0.1, 0.0), (0.1, 1.0)), 0.24, False)
    found = inked(read_as(page, Figure(touches=(over_all_left,))))
    assert found is not None
    assert found.box[0] > 200
    # A drawing that is turned keeps what was taken away from the sheet.
    sheet = sheet_frame(page.size_px, UNTOUCHED)
    frame = drawing_frame(sheet, Crop(0, 0, 900, 640), Straightening(turns=1))
    turned = inked(pyramid_on(page, frame, PLAIN, Figure(touches=(over_all_left,))))
    assert turned is not None
    assert turned.box[3] < 900 - 200

    disc = Image.new("RGB", SIZE, (244, 240, 232))
    ImageDraw.Draw(disc).ellipse((300, 160, 600, 460), fill=(60, 90, 160))
    page = build(saved(disc))
    assert page.medium.kind.areas
    grown = read_as(page, Figure(touches=(Touch(((0.66, 0.5), (0.8, 0.5)), 0.02, True),)))
    box = inked(grown)
    assert box is not None
    assert box.box[2] == pytest.approx(0.8 * 900 + 0.02 * np.sqrt(900 * 640), abs=4)


@pytest.mark.parametrize("colour", [(40, 130, 110), (216, 214, 206)])
def test_an_object_is_cut_from_a_busy_ground(colour: tuple[int, int, int]) -> None:
    picture = on_bench(colour)
    page = build(picture)
    assert page.medium.kind is Kind.PHOTO
    cover = page.medium.cover(picture) > 0.5
    # The ring, the thin handle, the hole and the bench.
    assert cover[320, 335]
    assert cover[320, 700]
    assert not cover[320, 440]
    assert not cover[100:130, 100:800].any()
    box = inked(page)
    assert box is not None
    assert box.box[:2] == pytest.approx((300, 160), abs=3)
    # The end of what is thin is hard to tell.
    assert box.box[2:] == pytest.approx((761, 481), abs=8)
    # A drawing of it knows the same of its part.
    sheet = sheet_frame(page.size_px, UNTOUCHED)
    part = pyramid_on(page, drawing_frame(sheet, Crop(250, 120, 560, 420), LEVEL), PLAIN)
    shape = shape_of(part)
    assert shape is not None
    assert shape.box[2] - shape.box[0] == pytest.approx(460, abs=8)


def test_strokes_say_what_belongs_to_the_object() -> None:
    picture = np.asarray(on_bench()).copy()
    # A plate in the colour of the bench belongs to it, a large red cup that touches it does not.
    picture[480:560, 380:500] = np.array([150, 108, 66])
    picture[90:300, 120:310] = (190, 50, 60)
    # Nor do small things of its colour that lie about.
    picture[60:100, 760:800] = (40, 130, 110)
    there = cut_from(picture).cover(SIZE) > 0.5
    assert not there[520, 440]
    assert not there[60:100, 760:800].any()
    plate = Touch(((0.43, 0.78), (0.54, 0.78), (0.54, 0.85), (0.43, 0.85)), 0.03, True)
    cup = Touch(((0.2, 0.25), (0.25, 0.35)), 0.02, False)
    said = cut_from(picture, (plate, cup)).cover(SIZE) > 0.5
    assert said[520, 440]
    # One stroke tells of all of the cup.
    assert there[95:290, 130:280].mean() > 0.9
    assert said[95:290, 130:280].mean() < 0.1
    assert said[320, 335]


def test_nothing_of_an_object_is_no_error() -> None:
    alike = Image.fromarray(np.random.default_rng(1).integers(0, 255, (90, 120, 3), np.uint8))
    medium = medium_of(alike, Figure(Kind.PHOTO))
    assert medium.cover(alike).shape == (90, 120)
    assert inked(build(Image.new("RGB", (60, 40), (9, 9, 9)), figure=Figure(Kind.PHOTO))) is None


def test_pages_sheets_and_benches_are_told_apart() -> None:
    assert build(squared()).medium.kind is Kind.LINES
    # A sheet of paper on a bench is a drawing, not an object.
    bench = planks()
    bench[60:580, 80:820] = np.asarray(squared(), float)[60:580, 80:820]
    sheet = Image.fromarray(np.clip(bench, 0, 255).astype(np.uint8))
    assert build(sheet).medium.kind is Kind.LINES


def test_what_is_said_of_lines_holds_for_the_page_and_not_for_its_negative() -> None:
    page = build(squared())
    frame = drawing_frame(sheet_frame(page.size_px, UNTOUCHED), Crop(180, 120, 560, 460), LEVEL)
    said = Figure(Kind.LINES, light=False)
    for tone in (PLAIN, Tone(invert=True)):
        part = pyramid_on(page, frame, tone, said)
        assert part.medium.light is tone.invert
        found = inked(part)
        assert found is not None
        dark = drawn(part.levels[0], part.medium)
        # The middle of the box's left edge is ink either way.
        assert dark[200, 122] > ink_level(dark, part.medium)
