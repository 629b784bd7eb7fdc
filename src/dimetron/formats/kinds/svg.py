"""SVG: outlines as paths, a group a view; y runs down.

Format: W3C, Scalable Vector Graphics (SVG) 1.1.
"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from dimetron.formats.drawn import reach
from dimetron.formats.format import Carries, Format
from dimetron.formats.writing.svg import svg_of
from dimetron.outlines.path import mapped

if TYPE_CHECKING:
    from dimetron.formats.handover import Handover

#: Room around the outlines, and the width of their lines, as shares of the larger side.
_ROOM, _STROKE = 0.02, 0.002


def write(given: Handover, stem: str, ending: str) -> dict[str, bytes]:
    """File name to bytes."""
    down = np.diag([1.0, -1.0])
    paths = [replace(drawn, path=mapped(drawn.path, down)) for drawn in given.outlines]
    low, high = reach(paths)
    side = float((high - low).max())
    room = _ROOM * side
    left, top = low - room
    width, height = high - low + 2 * room
    box = float(left), float(top), float(width), float(height)
    return {f"{stem}.svg": svg_of(paths, box, given.unit, _STROKE * side)}


FORMAT = Format(
    (".svg",),
    "SVG (outlines)",
    "mm",
    "z",
    write=write,
    carries=frozenset({Carries.OUTLINES}),
    written=(("svg", "SVG (outlines and lines)"),),
)
