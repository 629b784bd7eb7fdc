"""What is drawn and what is its ground, in pictures that are filled or shaded rather than drawn
with lines."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image, ImageDraw, ImageFilter, ImageOps

from dimetron.imaging.figure.ground import ground_of
from dimetron.imaging.figure.kind import Kind
from dimetron.imaging.figure.said import Figure
from dimetron.imaging.frame import LEVEL as AS_IT_LIES
from dimetron.imaging.frame import UNTOUCHED, Crop, drawing_frame, sheet_frame
from dimetron.imaging.inkpoint import ink_point
from dimetron.imaging.medium import medium_of
from dimetron.imaging.prepare import pyramid_on
from dimetron.imaging.pyramid import Pyramid, build
from dimetron.imaging.shape import shape_of
from dimetron.imaging.tighten import inked, tightened
from dimetron.imaging.tone import PLAIN, Tone

SIZE = (900, 700)
#: Corners of a kite, clockwise, and its box.
KITE = ((260, 180), (620, 150), (680, 430), (300, 520))
BOX = (260, 150, 680, 520)
GROUNDS = {"paper": (244, 240, 232), "slate": (44, 48, 56), "mid": (128, 150, 140)}


def saved(picture: Image.Image, fall: float = 0.12, quality: int = 80) -> Image.Image:
    """With a light that falls off to a corner, grain, and as a JPEG."""
    w, h = picture.size
    light = 1 - fall * np.add.outer(np.linspace(0, 0.5, h), np.linspace(0, 0.5, w))[..., None]
    grain = np.random.default_rng(quality).normal(0, 1.5, (h, w, 1))
    pixels = np.clip(np.asarray(picture, float) * light + grain, 0, 255).astype(np.uint8)
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "JPEG", quality=quality)
    return Image.open(out).convert("RGB")


def kite(ground: str, fill: tuple[int, int, int], shade: float = 0.0) -> Image.Image:
    """A filled kite; ``shade``: how much darker it is at its lower end."""
    cover = Image.new("L", (SIZE[0] * 4, SIZE[1] * 4), 0)
    ImageDraw.Draw(cover).polygon([(4 * x, 4 * y) for x, y in KITE], fill=255)
    share = np.asarray(cover.reduce(4), float)[..., None] / 255
    down = np.linspace(1.0, 1.0 - shade, SIZE[1])[:, None, None]
    pixels = np.array(GROUNDS[ground], float) * (1 - share) + np.array(fill, float) * down * share
    return saved(Image.fromarray(pixels.astype(np.uint8)))


FILLS = [
    ("paper", (60, 90, 160)), ("paper", (236, 180, 60)), ("slate", (220, 224, 230)),
    ("slate", (150, 60, 50)), ("mid", (60, 62, 70)), ("mid", (228, 140, 60)),
]  # fmt: skip


def on(page: Pyramid, crop: Crop, tone: Tone = PLAIN) -> Pyramid:
    """A drawing cut from a page."""
    sheet = sheet_frame(page.size_px, UNTOUCHED)
    frame = drawing_frame(sheet, crop, AS_IT_LIES)
    return pyramid_on(page, frame, tone)


def test_the_ground_is_found_under_what_is_drawn_and_around_it() -> None:
    picture = kite("paper", (60, 90, 160))
    ground = ground_of(np.asarray(picture))
    empty = saved(Image.new("RGB", SIZE, GROUNDS["paper"]))
    off = np.abs(ground.field(SIZE) - np.asarray(empty, np.float32))
    assert np.percentile(off, 99) < 6
    # A part of it, twice as large.
    whole = np.array([[0.5 / SIZE[0], 0, 0.25], [0, 0.5 / SIZE[1], 0.5], [0, 0, 1.0]])
    part = ground.seen(whole, SIZE).field(SIZE)
    assert part[0, 0] == pytest.approx(ground.field(SIZE)[350, 225], abs=1.0)
    assert part[-1, -1] == pytest.approx(ground.field(SIZE)[699, 674], abs=1.0)
    # Beyond the picture it is as at its edge.
    far = np.array([[3 / SIZE[0], 0, -1], [0, 3 / SIZE[1], -1], [0, 0, 1.0]])
    away = ground.seen(far, SIZE).field(SIZE)[::20, ::20]
    known = ground.field(SIZE)
    assert away.min() > known.min() - 12 and away.max() < known.max() + 12


def test_of_two_grounds_that_are_as_common_the_lighter_one_is_taken() -> None:
    fields = np.indices((8, 8)).sum(axis=0) % 2
    pixels = np.repeat(np.where(fields[..., None] == 0, (20, 24, 30), (238, 236, 230)), 3, axis=2)
    pixels = np.kron(pixels[..., :3], np.ones((50, 50, 1))).astype(np.uint8)
    # A little more of the dark one.
    pixels[:60] = np.where(pixels[:60] > 128, pixels[:60], 22)
    pixels[:6] = 22
    assert ground_of(pixels).lightness > 0.8


def test_a_pale_area_beside_a_dark_line_is_covered_whole() -> None:
    picture = Image.new("RGB", SIZE, GROUNDS["paper"])
    pen = ImageDraw.Draw(picture)
    pen.rectangle((200, 150, 700, 550), fill=(206, 200, 186), outline=(20, 20, 24), width=4)
    medium = medium_of(picture)
    assert medium.kind.areas
    cover = medium.cover(picture)
    assert cover[153:547, 203:697].min() == 1.0
    assert cover[:140].max() < 0.1


@pytest.mark.parametrize(("ground", "fill"), FILLS)
def test_fills_and_shade_are_told_from_lines(ground: str, fill: tuple[int, int, int]) -> None:
    assert medium_of(kite(ground, fill)).kind is Kind.FILLED
    if max(fill) > 200:
        assert medium_of(kite(ground, fill, 0.85)).kind is Kind.SHADED


@pytest.mark.parametrize("light", [False, True])
@pytest.mark.parametrize("pen", [9, 14, 20])
def test_a_thick_pen_draws_lines(pen: int, light: bool) -> None:
    image = Image.new("RGB", (800, 600), (244, 240, 230))
    pencil = ImageDraw.Draw(image)
    pencil.ellipse((80, 90, 420, 500), outline=(60, 60, 66), width=pen)
    pencil.line([(480, 120), (720, 200), (520, 320), (700, 480)], (60, 60, 66), pen, "curve")
    image = image.filter(ImageFilter.GaussianBlur(1))
    assert medium_of(ImageOps.invert(image) if light else image).kind is Kind.LINES
    # As wide, but short, and round no ground: that is an area.
    bars = Image.new("RGB", (800, 600), (244, 240, 230))
    for x in (100, 300, 500):
        ImageDraw.Draw(bars).rectangle((x, 100, x + 60, 500), fill=(60, 60, 66))
    assert medium_of(bars.filter(ImageFilter.GaussianBlur(1))).kind is Kind.FILLED


def test_what_has_thin_parts_is_an_area_and_a_small_thick_ring_a_line() -> None:
    comb = Image.new("RGB", (800, 600), (244, 240, 230))
    pencil = ImageDraw.Draw(comb)
    pencil.rectangle((100, 80, 700, 200), fill=(60, 60, 66))
    for x in range(100, 700, 40):
        pencil.rectangle((x, 200, x + 12, 540), fill=(60, 60, 66))
    assert medium_of(comb.filter(ImageFilter.GaussianBlur(1))).kind is Kind.FILLED
    ring = Image.new("RGB", (800, 600), (244, 240, 230))
    ImageDraw.Draw(ring).ellipse((300, 200, 430, 330), outline=(60, 60, 66), width=14)
    assert medium_of(ring.filter(ImageFilter.GaussianBlur(1))).kind is Kind.LINES


def test_a_shadow_on_paper_is_no_figure() -> None:
    picture = Image.new("RGB", SIZE, GROUNDS["paper"])
    pen = ImageDraw.Draw(picture)
    pen.polygon([(520, 0), (900, 0), (900, 700), (700, 700)], fill=(170, 168, 164))
    picture = picture.filter(ImageFilter.GaussianBlur(18))
    ImageDraw.Draw(picture).line([*KITE, KITE[0]], fill=(60, 60, 66), width=3)
    assert medium_of(saved(picture)).kind is Kind.LINES


def test_what_a_picture_is_said_to_be_counts() -> None:
    picture = kite("paper", (60, 90, 160))
    assert medium_of(picture, Figure(Kind.LINES)).kind is Kind.LINES
    assert medium_of(picture, Figure(Kind.SHADED)).kind is Kind.SHADED


@pytest.mark.parametrize("shade", [0.0, 0.4])
@pytest.mark.parametrize(("ground", "fill"), FILLS)
def test_areas_are_measured_and_snapped_to(
    ground: str, fill: tuple[int, int, int], shade: float
) -> None:
    page = build(kite(ground, fill, shade))
    seen = inked(page)
    assert seen is not None and seen.box == pytest.approx(BOX, abs=1.5) and not seen.left_out
    tight = tightened(page, sheet_frame(SIZE, UNTOUCHED), Crop(240, 120, 470, 430))
    assert tight is not None
    assert (tight.crop.left, tight.crop.bottom) == pytest.approx((260, 520), abs=1.5)
    corner = ink_point(page.levels[0], (264, 187), 12, page.medium)
    assert corner is not None and corner.kind == "corner"
    assert corner.px == pytest.approx(KITE[0], abs=2.5)
    edge = ink_point(page.levels[0], (440, 171), 8, page.medium)
    assert edge is not None and edge.px[1] == pytest.approx(165, abs=1.0)
    shape = shape_of(page)
    assert shape is not None and shape.turn_deg == 0.0
    box = np.array(shape.box) + np.tile(np.array(SIZE) / 2, 2)
    assert box == pytest.approx(BOX, abs=1.5)


def test_a_drawing_that_shows_no_ground_keeps_that_of_its_page() -> None:
    picture = Image.new("RGB", SIZE, GROUNDS["slate"])
    ImageDraw.Draw(picture).rectangle((200, 150, 599, 549), fill=(216, 200, 160))
    page = build(saved(picture))
    cut = on(page, Crop(202, 152, 396, 300))
    assert cut.medium.kind is page.medium.kind is Kind.FILLED
    seen = inked(cut)
    assert seen is not None and seen.box == pytest.approx((0, 0, 396, 300), abs=1)
    # In another tone the colours of the page say nothing.
    pale = on(page, Crop(150, 100, 500, 500), Tone(brightness=0.3))
    toned = inked(pale)
    assert pale.medium.kind is Kind.FILLED
    assert toned is not None and toned.box == pytest.approx((50, 50, 450, 450), abs=1.5)


def test_what_is_cut_from_a_page_of_lines_is_of_lines() -> None:
    picture = Image.new("RGB", SIZE, GROUNDS["paper"])
    pen = ImageDraw.Draw(picture)
    pen.line([*KITE, KITE[0]], fill=(50, 50, 56), width=3)
    # Hatched so closely that it is black.
    pen.rectangle((80, 580, 130, 620), fill=(50, 50, 56))
    page = build(saved(picture))
    assert page.medium.kind is Kind.LINES
    crop = Crop(40, 560, 170, 100)
    dense = on(page, crop)
    assert medium_of(dense.levels[0]).kind.areas and dense.medium.kind is Kind.LINES
    assert on(page, crop, Tone(brightness=0.2)).medium.kind is Kind.LINES


def test_a_large_area_is_measured_to_the_pixel() -> None:
    picture = Image.new("RGB", (3600, 2400), GROUNDS["paper"])
    ImageDraw.Draw(picture).ellipse((403, 505, 3101, 2003), fill=(60, 70, 120))
    seen = inked(build(saved(picture)))
    assert seen is not None and seen.box == pytest.approx((403, 505, 3102, 2004), abs=1.5)


def test_areas_on_nothing_are_seen() -> None:
    cover = Image.new("L", SIZE, 0)
    ImageDraw.Draw(cover).polygon(KITE, fill=255)
    for grey in (20, 235):
        clear = Image.merge("RGBA", (*[Image.new("L", SIZE, grey)] * 3, cover))
        page = build(clear)
        assert page.medium.kind is Kind.FILLED
        seen = inked(page)
        assert seen is not None and seen.box == pytest.approx(BOX, abs=1.5)
