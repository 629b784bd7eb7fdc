from __future__ import annotations

import io
import struct
import zlib
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageCms

from dimetron.imaging.errors import PictureError
from dimetron.imaging.pyramid import build
from dimetron.imaging.read import decode, probe


def encoded(image: Image.Image, kind: str, **options: object) -> bytes:
    out = io.BytesIO()
    image.save(out, kind, **options)
    return out.getvalue()


def ramp(mode: str = "RGB", size: tuple[int, int] = (40, 30)) -> Image.Image:
    h = np.linspace(0, 255, size[0], dtype=np.uint8)
    grey = Image.fromarray(np.tile(h, (size[1], 1)), "L")
    return grey.convert(mode)


def psd(image: Image.Image) -> bytes:
    """A PSD without layers: its merged picture, plane by plane."""
    w, h = image.size
    head = b"8BPS" + struct.pack(">H6xHIIHH", 1, 3, h, w, 8, 3)
    planes = np.asarray(image.convert("RGB")).transpose(2, 0, 1).tobytes()
    return head + bytes(12) + b"\0\0" + planes


def png_header(w: int, h: int) -> bytes:
    """A PNG that claims a size and holds next to nothing."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        body = kind + data
        return struct.pack(">I", len(data)) + body + struct.pack(">I", zlib.crc32(body))

    head = struct.pack(">IIBBBBB", w, h, 8, 2, 0, 0, 0)
    parts = chunk(b"IHDR", head), chunk(b"IDAT", zlib.compress(b"")), chunk(b"IEND", b"")
    return b"\x89PNG\r\n\x1a\n" + b"".join(parts)


KINDS = {
    "AVIF": ("x.avif", {"quality": 95}, 12), "JPEG2000": ("x.jp2", {}, 0),
    "TGA": ("X.TGA", {}, 0), "PPM": ("x.pnm", {}, 0), "QOI": ("x.qoi", {}, 0),
    "ICO": ("x.ico", {"sizes": [(40, 30)]}, 0), "PSD": ("x.psd", {}, 0),
}  # fmt: skip


@pytest.mark.parametrize("kind", KINDS)
def test_kinds_that_other_programs_write_are_read(kind: str) -> None:
    name, options, off = KINDS[kind]
    image = ramp()
    data = psd(image) if kind == "PSD" else encoded(image, kind, **options)
    info = probe(data, name)
    assert (info.format, info.size_px) == (kind, (40, 30))
    read_back = decode(data, name).pixels[..., :3].astype(int)
    assert np.abs(read_back - np.asarray(image)).max() <= off
    with pytest.raises(PictureError, match=f"{name} is"):
        decode(data[: len(data) // 2], name)


def test_a_picture_as_phones_save_them_is_read() -> None:
    data = (Path(__file__).parent / "samples" / "phone.heic").read_bytes()
    info = probe(data, "phone.heic")
    assert (info.format, info.extension, info.size_px) == ("HEIF", "heic", (96, 64))
    pixels = decode(data, "phone.heic").pixels.astype(int)
    for at, colour in (((5, 50), (240, 236, 228)), ((20, 20), (200, 40, 30))):
        assert np.abs(pixels[at] - colour).max() <= 8
    for damaged in (data[: len(data) // 2], data[:24], data[:60] + bytes(400) + data[460:]):
        with pytest.raises(PictureError, match=r"phone\.heic is"):
            decode(damaged, "phone.heic")


def test_an_icon_that_holds_a_bomb_harms_nobody() -> None:
    """It says 16 × 16 and holds a picture of two thousand million pixels."""
    bomb = png_header(60000, 40000)
    entry = struct.pack("<BBBBHHII", 16, 16, 0, 0, 1, 32, len(bomb), 22)
    with pytest.raises(PictureError):
        decode(struct.pack("<HHH", 0, 1, 1) + entry + bomb, "x.ico")


def test_what_is_called_tga_and_is_none_is_refused() -> None:
    noise = np.random.default_rng(4).integers(0, 255, 6000, dtype=np.uint8).tobytes()
    with pytest.raises(PictureError, match="is not a picture Dimetron can read"):
        decode(noise, "x.tga")
    # By its bytes alone it is not told.
    with pytest.raises(PictureError, match="is not a picture Dimetron can read"):
        decode(encoded(ramp(), "TGA"), "picture")


@pytest.mark.parametrize(
    ("mode", "kind", "channels"),
    [
        ("L", "PNG", 1), ("RGB", "PNG", 3), ("RGBA", "PNG", 4), ("LA", "PNG", 4), ("P", "PNG", 3),
        ("1", "PNG", 1), ("I;16", "PNG", 1), ("CMYK", "JPEG", 3), ("L", "JPEG", 1),
        ("RGB", "TIFF", 3), ("F", "TIFF", 1), ("RGB", "BMP", 3), ("RGB", "WEBP", 3),
    ],
)  # fmt: skip
def test_every_mode_becomes_eight_bit(mode: str, kind: str, channels: int) -> None:
    image = ramp("L").convert("I").point(lambda v: v * 257) if mode == "I;16" else ramp(mode)
    if mode == "I;16":
        image = Image.fromarray(np.asarray(image).astype(np.uint16))
    picture = decode(encoded(image, kind), "ramp")
    assert picture.pixels.shape == (30, 40, channels)
    assert picture.pixels.dtype == np.uint8
    # The ramp is still a ramp, from dark to light.
    luma = picture.pixels[15, :, :3].mean(axis=1)
    assert luma[0] < 20
    assert luma[-1] > 235
    assert not picture.pixels.flags.writeable


def test_palette_with_clear_colour_gets_alpha() -> None:
    image = ramp("RGB").convert("P")
    picture = decode(encoded(image, "PNG", transparency=0), "clear")
    assert picture.pixels.shape[2] == 4
    assert picture.pixels[..., 3].min() == 0


def test_exif_orientation_and_dpi_are_honoured() -> None:
    exif = Image.Exif()
    exif[0x0112] = 6  # lies on its right side
    data = encoded(ramp(), "JPEG", exif=exif, dpi=(300, 300), quality=95)
    info = probe(data, "turned.jpg")
    assert info.size_px == (30, 40)
    assert info.mm_per_px == pytest.approx(25.4 / 300)
    pixels = decode(data, "turned.jpg").pixels
    assert pixels.shape[:2] == (40, 30)
    assert pixels[0].mean() < 20 < 235 < pixels[-1].mean()


def test_a_screen_resolution_says_nothing_about_size() -> None:
    assert probe(encoded(ramp(), "PNG", dpi=(72, 72)), "a").mm_per_px is None
    assert probe(encoded(ramp(), "PNG"), "a").mm_per_px is None


def test_a_profile_is_used_and_a_wrong_one_is_told() -> None:
    srgb = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    plain = decode(encoded(ramp(), "PNG"), "a").pixels
    managed = decode(encoded(ramp(), "PNG", icc_profile=srgb), "a")
    assert np.abs(managed.pixels.astype(int) - plain).max() <= 2
    lab = ImageCms.ImageCmsProfile(ImageCms.createProfile("LAB")).tobytes()
    for wrong in (lab, b"not a profile"):
        odd = decode(encoded(ramp(), "PNG", icc_profile=wrong), "a")
        assert np.array_equal(odd.pixels, plain)
        assert "profile" in odd.notes[0]


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "empty"),
        (b"hello, I am a letter", "not a picture"),
        (encoded(ramp(size=(400, 300)), "PNG")[:300], "damaged"),
        (encoded(ramp(size=(400, 300)), "JPEG")[:1200], "damaged"),
        (png_header(60000, 60000), "60000 × 60000"),
        (b"\x89PNG\r\n\x1a\n" + b"\0" * 50, "damaged|not a picture"),
    ],
)
def test_bad_pictures_get_one_clear_sentence(data: bytes, words: str) -> None:
    with pytest.raises(PictureError, match=words) as caught:
        decode(data, "scan.png")
    assert "scan.png" in str(caught.value)
    assert "\n" not in str(caught.value)


def test_pyramid_halves_and_keeps_the_mean() -> None:
    rng = np.random.default_rng(1)
    pixels = rng.integers(0, 256, (1001, 777, 3), dtype=np.uint8)
    pyramid = build(Image.fromarray(pixels))
    assert pyramid.size_px == (777, 1001)
    for finer, coarser in zip(pyramid.levels, pyramid.levels[1:], strict=False):
        assert coarser.size == ((finer.width + 1) // 2, (finer.height + 1) // 2)
    block = pixels[10:12, 20:22].astype(int).mean(axis=(0, 1))
    assert np.abs(pyramid.part(1, 10, 5, 11, 6)[0, 0] - block).max() <= 0.51
    # The last column stands alone in its block.
    alone = pixels[10:12, 776].astype(int).mean(axis=0)
    assert np.abs(pyramid.part(1, 388, 5, 389, 6)[0, 0] - alone).max() <= 0.51
    assert max(pyramid.levels[-1].size) <= 160


@pytest.mark.parametrize("mode", ["L", "RGB", "RGBA"])
def test_parts_of_a_level_repeat_the_edge(mode: str) -> None:
    pyramid = build(ramp(mode))
    part = pyramid.part(0, -2, -3, 43, 33)
    whole = np.asarray(ramp(mode)).reshape(30, 40, -1)
    assert part.shape == (36, 45, whole.shape[2])
    assert np.array_equal(part[3:33, 2:42], whole)
    assert np.array_equal(part[0, 0], whole[0, 0])
    assert np.array_equal(part[-1, -1], whole[-1, -1])
