"""Thumbnails of picture files, made without decoding more than is needed."""

from __future__ import annotations

from pathlib import Path

from PIL import Image

from dimetron.imaging.endings import ENDINGS
from dimetron.imaging.errors import PictureError
from dimetron.imaging.files import file_bytes
from dimetron.imaging.page import Page
from dimetron.imaging.read import decode, probe

#: Files beyond this are shown by their name alone.
_MAX_BYTES = 80_000_000
_MAX_PIXELS = 60_000_000
#: PDF pages and drawings are drawn this finely for a thumbnail.
_DPI = 40.0


def pictures_in(folder: Path) -> list[Path]:
    """The picture files of a folder, by name. Raises PictureError if it cannot be read."""
    try:
        found = [p for p in folder.iterdir() if p.suffix.lower() in ENDINGS and p.is_file()]
    except OSError as error:
        reason = (error.strerror or str(error)).lower()
        raise PictureError(f"{folder} cannot be read: {reason}.") from error
    return sorted(found, key=lambda p: p.name.lower())


def thumbnail_of(path: Path, side_px: int) -> Image.Image:
    """At most ``side_px`` wide and high, L, RGB or RGBA. Raises PictureError."""
    try:
        large = path.stat().st_size > _MAX_BYTES
    except OSError as error:
        raise PictureError(f"{path.name} cannot be read.") from error
    if large:
        raise PictureError(f"{path.name} is too large for a thumbnail.")
    data = file_bytes(path)
    page = Page(0, _DPI) if path.suffix.lower() in (".pdf", ".svg") else Page()
    w, h = probe(data, path.name, page).size_px
    if w * h > _MAX_PIXELS:
        raise PictureError(f"{path.name} is too large for a thumbnail.")
    image = decode(data, path.name, page).image
    small = image.reduce(max(1, min(w, h) // (2 * side_px))) if min(w, h) > 2 * side_px else image
    small = small.copy() if small is image else small
    small.thumbnail((side_px, side_px))
    return small
