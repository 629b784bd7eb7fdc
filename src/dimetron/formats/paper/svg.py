"""Pages as SVG, a file each.

Format: W3C, Scalable Vector Graphics (SVG) 1.1.
"""

from __future__ import annotations

import base64
import io
from xml.sax.saxutils import escape

import numpy as np

from dimetron.formats.paper.pages import Page
from dimetron.formats.paper.seen import Laid, Stroke

_MM_PER_POINT = 25.4 / 72


def svg_of(page: Page) -> bytes:
    """A page: a unit is a millimetre of paper, y down."""
    width, height = page.size
    left, low, wide, high = page.window
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" '
        f'version="1.1" width="{width:g}mm" height="{height:g}mm" '
        f'viewBox="0 0 {width:g} {height:g}">',
        '<rect width="100%" height="100%" fill="#FFFFFF"/>',
        f'<clipPath id="window"><rect x="{left:g}" y="{height - low - high:g}" width="{wide:g}" '
        f'height="{high:g}"/></clipPath>',
        '<g clip-path="url(#window)" fill="none">',
        *(_picture(one, height) for one in page.pictures),
        *(_stroke(stroke, height) for stroke in page.strokes),
        '</g><g fill="none">',
        *(_stroke(stroke, height) for stroke in page.marks),
        '</g><g font-family="Barlow, sans-serif" fill="#22313B">',
        *(
            f'<text x="{word.at[0]:g}" y="{height - word.at[1]:g}" '
            f'font-size="{word.size * _MM_PER_POINT:.3f}">{escape(word.text)}</text>'
            for word in page.words
        ),
        "</g></svg>\n",
    ]
    return "\n".join(lines).encode()


def _stroke(stroke: Stroke, height: float) -> str:
    down = np.stack([stroke.points[:, 0], height - stroke.points[:, 1]], axis=1)
    points = " ".join(f"{x:.4f},{y:.4f}" for x, y in down.tolist())
    return f'<polyline points="{points}" stroke="{stroke.colour}" stroke-width="{stroke.width:g}"/>'


def _picture(one: Laid, height: float) -> str:
    out = io.BytesIO()
    one.picture.save(out, "PNG", compress_level=3)
    data = base64.b64encode(out.getvalue()).decode()
    w, h = one.picture.size
    corners = np.stack([one.corners[:, 0], height - one.corners[:, 1]], axis=1)
    a, b = (corners[1] - corners[0]) / w, (corners[2] - corners[0]) / h
    matrix = " ".join(f"{v:.9g}" for v in (*a, *b, *corners[0]))
    return (
        f'<image transform="matrix({matrix})" width="{w}" height="{h}" '
        f'preserveAspectRatio="none" xlink:href="data:image/png;base64,{data}"/>'
    )
