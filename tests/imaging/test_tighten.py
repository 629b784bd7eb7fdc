"""Where a drawing's ink lies: every stroke counts, however thin; specks do not."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image, ImageDraw

from dimetron.imaging.frame import UNTOUCHED, Crop, sheet_frame
from dimetron.imaging.pyramid import build
from dimetron.imaging.tighten import ink_extent, tightened


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
    crop = tightened(picture, frame, Crop(20, 30, 560, 340))
    assert crop is not None
    assert (crop.left, crop.right) == pytest.approx((40, 560), abs=1.0)
    assert (crop.top, crop.bottom) == pytest.approx((150, 251), abs=1.0)
    assert tightened(picture, frame, Crop(20, 300, 400, 60)) is None


def test_paper_alone_holds_no_ink() -> None:
    grain = np.random.default_rng(3).normal(240, 3, (300, 400)).clip(0, 255).astype(np.uint8)
    assert ink_extent(build(Image.fromarray(grain))) is None
