"""The views on a sheet as pictures of their own, upright, at the sheet's full resolution."""

from __future__ import annotations

import io

from PIL import Image

from dimetron.geometry.views import Projection
from dimetron.imaging.frame import Flattening, Straightening, crop_of, drawing_frame, sheet_frame
from dimetron.imaging.prepare import prepared
from dimetron.imaging.split.views import Split
from dimetron.imaging.tone import Tone
from dimetron.registration.onsheet.views import sheet_views


def cut_views(image: Image.Image, projection: Projection | None) -> tuple[Split, list[bytes]]:
    """Split a sheet; returns what was found and a PNG of each of its sure ``views``."""
    split = sheet_views(image, projection)
    level = Straightening(angle_deg=-split.skew.deg)
    sheet = sheet_frame(image.size, Flattening(straightening=level))
    pictures = []
    for view in split.views:
        upright = Straightening(turns=-view.turns % 4)
        frame = drawing_frame(sheet, crop_of(sheet, view.corners), upright)
        out = io.BytesIO()
        prepared(image, frame, Tone()).save(out, "PNG", compress_level=3)
        pictures.append(out.getvalue())
    return split, pictures
