"""The process that draws: a request on standard input, the answer on standard output, the end."""

from __future__ import annotations

import json
import sys
import threading
from typing import Any

from PIL import Image

from dimetron import apart
from dimetron.border import border
from dimetron.imaging import pdf, svg
from dimetron.imaging.errors import PictureError, check_size
from dimetron.imaging.page import Page

#: What it may take besides the picture itself.
_BASE_BYTES, _BYTES_PER_PX = 2 << 30, 12
_MOST_CPU_S = 120
#: Drawings may be nested as deep as ``svg`` allows; each level takes stack in the library.
_STACK_BYTES = 256 << 20


def main() -> None:
    """Draw what is asked for, within limits."""
    apart.begin(_MOST_CPU_S, _BASE_BYTES)
    head, _, data = sys.stdin.buffer.read().partition(b"\n")
    threading.stack_size(_STACK_BYTES)
    worker = threading.Thread(target=_answer, args=(json.loads(head), data))
    worker.start()
    worker.join()


def _allow(pixels: int) -> None:
    apart.allow(_BASE_BYTES + _BYTES_PER_PX * pixels)


def _answer(asked: dict[str, Any], data: bytes) -> None:
    name = asked["name"]
    picture: Image.Image | None = None
    try:
        with border(PictureError, name, "is damaged and cannot be drawn; get the file again."):
            reads = _pdf if pdf.is_pdf(data) else _svg if svg.is_svg(data) else _coded
            told, picture = reads(asked, data)
    except PictureError as error:
        told = {"error": str(error)}
    out = sys.stdout.buffer
    out.write(json.dumps({**told, "drawn": picture and picture.mode}).encode() + b"\n")
    if picture is not None:
        out.write(picture.tobytes())
    out.flush()


def _pdf(asked: dict[str, Any], data: bytes) -> tuple[dict[str, Any], Image.Image | None]:
    name, number, dpi = asked["name"], asked["page"], asked["dpi"] or pdf.STANDARD_DPI
    size = pdf.page_size_px(data, name, number, dpi)
    pages = pdf.page_count(data, name)
    told = _told("PDF", "pdf", size, 25.4 / dpi, pages)
    _check(size, name)
    picture = pdf.rendered(data, name, number, dpi) if asked["draw"] else None
    # What is drawn may be rounded otherwise than was reckoned.
    return {**told, "size_px": picture.size if picture else size}, picture


def _svg(asked: dict[str, Any], data: bytes) -> tuple[dict[str, Any], Image.Image | None]:
    name, dpi = asked["name"], asked["dpi"]
    vector = svg.cleaned(data, name)
    size = svg.size_px(vector, dpi)
    notes = ("scripts and links to other files in it were left out",) * vector.removed
    _check(size, name)
    picture = svg.rendered(vector, name, dpi) if asked["draw"] else None
    return _told("SVG", "svg", size, svg.mm_per_px(vector, dpi), 1, notes), picture


def _coded(asked: dict[str, Any], data: bytes) -> tuple[dict[str, Any], Image.Image | None]:
    # Loaded only here: drawings need no numbers.
    from dimetron.imaging.errors import MAX_PIXELS
    from dimetron.imaging.read import probe_pixels, read_pixels

    _allow(MAX_PIXELS)
    page = Page(asked["page"])
    if not asked["draw"]:
        info = probe_pixels(data, asked["name"], page)
        told = _told(info.format, info.extension, info.size_px, info.mm_per_px, info.pages)
        return {**told, "focal": info.focal}, None
    info, picture = read_pixels(data, asked["name"], page)
    size = picture.image.size
    told = _told(info.format, info.extension, size, info.mm_per_px, info.pages, picture.notes)
    return {**told, "focal": info.focal}, picture.image


def _told(
    kind: str,
    extension: str,
    size: tuple[int, int],
    mm_per_px: float | None,
    pages: int,
    notes: tuple[str, ...] = (),
) -> dict[str, Any]:
    return {
        "kind": kind,
        "extension": extension,
        "size_px": size,
        "mm_per_px": mm_per_px,
        "pages": pages,
        "focal": None,
        "notes": notes,
    }


def _check(size: tuple[int, int], name: str) -> None:
    check_size(size, name, "choose a lower resolution", 0)
    _allow(size[0] * size[1])
    check_size(size, name, "choose a lower resolution", _BYTES_PER_PX)


if __name__ == "__main__":
    main()
