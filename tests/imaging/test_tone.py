"""Tone and lifting the paper, on drawings whose paper and lines are known."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from dimetron.imaging.frame import Flattening, sheet_frame
from dimetron.imaging.prepare import preview, sheet_light
from dimetron.imaging.pyramid import build
from dimetron.imaging.tone import Tone, ToneError
from dimetron.imaging.toning import toned

PAPER, INK = (240, 228, 200), (60, 62, 70)


def drawing(light: np.ndarray | None = None) -> tuple[np.ndarray, np.ndarray]:
    """(h, w, 3) crossed lines on tinted paper, and where the lines are."""
    pixels = np.full((300, 400, 3), PAPER, np.uint8)
    line = np.zeros((300, 400), bool)
    line[148:152] = line[:, 198:202] = True
    pixels[line] = INK
    if light is not None:
        pixels = (pixels * light[..., None]).astype(np.uint8)
    return pixels, line


def test_a_plain_tone_changes_nothing() -> None:
    pixels, _ = drawing()
    assert toned(pixels, Tone()) is pixels


def test_picked_paper_and_ink_become_white_and_black() -> None:
    pixels, line = drawing()
    out = toned(pixels, Tone(paper=PAPER, ink=INK))
    assert (out[~line] == 255).all()
    assert (out[line] == 0).all()
    # Picked the wrong way round, the darker one is still the ink.
    np.testing.assert_array_equal(toned(pixels, Tone(paper=INK, ink=PAPER)), out)


def test_lifting_leaves_the_lines_and_clears_the_paper() -> None:
    pixels, line = drawing()
    grain = np.random.default_rng(2).normal(scale=3, size=pixels.shape)
    out = toned(np.clip(pixels + grain, 0, 255).astype(np.uint8), Tone(lift=True))
    assert out.shape[2] == 4
    assert np.mean(out[~line, 3] == 0) > 0.99
    assert out[line, 3].min() > 220
    assert np.abs(out[line, :3].astype(int) - INK).max() < 14


def test_the_tint_colours_lifted_lines() -> None:
    pixels, line = drawing()
    out = toned(pixels, Tone(lift=True, tint=(30, 120, 110)))
    assert (out[line, :3] == (30, 120, 110)).all()


def test_uneven_light_is_taken_out() -> None:
    light = np.linspace(0.55, 1.0, 400)[None, :].repeat(300, axis=0)
    pixels, line = drawing(light)
    out = toned(pixels, Tone(even=True, grey=True))[..., 0].astype(float)
    paper = np.where(line, np.nan, out)[20:-20, 20:-20]
    before = pixels.mean(axis=2)[20:-20, 20:-20]
    assert np.nanstd(paper) < 0.15 * np.std(before[:, 10:])


def test_specks_go_and_lines_stay() -> None:
    pixels, line = drawing()
    pixels[40:43, 60:63] = pixels[250:252, 320:322] = INK
    out = toned(pixels, Tone(despeckle=12))
    assert (out[30:55, 50:75] > 180).all()
    assert (out[245:257, 315:327] > 180).all()
    assert np.abs(out[line].astype(int) - INK).max() < 5


@given(
    st.builds(
        Tone,
        grey=st.booleans(),
        brightness=st.floats(-1, 1),
        contrast=st.floats(-1, 1),
        gamma=st.tuples(*[st.floats(0.2, 5)] * 3),
        invert=st.booleans(),
        even=st.booleans(),
        despeckle=st.integers(0, 50),
        lift=st.booleans(),
        tint=st.none() | st.just((10, 20, 200)),
    ),
    st.sampled_from([1, 3, 4]),
)
def test_any_tone_of_any_picture_is_a_picture(tone: Tone, channels: int) -> None:
    pixels = np.random.default_rng(4).integers(0, 255, (9, 13, channels), dtype=np.uint8)
    out = toned(pixels, tone)
    assert out.dtype == np.uint8
    assert out.shape[:2] == (9, 13)
    assert out.shape[2] in (1, 3, 4)


def test_one_pixel_is_a_picture_too() -> None:
    out = toned(np.full((1, 1, 3), 90, np.uint8), Tone(even=True, lift=True, despeckle=3))
    assert out.shape == (1, 1, 4)


def test_the_preview_is_the_result_seen_smaller() -> None:
    pixels, _ = drawing(np.linspace(0.7, 1.0, 400)[None].repeat(300, axis=0))
    pyramid = build(Image.fromarray(pixels))
    frame = sheet_frame((400, 300), Flattening())
    tone = Tone(even=True, contrast=0.3)
    seen = preview(pyramid, frame, tone, (100, 50), 0.5, (100, 80), sheet_light(pyramid, frame))
    whole = toned(pixels, tone)[50:210, 100:300].reshape(80, 2, 100, 2, 3).mean(axis=(1, 3))
    assert np.abs(seen.astype(float) - whole).mean() < 3


def test_values_beyond_their_range_say_so() -> None:
    with pytest.raises(ToneError, match="100"):
        Tone(brightness=2)
    with pytest.raises(ToneError, match="Gamma"):
        Tone(gamma=(0.0, 1.0, 1.0))
    with pytest.raises(ToneError, match="finite"):
        Tone(contrast=float("nan"))
