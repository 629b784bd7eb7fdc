"""Outlines as SVG: a path each, a group a layer.

Format: W3C, Scalable Vector Graphics (SVG) 1.1.
"""

from __future__ import annotations

from collections.abc import Sequence
from xml.sax.saxutils import escape, quoteattr

import numpy as np

from dimetron.formats.drawn import DrawnPath, layers
from dimetron.outlines.path import Path

_INK = "#22313B"
#: SVG knows no metres and feet: such a file tells no unit.
_UNITS = {"m": "", "ft": ""}
#: Digits after the point: a hundred thousandth of a millimetre or pixel.
_DIGITS = 5


def svg_of(
    paths: Sequence[DrawnPath],
    box: tuple[float, float, float, float],
    unit: str = "",
    stroke: float = 1.0,
) -> bytes:
    """An SVG of paths whose y runs down. box: left, top, width and height of what is shown, in the
    paths' own units, each of which is one ``unit`` ("mm", ...; none: a pixel)."""
    left, top, width, height = (_number(v) for v in box)
    of = _UNITS.get(unit, unit)
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" version="1.1" width="{width}{of}" '
        f'height="{height}{of}" viewBox="{left} {top} {width} {height}">',
    ]
    style = f'fill="none" stroke="{_INK}" stroke-width="{_number(stroke)}"'
    for number, (layer, members) in enumerate(layers(paths).items()):
        name = f" id={quoteattr(f'layer{number + 1}')}" if layer else ""
        lines.append(f"<g{name} {style}>" + (f"<title>{escape(layer)}</title>" if layer else ""))
        for drawn in members:
            title = f"<title>{escape(drawn.name)}</title>" if drawn.name else ""
            lines.append(f'<path d="{_data(drawn.path)}">{title}</path>')
        lines.append("</g>")
    lines.append("</svg>\n")
    return "\n".join(lines).encode()


def _number(value: float) -> str:
    text = f"{value:.{_DIGITS}f}".rstrip("0").rstrip(".")
    return "0" if text == "-0" else text


def _pair(place: np.ndarray) -> str:
    return f"{_number(float(place[0]))},{_number(float(place[1]))}"


def _data(path: Path) -> str:
    words = [f"M{_pair(path.points[0])}"]
    words += [f"C{_pair(p[1])} {_pair(p[2])} {_pair(p[3])}" for p in path.pieces]
    return " ".join(words) + (" Z" if path.closed else "")
