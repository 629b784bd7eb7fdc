"""Where a drawing's ink lies: every stroke counts, however thin; specks do not."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image, ImageDraw

from dimetron.imaging.frame import UNTOUCHED, Crop, sheet_frame
from dimetron.imaging.pyramid import build
from dimetron.imaging.tighten import ink_extent, inked, tightened


def glider(thick: int, scale: int = 1) -> Image.Image:
    """A body with two wings that are lines of so many pixels, and specks all about."""
    picture = Image.new("L", (600 * scale, 400 * scale), 248)
    pen = ImageDraw.Draw(picture)
    pen.ellipse([v * scale for v in (250, 150, 350, 250)], outline=30, width=4 * scale)
    top = 200 * scale
    pen.rectangle((40 * scale, top, 560 * scale - 1, top + thick - 1), fill=30)
    for x, y in ((12, 20), (580, 370), (300, 8)):
        pen.rectangle((x * scale, y * scale, x * scale + 1, y * scale + 1), fill=30)
    return picture


@pytest.mark.parametrize("thick", [1, 2, 5])
def test_thin_wings_belong_to_it_and_specks_do_not(thick: int) -> None:
    assert ink_extent(build(glider(thick))) == pytest.approx((40, 150, 560, 251), abs=1.0)


def test_a_thin_line_that_stands_apart_counts() -> None:
    picture = glider(2)
    ImageDraw.Draw(picture).line((60, 330, 200, 330), fill=30, width=1)
    assert ink_extent(build(picture)) == pytest.approx((40, 150, 560, 331), abs=1.0)


def test_a_large_picture_is_measured_to_its_own_pixel() -> None:
    assert ink_extent(build(glider(6, 4))) == pytest.approx((160, 600, 2240, 1001), abs=1.0)


def test_a_crop_is_tightened_to_all_strokes() -> None:
    picture = glider(2)
    frame = sheet_frame(picture.size, UNTOUCHED)
    tight = tightened(build(picture), frame, Crop(20, 30, 560, 340))
    assert tight is not None and tight.left_out == ()
    crop = tight.crop
    assert (crop.left, crop.right) == pytest.approx((40, 560), abs=1.0)
    assert (crop.top, crop.bottom) == pytest.approx((150, 251), abs=1.0)
    assert tightened(build(picture), frame, Crop(20, 300, 400, 60)) is None


def with_faint_tail(scale: int, dotted: bool = False) -> Image.Image:
    """The glider with a tail far below it that is a hair of pale pencil, or a row of dots."""
    picture = glider(2 * scale, scale)
    pen = ImageDraw.Draw(picture)
    if not dotted:
        pen.line((200 * scale, 320 * scale, 420 * scale, 350 * scale), fill=232, width=scale)
    for x in range(200, 420, 5) if dotted else ():
        pen.point((x, 330), fill=60)
    return picture


@pytest.mark.parametrize(("scale", "dotted"), [(1, False), (4, False), (1, True)])
def test_strokes_too_faint_to_be_ink_are_told(scale: int, dotted: bool) -> None:
    found = inked(build(with_faint_tail(scale, dotted)))
    assert found is not None
    assert found.box[3] == pytest.approx(251 * scale, abs=scale)
    (left, top, right, bottom) = np.array(found.left_out[0]) / scale
    assert (left, right) == pytest.approx((200, 420), abs=6.0)
    assert 315 < top < bottom < 356
    assert len(found.left_out) == 1


def test_nothing_is_told_of_grain_and_of_shade() -> None:
    light = np.linspace(255, 190, 600)[None, :] * np.linspace(1.0, 0.9, 400)[:, None]
    paper = light / 255 * np.asarray(glider(3), np.float64)
    # A stain beside it, as faint as pencil and as long as a stroke.
    paper[300:380, 380:540] -= 9 * np.hanning(80)[:, None] * np.hanning(160)[None, :] ** 0.5
    paper += np.random.default_rng(5).normal(0, 3, paper.shape)
    found = inked(build(Image.fromarray(paper.clip(0, 255).astype(np.uint8))))
    assert found is not None and found.left_out == ()


def test_tightening_tells_what_it_would_cut_off() -> None:
    picture = with_faint_tail(1)
    tight = tightened(build(picture), sheet_frame(picture.size, UNTOUCHED), Crop(20, 130, 560, 260))
    assert tight is not None and tight.crop.bottom == pytest.approx(251, abs=1.0)
    (tail,) = tight.left_out
    assert (tail.left, tail.right) == pytest.approx((200, 420), abs=2.0)


def test_paper_alone_holds_no_ink() -> None:
    grain = np.random.default_rng(3).normal(240, 3, (300, 400)).clip(0, 255).astype(np.uint8)
    assert ink_extent(build(Image.fromarray(grain))) is None
