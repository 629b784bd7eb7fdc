"""Whatever a drawing is drawn with, lighter or darker than its ground and in any colour: its views
are found, its ink is measured, snapped to and read as if it were pencil on paper."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image, ImageDraw, ImageFilter

from dimetron.geometry.views import View
from dimetron.imaging.frame import UNTOUCHED, Crop, sheet_frame
from dimetron.imaging.inkpoint import ink_point
from dimetron.imaging.medium import PENCIL, medium_of
from dimetron.imaging.pyramid import build
from dimetron.imaging.shape import shape_of
from dimetron.imaging.skew import skew
from dimetron.imaging.split.views import split_views
from dimetron.imaging.tighten import inked, tightened

Colour = tuple[int, int, int]
#: Ground and ink.
STYLES: dict[str, tuple[Colour, Colour]] = {
    "pencil on paper": ((246, 240, 226), (58, 60, 66)),
    "white on blue": ((28, 62, 140), (238, 243, 250)),
    "pale on black": ((22, 24, 28), (200, 205, 190)),
    "chalk on green": ((40, 70, 52), (225, 228, 205)),
    "yellow on white": ((252, 252, 250), (238, 204, 40)),
    "pale blue on white": ((250, 250, 250), (150, 190, 240)),
    "red on buff": ((240, 228, 196), (196, 44, 38)),
    "red on blue": ((70, 96, 150), (190, 60, 60)),
}
#: Middles and sizes of the three views of an egg, 200 × 420 × 160, on 1800 × 1270.
EGG = {
    View.FRONT: (430, 880, 200, 160),
    View.RIGHT: (1100, 880, 420, 160),
    View.TOP: (430, 400, 200, 420),
}


def inked_in(style: str, cover: Image.Image, quality: int) -> Image.Image:
    """Ink by its cover (L), on a ground with grain and a light that falls off, as a JPEG."""
    ground, ink = (np.array(c, float) for c in STYLES[style])
    rng = np.random.default_rng(quality)
    h, w = cover.height, cover.width
    light = np.linspace(1.0, 0.93, w)[None, :, None] * np.ones((h, 1, 1))
    paper = ground * light + rng.normal(0, 2.0, (h, w, 1))
    share = np.asarray(cover.filter(ImageFilter.GaussianBlur(0.6)), float)[..., None] / 255
    out = io.BytesIO()
    pixels = np.clip(paper * (1 - share) + ink * share, 0, 255).astype(np.uint8)
    Image.fromarray(pixels).save(out, "JPEG", quality=quality)
    return Image.open(out)


def egg_sheet(line: int) -> Image.Image:
    cover = Image.new("L", (1800, 1270), 0)
    pen = ImageDraw.Draw(cover)
    for x, y, w, h in EGG.values():
        pen.ellipse((x - w / 2, y - h / 2, x + w / 2, y + h / 2), outline=255, width=line)
        pen.line((x - w / 3, y, x + w / 3, y + h / 9), fill=255, width=line)
    return cover


def kite() -> Image.Image:
    """A closed outline with corners at (40, 60), (300, 40), (360, 220) and (120, 240)."""
    cover = Image.new("L", (420, 300), 0)
    way = [(40, 60), (300, 40), (360, 220), (120, 240), (40, 60)]
    ImageDraw.Draw(cover).line(way, fill=255, width=3, joint="curve")
    return cover


@pytest.mark.parametrize("style", STYLES)
def test_what_lines_are_drawn_with_is_told(style: str) -> None:
    ground, ink = STYLES[style]
    medium = medium_of(inked_in(style, egg_sheet(3), 80))
    if style == "red on blue":
        # Lighter in red, darker in blue.
        assert medium.weights is not None and medium.weights[0] < 0 < medium.weights[2]
    else:
        assert medium.light is (sum(ink) > sum(ground))
    if style == "pencil on paper":
        assert medium == PENCIL
    if style == "yellow on white":
        assert medium.weights is not None and np.argmax(medium.weights) == 2


@pytest.mark.parametrize("line", [2, 4])
@pytest.mark.parametrize("style", STYLES)
def test_views_are_found_in_every_style(style: str, line: int) -> None:
    found = split_views(inked_in(style, egg_sheet(line), 62 + 8 * line))
    assert {v.view for v in found.views} == set(EGG)
    for view in found.views:
        assert view.view is not None
        x, y, w, h = EGG[view.view]
        box = [*view.corners[0], *view.corners[2]]
        assert box == pytest.approx([x - w / 2, y - h / 2, x + w / 2, y + h / 2], abs=4)


@pytest.mark.parametrize("style", STYLES)
def test_ink_is_measured_snapped_to_and_read_in_every_style(style: str) -> None:
    picture = inked_in(style, kite(), 88)
    pyramid = build(picture)
    seen = inked(pyramid)
    assert seen is not None and not seen.left_out
    assert seen.box == pytest.approx((39, 39, 362, 242), abs=2.5)
    tight = tightened(pyramid, sheet_frame(picture.size, UNTOUCHED), Crop(10, 10, 400, 280))
    assert tight is not None
    assert (tight.crop.left, tight.crop.bottom) == pytest.approx((39, 242), abs=2.5)
    corner = ink_point(picture, (303, 43), 9, pyramid.medium)
    assert corner is not None and corner.kind == "corner"
    assert corner.px == pytest.approx((300.5, 40.5), abs=1.6)
    middle = ink_point(picture, (171, 53), 6, pyramid.medium)
    assert middle is not None
    assert middle.px[1] == pytest.approx(50.3, abs=1.2)
    shape = shape_of(pyramid)
    assert shape is not None
    # What the outline encloses.
    assert shape.filled.mean() > 2 * shape.ink.mean()


def test_a_light_sheet_is_levelled_by_its_lines() -> None:
    cover = Image.new("L", (900, 700), 0)
    pen = ImageDraw.Draw(cover)
    for at in range(120, 620, 60):
        pen.line((100, at, 800, at), fill=255, width=3)
    turned = inked_in("white on blue", cover.rotate(2.0, Image.Resampling.BICUBIC), 80)
    found = skew(turned)
    assert found.sure and found.deg == pytest.approx(2.0, abs=0.1)


def test_light_lines_on_nothing_are_seen() -> None:
    cover = kite()
    clear = Image.merge("RGBA", (*[Image.new("L", cover.size, 244)] * 3, cover))
    pyramid = build(clear)
    assert pyramid.medium.light and pyramid.medium.under == 0
    seen = inked(pyramid)
    assert seen is not None and seen.box == pytest.approx((39, 39, 362, 242), abs=2.5)
    dark = Image.merge("RGBA", (*[Image.new("L", cover.size, 20)] * 3, cover))
    assert build(dark).medium == PENCIL
    found = inked(build(dark))
    assert found is not None and found.box == pytest.approx(seen.box, abs=1.0)


def test_a_picture_without_lines_is_read_as_pencil() -> None:
    assert medium_of(Image.new("RGB", (400, 300), (30, 60, 140))) == PENCIL
    assert medium_of(Image.new("L", (3, 2), 9)) == PENCIL
    assert medium_of(Image.new("RGBA", (40, 30), (0, 0, 0, 0))) == PENCIL
    stones = np.random.default_rng(1).normal(120, 40, (300, 400, 3)).clip(0, 255)
    assert medium_of(Image.fromarray(stones.astype(np.uint8))) == PENCIL


def test_scratches_on_light_paper_are_no_lines() -> None:
    paper = Image.new("L", (600, 400), 222)
    pen = ImageDraw.Draw(paper)
    for at in range(30, 380, 20):
        pen.line((0, at, 600, at + 9), fill=255, width=1)
    pen.ellipse((200, 100, 400, 300), outline=150, width=3)
    assert medium_of(paper) == PENCIL
