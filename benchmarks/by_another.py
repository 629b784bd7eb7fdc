"""Views of objects drawn by another hand than the demo's: other sizes, other pens."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PIL import Image

from dimetron.demo.lines import visible_lines
from dimetron.demo.pencil import Scan, drawn
from dimetron.geometry.views import View
from dimetron.mesh.arrays import Floats
from dimetron.mesh.mesh import Mesh

#: The larger extent is so many pixels; pens by turns.
_EXTENT_PX, _PENS = 900, (2.2, 3.4, 5.0)


def by_another(
    mesh: Mesh, loops: Sequence[Floats], view: View, number: int
) -> tuple[Image.Image, Scan, float]:
    """The picture of a view whose outline is loops, how it was made, and the larger extent."""
    points = np.concatenate(loops)
    low, high = points.min(axis=0), points.max(axis=0)
    extent = float((high - low).max())
    mm = extent / _EXTENT_PX
    w, h = (int(s / mm) + 160 for s in high - low)
    origin = 80 - low[0] / mm, h - 80 + low[1] / mm
    pen = _PENS[number % len(_PENS)]
    scan = Scan(view, "x.png", (w, h), origin, mm, line_px=pen, seed=number)
    return drawn(scan, visible_lines(mesh, view)), scan, extent
