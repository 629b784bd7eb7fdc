"""Files that broke a reader, or would stop the machine: a sentence each, and soon."""

from __future__ import annotations

import io
import resource
import struct
import subprocess
import sys
import threading
import time
import zlib

import numpy as np
import pytest
from PIL import Image

from dimetron import apart
from dimetron.imaging import errors, memory
from dimetron.imaging.apart import ask
from dimetron.imaging.errors import PictureError, Stopped
from dimetron.imaging.page import Page
from dimetron.imaging.read import probe, read

ENDLESS = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="100" height="100"><filter id="f" x="0" y="0" '
    b'width="1" height="1"><feTurbulence baseFrequency="0.01" numOctaves="9999"/></filter>'
    b'<rect width="100" height="100" filter="url(#f)"/></svg>'
)


def tiff(*pages: Image.Image, **how: object) -> bytes:
    out = io.BytesIO()
    pages[0].save(out, "TIFF", save_all=True, append_images=pages[1:], **how)
    return out.getvalue()


def grey(shade: int) -> Image.Image:
    return Image.new("L", (40, 30), shade)


@pytest.mark.parametrize("mode", ["L", "RGB", "1", "I;16", "F"])
@pytest.mark.parametrize("how", [{}, {"compression": "tiff_lzw"}])
def test_every_page_of_a_tiff_is_read(mode: str, how: dict[str, object]) -> None:
    plain = [grey(0), grey(255)]
    pages = [
        Image.fromarray(np.asarray(p).astype(np.uint16) * 257)
        if mode == "I;16"
        else Image.fromarray(np.asarray(p).astype(np.float32))
        if mode == "F"
        else p.convert(mode)
        for p in plain
    ]
    data = tiff(*pages, **how)
    info, first = read(data, "two.tif")
    assert (info.pages, info.size_px, info.extension) == (2, (40, 30), "tif")
    if mode not in ("F", "I;16"):
        assert first.pixels.max() == 0
        assert read(data, "two.tif", Page(1))[1].pixels.min() == 255
    assert probe(data, "two.tif", Page(1)).size_px == (40, 30)
    with pytest.raises(PictureError, match="no page 3"):
        read(data, "two.tif", Page(2))


def test_a_tiff_damaged_in_a_later_page_shows_its_first(capfd: pytest.CaptureFixture[str]) -> None:
    data = bytearray(tiff(grey(9), grey(99)))
    second = struct.unpack_from("<I", data, 4)[0]
    count = struct.unpack_from("<H", data, second)[0]
    (after,) = struct.unpack_from("<I", data, second + 2 + 12 * count)
    data[after : after + 60] = b"\xff" * 60
    info, picture = read(bytes(data), "half.tif")
    assert info.size_px == (40, 30) and picture.pixels.max() == 9
    with pytest.raises(PictureError, match="half"):
        read(bytes(data), "half.tif", Page(1))
    cut = tiff(grey(9).convert("1"), compression="group4")
    with pytest.raises(PictureError, match=r"a\.tif"):
        read(cut[: len(cut) // 3], "a.tif")
    assert capfd.readouterr().err == "", "a library wrote to standard error"


@pytest.mark.parametrize("levels", [250, 3_000, 60_000])
def test_nested_drawings_are_refused_and_end_nothing(levels: int) -> None:
    nested = b"<g>" * levels + b"</g>" * levels
    data = b'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9">' + nested + b"</svg>"
    with pytest.raises(PictureError, match="nested more than 200 deep"):
        read(data, "deep.svg")


def test_a_drawing_without_end_is_stopped_when_nobody_wants_it() -> None:
    begin = time.monotonic()
    with pytest.raises(Stopped):
        read(ENDLESS, "endless.svg", stop=lambda: time.monotonic() > begin + 0.5)
    assert time.monotonic() - begin < 10


def test_a_drawing_without_end_ends_by_itself(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(ask, "MOST_S", 1.0)
    with pytest.raises(PictureError, match="more than 1 seconds to draw"):
        read(ENDLESS, "endless.svg")


def test_a_machine_that_can_begin_no_process_is_told(monkeypatch: pytest.MonkeyPatch) -> None:
    def refused(*_: object, **__: object) -> None:
        raise OSError(12, "Cannot allocate memory")

    monkeypatch.setattr(apart.subprocess, "Popen", refused)
    with pytest.raises(PictureError, match="cannot be read just now"):
        read(ENDLESS, "endless.svg")


def test_the_interpreter_goes_on_while_a_drawing_is_drawn() -> None:
    beats = 0
    stop = threading.Event()

    def draw() -> None:
        with pytest.raises(Stopped):
            read(ENDLESS, "endless.svg", stop=stop.is_set)

    worker = threading.Thread(target=draw)
    worker.start()
    ends = time.monotonic() + 1.0
    while time.monotonic() < ends:
        time.sleep(0.005)
        beats += 1
    stop.set()
    worker.join()
    assert beats > 60


def test_a_page_beyond_all_sizes_is_refused() -> None:
    huge = (
        b"%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj\n"
        b"2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj\n"
        b"3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 14400 14400]>>endobj\n"
        b"trailer<</Root 1 0 R>>\n%%EOF"
    )
    with pytest.raises(PictureError, match="lower resolution"):
        read(huge, "huge.pdf")


def deep_png(side: int) -> bytes:
    """Black, of 16 bits a pixel: small as a file, large in memory."""
    head = struct.pack(">IIBBBBB", side, side, 16, 0, 0, 0, 0)
    rows = zlib.compress(bytes((1 + 2 * side) * side), 9)

    def chunk(kind: bytes, body: bytes) -> bytes:
        return (
            struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))
        )

    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", rows) + chunk(b"IEND", b"")


def test_a_deep_picture_takes_little_more_than_its_own_memory() -> None:
    script = (
        "import resource, sys\n"
        "from dimetron.imaging.read import read\n"
        "data = sys.stdin.buffer.read()\n"
        "read(b'', 'x') if not data else None\n"
        "before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss\n"
        "size = read(data, 'deep.png')[1].size_px\n"
        "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before)\n"
    )
    side = 5000
    done = subprocess.run(
        [sys.executable, "-c", script], input=deep_png(side), capture_output=True, check=True
    )
    assert int(done.stdout) * 1024 < 6 * side * side


def test_what_needs_more_memory_than_there_is_is_refused_before_it_is_decoded(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(memory, "free", lambda: 100e6)
    with pytest.raises(PictureError, match=r"deep\.png needs 0\.2 GB of memory"):
        read(deep_png(5000), "deep.png")
    assert read(deep_png(50), "small.png")[1].size_px == (50, 50)


def test_memory_is_counted_by_machine_group_and_own_limit(monkeypatch: pytest.MonkeyPatch) -> None:
    assert memory.free() > 0
    assert memory.there_is(1 << 20)
    assert not memory.there_is(1 << 50)
    soft, hard = resource.getrlimit(resource.RLIMIT_AS)
    monkeypatch.setattr(resource, "getrlimit", lambda _: (1 << 34, hard))
    assert memory.free() < 1 << 34
    assert soft is not None


def test_numbers_that_are_none_in_a_picture_are_black() -> None:
    values = np.full((30, 40), np.nan, np.float32)
    values[:, 20:] = np.inf
    values[0, :2] = (3.0, 5.0)
    pixels = read(tiff(Image.fromarray(values)), "odd.tif")[1].pixels[..., 0]
    assert (pixels[0, 0], pixels[0, 1]) == (0, 255)
    assert pixels[1:, :20].max() == 0


def test_the_size_is_told_with_the_limit() -> None:
    with pytest.raises(PictureError, match="20000 × 20000"):
        errors.check_size((30_000, 20_000), "a.png", "reduce it", 1)
    with pytest.raises(PictureError, match="no pixels"):
        errors.check_size((0, 5), "a.png", "reduce it", 1)
