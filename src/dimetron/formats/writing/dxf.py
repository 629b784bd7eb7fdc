"""Outlines as DXF: a spline each, on layers, by ezdxf."""

from __future__ import annotations

import io
import re
from collections.abc import Sequence

import ezdxf
import numpy as np

from dimetron.formats.drawn import DrawnPath, layers
from dimetron.outlines.path import Path

#: How DXF names units ($INSUNITS).
_UNITS = {"": 0, "in": 1, "ft": 2, "mm": 4, "cm": 5, "m": 6}
#: What a layer's name may not hold.
_NOT_IN_NAMES = re.compile(r'[<>/\\":;?*|=`\x00-\x1f]')


def dxf_of(paths: Sequence[DrawnPath], unit: str = "mm") -> bytes:
    """A DXF (R2010) of paths whose y runs up, in a unit ("" for pixels)."""
    document = ezdxf.new("R2010", units=_UNITS[unit])
    space = document.modelspace()
    for layer, members in layers(paths).items():
        name = _NOT_IN_NAMES.sub("_", layer).strip() or "0"
        if name not in document.layers:
            document.layers.add(name)
        for drawn in members:
            spline = space.add_spline(degree=3, dxfattribs={"layer": name})
            spline.control_points = _controls(drawn.path)
            spline.knots = _knots(drawn.path.piece_count)
            if drawn.path.closed:
                spline.closed = True
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def _controls(path: Path) -> list[tuple[float, float, float]]:
    """The cubics' places one after the other, where they meet once."""
    pieces = path.pieces
    flat = np.concatenate([pieces[:, :3].reshape(-1, 2), pieces[-1:, 3]])
    return [(float(x), float(y), 0.0) for x, y in flat]


def _knots(count: int) -> list[float]:
    """Each place where cubics meet is a knot of multiplicity three."""
    inner = np.repeat(np.arange(1, count), 3)
    return [0.0] * 4 + [float(v) for v in inner] + [float(count)] * 4
