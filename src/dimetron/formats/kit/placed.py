"""Drawings as calibrated pictures, and where each is to stand."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass
from typing import Any

import numpy as np
from PIL import Image, PngImagePlugin

from dimetron.document.edits import world_corners
from dimetron.document.model import Document, Drawing
from dimetron.document.pictures import picture_of
from dimetron.formats.filenames import free_file, plain_stem
from dimetron.formats.handover import ExportError
from dimetron.geometry.units import MM_PER_INCH
from dimetron.imaging.errors import PictureError
from dimetron.mesh.arrays import Floats

#: What the table tells of each drawing, in this order.
COLUMNS = (
    *("drawing", "file", "view", "width_px", "height_px", "mm_per_px", "mm_per_px_down"),
    *("width_mm", "height_mm", "centre_x", "centre_y", "centre_z"),
    *("right_x", "right_y", "right_z", "up_x", "up_y", "up_z", "source"),
)


@dataclass(frozen=True, eq=False)
class Placed:
    """A drawing as a file, and its row of the table."""

    file: str
    data: bytes
    row: dict[str, Any]


def placed(doc: Document) -> list[Placed]:
    """All drawings that stand on their planes and are shown. Mirrored ones are turned over in their
    pictures, so that all can be placed by a centre, a size and a turn. Raises ExportError."""
    found: list[Placed] = []
    for drawing in doc.planes:
        if doc.visible(drawing):
            one = _placed(doc, drawing, {other.file for other in found})
            if one is not None:
                found.append(one)
    return found


def _placed(doc: Document, drawing: Drawing, taken: set[str]) -> Placed | None:
    try:
        picture = picture_of(doc, drawing)
    except PictureError as error:
        raise ExportError(str(error)) from error
    if picture is None:
        return None
    corners = world_corners(doc, drawing)
    if drawing.placement.mirrored:
        picture = picture.transpose(Image.Transpose.FLIP_LEFT_RIGHT)
        corners = corners[[1, 0, 3, 2]]
    file = free_file(plain_stem(drawing.name, "drawing"), ".png", taken)
    source = doc.source(doc.sheet(drawing.sheet).source)
    row = _row(drawing, file, picture.size, corners, source.name)
    return Placed(file, _png(picture, row, drawing), row)


def _row(
    drawing: Drawing, file: str, size: tuple[int, int], corners: Floats, source: str
) -> dict[str, Any]:
    """corners (4, 3): from the picture's top left clockwise."""
    across, down = corners[1] - corners[0], corners[3] - corners[0]
    width, height = float(np.linalg.norm(across)), float(np.linalg.norm(down))
    centre, right, up = corners.mean(axis=0), across / width, -down / height
    values = (
        *(drawing.name, f"drawings/{file}", drawing.view.key, *size),
        *(width / size[0], height / size[1], width, height, *centre, *right, *up, source),
    )
    return {
        name: round(value, 6) + 0.0 if isinstance(value, float) else value
        for name, value in zip(COLUMNS, map(_plain, values), strict=True)
    }


def _plain(value: Any) -> Any:
    return float(value) if isinstance(value, np.floating) else value


def _png(picture: Image.Image, row: dict[str, Any], drawing: Drawing) -> bytes:
    """With a resolution at which it prints at its true size, and where it came from."""
    info = PngImagePlugin.PngInfo()
    info.add_itxt("Title", drawing.name)
    info.add_itxt("Source", str(row["source"]).encode("utf-8", "replace").decode("utf-8"))
    out = io.BytesIO()
    dpi = MM_PER_INCH / row["mm_per_px"], MM_PER_INCH / row["mm_per_px_down"]
    picture.save(out, "PNG", dpi=dpi, pnginfo=info)
    return out.getvalue()


def as_csv(rows: list[dict[str, Any]]) -> bytes:
    """The table for a spreadsheet."""
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS)
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue().encode("utf-8", "replace")
