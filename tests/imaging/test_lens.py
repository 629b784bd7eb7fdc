"""The lens that a camera noted, and the ratio of a rectangle's sides that follows from it."""

from __future__ import annotations

import io
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from dimetron.imaging.flat import Rectangle
from dimetron.imaging.lens import ratio_of
from dimetron.imaging.read import probe

SIZE = (1600, 1200)


def photo(kind: str = "JPEG", **noted: object) -> bytes:
    image = Image.new("RGB", (160, 120))
    exif = Image.Exif()
    camera = exif.get_ifd(0x8769)
    camera.update({int(tag.removeprefix("t"), 16): value for tag, value in noted.items()})
    out = io.BytesIO()
    image.save(out, kind, exif=exif.tobytes())
    return out.getvalue()


def focal(data: bytes) -> float | None:
    return probe(data, "photo").focal


def test_the_focal_length_is_read_as_the_camera_noted_it() -> None:
    assert focal(photo(tA405=28)) == pytest.approx(28 / 43.27)
    # 5 mm before a sensor of 25 pixels a millimetre: 125 pixels of a diagonal of 200.
    assert focal(photo(t920A=5.0, tA20E=25.4 * 25, tA210=2)) == pytest.approx(125 / 200)
    assert focal(photo(t920A=5.0, tA20E=250.0, tA210=3)) == pytest.approx(125 / 200)
    for data in (photo(), photo(t920A=5.0), photo(tA405=0), photo(tA405=60000)):
        assert focal(data) is None
    # What is read in a process of its own tells it, too; damage within keeps no photo from use.
    assert focal(photo("AVIF", tA405=28)) == pytest.approx(28 / 43.27)
    damaged = photo(tA405=28).replace(b"\x87\x69", b"\x87\x68")
    assert focal(damaged) is None


def taken(ratio: float, focal: float, turn: float, tilt: float, roll: float) -> np.ndarray:
    """The corners of a rectangle, ``ratio`` by 1, in a photo."""
    corners = np.array([[-ratio, 1, 0], [ratio, 1, 0], [ratio, -1, 0], [-ratio, -1, 0]]) / 2

    def about(axis: int, angle: float) -> np.ndarray:
        a, b = (k for k in range(3) if k != axis)
        matrix = np.eye(3)
        matrix[a, a] = matrix[b, b] = math.cos(angle)
        matrix[a, b], matrix[b, a] = -math.sin(angle), math.sin(angle)
        return matrix

    at = corners @ (about(2, roll) @ about(0, tilt) @ about(1, turn)).T
    at += (0.1, -0.05, 2.0 * max(ratio, 1.0))
    long = math.hypot(*SIZE)
    # Up in the world is up in the photo.
    return at[:, :2] * (1, -1) / at[:, 2:] * focal * long + np.array(SIZE) / 2


def rectangle(corners: np.ndarray) -> Rectangle:
    a, b, c, d = ((float(x), float(y)) for x, y in corners)
    return Rectangle((a, b, c, d), (1.0, 1.0))


angles = st.floats(-0.7, 0.7)
askew = st.floats(0.21, 0.7) | st.floats(-0.7, -0.21)


@settings(deadline=None)
@given(st.floats(0.3, 3.0), st.floats(0.4, 2.0), angles, angles, st.floats(-0.3, 0.3))
def test_the_ratio_is_that_of_the_rectangle(
    ratio: float, focal: float, turn: float, tilt: float, roll: float
) -> None:
    seen = rectangle(taken(ratio, focal, turn, tilt, roll))
    assert ratio_of(seen, SIZE, focal) == pytest.approx(ratio, rel=1e-6)


@settings(deadline=None)
@given(st.floats(0.3, 3.0), st.floats(0.4, 2.0), askew, askew, st.floats(-0.3, 0.3))
def test_seen_askew_its_sides_tell_the_ratio(
    ratio: float, focal: float, turn: float, tilt: float, roll: float
) -> None:
    seen = rectangle(taken(ratio, focal, turn, tilt, roll))
    by_sides = ratio_of(seen, SIZE, None)
    assert by_sides is None or by_sides == pytest.approx(ratio, rel=1e-3)


def test_without_a_lens_sides_that_do_not_come_together_tell_nothing() -> None:
    assert ratio_of(rectangle(taken(1.5, 1.0, 0.0, 0.5, 0.0)), SIZE, None) is None
    assert ratio_of(rectangle(taken(1.5, 1.0, 0.4, 0.5, 0.0)), SIZE, None) == pytest.approx(1.5)
