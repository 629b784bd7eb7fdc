"""``dimetron trace``: a picture's ink as Bézier outlines, for a script."""

from __future__ import annotations

import argparse
import math
from collections.abc import Sequence

import numpy as np

from dimetron import console
from dimetron.counting import counted
from dimetron.document.atomic import write_bytes
from dimetron.formats.drawn import DrawnPath
from dimetron.formats.writing.dxf import dxf_of
from dimetron.formats.writing.svg import svg_of
from dimetron.imaging.files import file_bytes
from dimetron.imaging.pyramid import build
from dimetron.imaging.read import decode
from dimetron.outlines.path import mapped
from dimetron.outlines.trace import Traced, trace

ENDINGS = (".svg", ".dxf")


class TraceFault(ValueError):
    """What was asked for has no meaning; the message says what to do."""


def run(given: argparse.Namespace) -> int:
    """Trace and write. Raises TraceFault, OutlineError, and what reading and writing raise."""
    ending = given.out.suffix.lower()
    if ending not in ENDINGS:
        raise TraceFault(f"{given.out}: choose a name ending in {' or '.join(ENDINGS)}")
    for name, value in (("--miss", given.miss), ("--mm-per-px", given.mm_per_px)):
        if value is not None and not (math.isfinite(value) and value > 0):
            raise TraceFault(f"{name} must be more than nothing; it is {value:g}")
    picture = decode(file_bytes(given.picture), given.picture.name)
    console.progress(f"Tracing {given.picture.name}…")
    medium = build(picture.image).medium
    found = trace(picture.image, medium, given.line, given.miss)
    scale = given.mm_per_px or 1.0
    unit = "mm" if given.mm_per_px else ""
    if ending == ".svg":
        w, h = (side * scale for side in picture.image.size)
        data = svg_of(_scaled(found, scale, 1.0), (0.0, 0.0, w, h), unit, scale)
    else:
        data = dxf_of(_scaled(found, scale, -1.0), unit)
    write_bytes(given.out, data)
    _print(found, given.json)
    return 0


def _scaled(found: Sequence[Traced], scale: float, up: float) -> list[DrawnPath]:
    """In the file's unit; up: -1 turns y upward, about the picture's top-left corner."""
    matrix = np.diag([scale, up * scale])
    return [
        DrawnPath("", mapped(t.path, matrix), "lines" if t.area is None else f"area {t.area + 1}")
        for t in found
    ]


def _print(found: Sequence[Traced], as_json: bool) -> None:
    told = [
        {
            "closed": t.path.closed,
            "points": len(t.path),
            "miss_px": {"mean": round(t.mean, 4), "max": round(t.most, 4)},
        }
        for t in found
    ]
    if as_json:
        console.say_json({"outlines": told})
        return
    points = sum(len(t.path) for t in found)
    most = max(t.most for t in found)
    what = counted(len(found), "outline", "outlines")
    console.say(f"{what}, {points} points, at most {most:.2f} px off the ink")
