"""Pictures that go along with an export."""

from __future__ import annotations

import io

from PIL import Image

from dimetron.imaging.read import Pixels


def image(pixels: Pixels) -> Image.Image:
    """A Pillow image of (h, w, c) pixels, c = 1, 3 or 4."""
    return Image.fromarray(pixels[..., 0] if pixels.shape[2] == 1 else pixels)


def png(pixels: Pixels) -> bytes:
    """Pixels (h, w, c) as a PNG file."""
    out = io.BytesIO()
    image(pixels).save(out, "PNG", compress_level=3)
    return out.getvalue()
