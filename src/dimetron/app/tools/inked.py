"""What counts as a drawing's ink, drawn: its box, and in red the strokes that it leaves out."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

import numpy as np

from dimetron.app.tools.base import REACH_PX, BoardEvent
from dimetron.app.tools.bench import Bench
from dimetron.document.aligning import Box
from dimetron.document.model import Drawing
from dimetron.geometry.camera import OrthoCamera
from dimetron.mesh.arrays import Floats
from dimetron.render.overlays import Label, Overlay, Strokes

if TYPE_CHECKING:
    from dimetron.imaging.tighten import Inked


def box_marks(drawing: Drawing, inked: Inked) -> list[Overlay]:
    """The box of ink as it lies, dashed, and what is left out."""
    view = drawing.view
    return [
        Strokes(_frame(drawing, inked.box), "selection", 1.4, dash=4.0, only=view),
        *left_out_marks(drawing, inked),
    ]


def left_out_marks(drawing: Drawing, inked: Inked) -> list[Overlay]:
    """Strokes too faint to count, each in a frame."""
    view = drawing.view
    marks: list[Overlay] = []
    for edges in inked.left_out:
        frame = _frame(drawing, edges)
        marks.append(Strokes(frame, "warning", 1.6, only=view))
        if edges is inked.left_out[0]:
            marks.append(Label(frame[0], "left out", "warning", only=view))
    return marks


def _frame(drawing: Drawing, box: Box) -> Floats:
    """(5, 3) the corners of a box in a drawing's pixels, closed."""
    left, top, right, bottom = box
    corners = [[left, top], [right, top], [right, bottom], [left, bottom], [left, top]]
    return drawing.view.to_world(drawing.placement.to_plane(np.array(corners)))


def left_out_words(found: Iterable[tuple[Drawing, Inked | None]]) -> str:
    """Which drawings have strokes that do not count; empty if none has."""
    names = [drawing.name for drawing, inked in found if inked is not None and inked.left_out]
    if not names:
        return ""
    which = names[0] if len(names) == 1 else f"{len(names)} drawings"
    return f"Faint strokes of {which} do not count as ink; they are framed in red."


def on_ink(bench: Bench, event: BoardEvent, point: Floats) -> Floats | None:
    """The ink's own point nearest to a world point (3,), of a drawing that the pane shows, within
    reach; None where there is none."""
    if not isinstance(event.camera, OrthoCamera):
        return None
    doc, view = bench.document, event.camera.view
    at = view.to_plane(point)
    best, least = None, REACH_PX * event.camera.mm_per_px
    for drawing in doc.planes:
        if drawing.view != view or not doc.visible(drawing):
            continue
        x, y = drawing.placement.to_px(at)
        reach = least / drawing.placement.mm_per_px
        found = bench.ink_point(drawing, (float(x), float(y)), reach)
        if found is None:
            continue
        by = drawing.placement.to_plane(np.array(found.px)) - at
        if float(np.hypot(*by)) <= least:
            best, least = by, float(np.hypot(*by))
    return None if best is None else np.asarray(point + view.to_world(best))
