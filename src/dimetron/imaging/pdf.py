"""Pages of a PDF as pictures, by PDFium."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from PIL import Image

from dimetron.imaging.errors import PictureError

STANDARD_DPI = 300.0
_POINTS_PER_INCH = 72.0
#: PDFium keeps one state for the whole process.
_ONE_AT_A_TIME = threading.Lock()


def is_pdf(data: bytes) -> bool:
    """Whether a file begins as a PDF does."""
    return b"%PDF-" in data[:1024]


def page_count(data: bytes, name: str) -> int:
    """Raises PictureError."""
    with _opened(data, name) as document:
        return len(document)


def page_size_px(data: bytes, name: str, page: int, dpi: float) -> tuple[int, int]:
    """(width, height) of a page at a resolution. Raises PictureError."""
    with _page(data, name, page) as found:
        w, h = found.get_size()
    return max(1, round(w * dpi / _POINTS_PER_INCH)), max(1, round(h * dpi / _POINTS_PER_INCH))


def rendered(data: bytes, name: str, page: int, dpi: float) -> Image.Image:
    """A page as an RGB picture. Raises PictureError."""
    with _page(data, name, page) as found:
        bitmap = found.render(scale=dpi / _POINTS_PER_INCH)
        # A copy: the bitmap's memory goes with the document.
        picture: Image.Image = bitmap.to_pil().convert("RGB").copy()
        return picture


@contextmanager
def _page(data: bytes, name: str, page: int) -> Iterator[Any]:
    with _opened(data, name) as document:
        if not 0 <= page < len(document):
            raise PictureError(f"{name} has {len(document)} pages; there is no page {page + 1}.")
        yield document[page]


@contextmanager
def _opened(data: bytes, name: str) -> Iterator[Any]:
    import pypdfium2  # a large library that only PDF files need

    with _ONE_AT_A_TIME:
        try:
            document = pypdfium2.PdfDocument(data)
            if len(document) == 0:
                raise PictureError(f"{name} has no pages; get the file again.")
        except pypdfium2.PdfiumError as error:
            if "assword" in str(error):
                raise PictureError(
                    f"{name} is locked with a password; save it without one and bring that."
                ) from error
            raise PictureError(f"{name} is damaged; get the file again.") from error
        try:
            yield document
        except pypdfium2.PdfiumError as error:
            raise PictureError(f"A page of {name} is damaged and cannot be shown.") from error
        finally:
            document.close()
