"""PDF pages, TIFF pages and SVG: resolution, pages, and what must be refused."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image

from dimetron.imaging.errors import PictureError
from dimetron.imaging.page import Page
from dimetron.imaging.read import decode, probe, read

SVG = (
    '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" '
    'width="100mm" height="50mm" viewBox="0 0 100 50">{}'
    '<rect x="10" y="10" width="80" height="30" fill="none" stroke="black" stroke-width="1"/></svg>'
)


def pdf(pages: int = 1) -> bytes:
    out = io.BytesIO()
    sheets = [Image.new("RGB", (200, 100), (i * 20 % 255, 200, 200)) for i in range(pages)]
    sheets[0].save(out, "PDF", save_all=True, append_images=sheets[1:], resolution=100.0)
    return out.getvalue()


def test_a_pdf_page_has_the_size_of_its_paper() -> None:
    info = probe(pdf(3), "three.pdf", Page(1, 200))
    assert (info.format, info.pages, info.size_px) == ("PDF", 3, (400, 200))
    assert info.mm_per_px == pytest.approx(25.4 / 200)
    assert decode(pdf(3), "three.pdf", Page(2, 50)).size_px == (100, 50)


def test_five_hundred_pages_are_no_trouble() -> None:
    data = pdf(500)
    assert probe(data, "long.pdf").pages == 500
    assert read(data, "long.pdf", Page(499, 72))[1].size_px == (144, 72)
    with pytest.raises(PictureError, match="500 pages"):
        decode(data, "long.pdf", Page(500))


def test_damaged_and_locked_pdfs_say_so() -> None:
    with pytest.raises(PictureError, match="damaged"):
        probe(b"%PDF-1.7\n" + b"x" * 200, "broken.pdf")
    locked = (
        b"%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj\n"
        b"2 0 obj<</Type/Pages/Kids[]/Count 0>>endobj\n"
        b"3 0 obj<</Filter/Standard/V 1/R 2/P -4/O<" + b"41" * 32 + b">/U<" + b"42" * 32 + b">>>"
        b"endobj\ntrailer<</Root 1 0 R/Encrypt 3 0 R/ID[<61><61>]>>\n%%EOF"
    )
    with pytest.raises(PictureError, match="password"):
        probe(locked, "locked.pdf")


def test_too_fine_a_resolution_is_refused_before_drawing() -> None:
    with pytest.raises(PictureError, match="lower resolution"):
        decode(pdf(), "fine.pdf", Page(0, 90_000))


def test_tiff_pages_are_chosen() -> None:
    out = io.BytesIO()
    pages = [Image.new("L", (30 + i, 20), 40 * i) for i in range(4)]
    pages[0].save(out, "TIFF", save_all=True, append_images=pages[1:])
    info, picture = read(out.getvalue(), "four.tif", Page(2))
    assert (info.pages, picture.size_px) == (4, (32, 20))
    with pytest.raises(PictureError, match="no page 9"):
        decode(out.getvalue(), "four.tif", Page(8))


def test_svg_is_drawn_at_any_resolution() -> None:
    data = SVG.format("").encode()
    info, picture = read(data, "a.svg", Page(0, 254))
    assert info.size_px == picture.size_px == (1000, 500)
    assert info.mm_per_px == pytest.approx(0.1)
    grey = np.asarray(picture.image.convert("L"))
    assert grey[100, 500] < 120
    assert grey[250, 500] == 255


def test_an_svg_without_real_size_is_drawn_large_and_has_no_scale() -> None:
    root = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 4 2">'
    data = root + b'<rect width="4" height="1"/></svg>'
    info, _ = read(data, "free.svg")
    assert (info.size_px, info.mm_per_px) == ((2400, 1200), None)


@pytest.mark.parametrize(
    "inside",
    [
        "<script>alert(1)</script>",
        '<image xlink:href="http://192.0.2.1/spy.png" width="9" height="9"/>',
        '<image href="file:///etc/hostname" width="9" height="9"/>',
        '<use href="other.svg#a"/>',
        '<style>@import url("http://192.0.2.1/a.css"); rect {fill: none}</style>',
        '<rect width="3" height="3" fill="url(http://192.0.2.1/a.svg#g)" onload="go()"/>',
    ],
)
def test_svg_that_reaches_out_is_drawn_without_it(inside: str) -> None:
    _, picture = read(SVG.format(inside).encode(), "sly.svg", Page(0, 96))
    assert any("left out" in note for note in picture.notes)
    assert np.asarray(picture.image.convert("L")).min() < 128


def test_svg_entities_are_refused() -> None:
    bomb = '<!DOCTYPE svg [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;">]>' + SVG.format(
        "<text>&b;</text>"
    )
    with pytest.raises(PictureError, match="entities"):
        probe(bomb.encode(), "bomb.svg")


@pytest.mark.parametrize("data", [b"<svg", b"<svg xmlns='http://www.w3.org/2000/svg'></svg>"])
def test_broken_svg_says_so(data: bytes) -> None:
    with pytest.raises(PictureError):
        probe(data, "broken.svg")
