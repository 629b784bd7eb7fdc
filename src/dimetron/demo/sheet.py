"""A whole drawing sheet: several views of a prop in third- or first-angle, with what stands round
them on a real sheet, scanned askew. Where everything lies is known, so splitting can be measured.

Paper coordinates are millimetres from the sheet's top-left corner, y down.
"""

from __future__ import annotations

import io
import math
from dataclasses import dataclass

import numpy as np
from PIL import Image
from scipy import ndimage

from dimetron.demo.furnishing import Pen, Stroke, Writing, furniture
from dimetron.demo.lines import hatching, visible_lines
from dimetron.demo.pencil import Wobble, on_paper
from dimetron.demo.plan import SheetPlan
from dimetron.geometry.views import Projection, View
from dimetron.mesh.arrays import Floats
from dimetron.mesh.mesh import Mesh

_SUPERSAMPLE = 2
#: (column, row) of each view round the front one, in third-angle; first-angle swaps sides.
_CELLS = {
    View.FRONT: (0, 0),
    View.RIGHT: (1, 0),
    View.LEFT: (-1, 0),
    View.TOP: (0, -1),
    View.BOTTOM: (0, 1),
    View.BACK: (2, 0),
}


@dataclass(frozen=True, slots=True)
class DrawnSheet:
    """The scan and the truth: each view's tight box round its own lines, (4, 2) pixels, in the
    order top-left, top-right, bottom-right, bottom-left."""

    picture: Image.Image
    corners: dict[View, Floats]
    mm_per_px: float


def size_px(plan: SheetPlan) -> tuple[int, int]:
    w, h = (round(side * plan.dpi / 25.4) for side in plan.paper_mm)
    return w, h


def to_px(plan: SheetPlan, mm: Floats) -> Floats:
    """Paper millimetres (..., 2) to pixels of the scan."""
    w, h = size_px(plan)
    a = math.radians(-plan.skew_deg)
    turn = np.array([[math.cos(a), math.sin(a)], [-math.sin(a), math.cos(a)]])
    centre = np.array([w, h]) / 2
    return np.asarray((np.asarray(mm) * (plan.dpi / 25.4) - centre) @ turn + centre)


def drawn_sheet(plan: SheetPlan, solid: Mesh) -> DrawnSheet:
    """Draw and scan a sheet of ``solid``, a closed triangle mesh."""
    rng = np.random.default_rng(plan.seed)
    lines = {view: visible_lines(solid, view) for view in plan.views}
    shades = {
        view: hatching(solid, view, 2.4 / plan.scale) if plan.shading else [] for view in plan.views
    }
    boxes = _boxes(plan, solid)
    strokes: list[Stroke] = []
    for view, box in boxes.items():
        strokes += _view_strokes(plan, view, box, lines[view], shades[view])
    around, writings = furniture(plan.clutter, boxes, plan.paper_mm, plan, rng)
    graphite = _drawn(plan, [*strokes, *around], writings, rng)
    half = plan.line_mm / 2
    corners = {}
    for view, (x0, y0, x1, y1) in boxes.items():
        x0, y0, x1, y1 = x0 - half, y0 - half, x1 + half, y1 + half
        corners[view] = to_px(plan, np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]]))
    return DrawnSheet(on_paper(graphite, plan.paper, rng, plan.noise), corners, 25.4 / plan.dpi)


def _boxes(plan: SheetPlan, solid: Mesh) -> dict[View, tuple[float, float, float, float]]:
    """Each view's box in paper mm: (left, top, right, bottom)."""
    size = np.asarray(solid.bounds[1] - solid.bounds[0]) * plan.scale
    cells = {}
    for view in plan.views:
        column, row = _CELLS[view]
        if plan.projection is Projection.FIRST_ANGLE and view is not View.BACK:
            column, row = -column, -row
        cells[view] = column, row
    across = {c: max(size[v.axes[0]] for v in cells if cells[v][0] == c) for c, _ in cells.values()}
    down = {r: max(size[v.axes[1]] for v in cells if cells[v][1] == r) for _, r in cells.values()}
    left = _starts(across, plan.gap_mm)
    top = _starts(down, plan.gap_mm)
    total = np.array(
        [sum(across.values()) + plan.gap_mm * (len(across) - 1),
         sum(down.values()) + plan.gap_mm * (len(down) - 1)]
    )  # fmt: skip
    room = np.array(plan.paper_mm) - plan.clutter.reserved_mm
    shift = (room - total) / 2 + plan.clutter.shift_mm
    boxes = {}
    for view, (column, row) in cells.items():
        x, y = left[column] + shift[0], top[row] + shift[1]
        boxes[view] = (
            float(x), float(y), float(x + size[view.axes[0]]), float(y + size[view.axes[1]])
        )  # fmt: skip
    return boxes


def _starts(sizes: dict[int, float], gap: float) -> dict[int, float]:
    starts, at = {}, 0.0
    for key in sorted(sizes):
        starts[key] = at
        at += sizes[key] + gap
    return starts


def _view_strokes(
    plan: SheetPlan,
    view: View,
    box: tuple[float, float, float, float],
    runs: list[Floats],
    shades: list[Floats],
) -> list[Stroke]:
    everything = np.concatenate(runs)
    low, high = everything.min(axis=0), everything.max(axis=0)

    def placed(run: Floats) -> Floats:
        p = (run - low) / (high - low)
        x = 1 - p[:, 0] if view in plan.mirrored else p[:, 0]
        return np.stack(
            [box[0] + x * (box[2] - box[0]), box[3] - p[:, 1] * (box[3] - box[1])], axis=1
        )

    strokes = [Stroke(placed(run), plan.line_mm, plan.strength) for run in runs]
    strokes += [Stroke(placed(run), plan.line_mm * 0.6, plan.shading) for run in shades]
    return strokes


def _drawn(
    plan: SheetPlan, strokes: list[Stroke], writings: list[Writing], rng: np.random.Generator
) -> Floats:
    """(h, w) graphite cover 0..1."""
    s = _SUPERSAMPLE
    w, h = size_px(plan)
    pen = Pen(Image.new("L", (w * s, h * s), 0), plan.dpi / 25.4 * s)
    wobble = Wobble((w, h), rng)
    for stroke in strokes:
        px = to_px(plan, stroke.points)
        lengths = np.hypot(*np.diff(px, axis=0).T)
        if len(px) == 2 and not stroke.filled:
            t = np.linspace(0, 1, max(2, int(lengths[0] / 8)))[:, None]
            px = px[0] * (1 - t) + px[1] * t
        pen.stroke(wobble(px) * s, stroke)
    for writing in writings:
        pen.write(to_px(plan, np.array([writing.at]))[0] * s, writing, plan.skew_deg)
    small = pen.image.reduce(s)
    return np.asarray(ndimage.gaussian_filter(np.asarray(small, np.float32) / 255, 0.55))


def sheet_file(sheet: DrawnSheet, file: str, dpi: float) -> bytes:
    """The scan as a picture file with its resolution, by the file's ending."""
    out = io.BytesIO()
    if file.endswith(".jpg"):
        sheet.picture.save(out, "JPEG", quality=90, dpi=(dpi, dpi))
    else:
        sheet.picture.save(out, "PNG", compress_level=2, dpi=(dpi, dpi))
    return out.getvalue()
