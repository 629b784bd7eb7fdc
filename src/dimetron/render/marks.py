"""Overlays as pen strokes: from world units to the pixels of one pane."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from dimetron.geometry.camera import OrthoCamera
from dimetron.mesh.arrays import Floats
from dimetron.render.ink import Pen, Sheet
from dimetron.render.meshes import TINT_STEPS
from dimetron.render.overlays import (
    Corner,
    Label,
    Legend,
    Marks,
    Overlay,
    PaneBox,
    PanePath,
    Segments,
    Strokes,
)
from dimetron.render.palette import Colour, Palette
from dimetron.render.scene import PaneScene

_LABEL_SIZE = 12
#: So much of a pane its own label takes, and what stands beside it.
_PANE_LABEL = 172.0
#: How wide the bar of a legend is, and how high each of its steps.
_BAR = (12.0, 13.0)
_PAD = (5.0, 3.0)
#: Where the words in a corner end, from the right, and begin, from the top; and how high they are.
_CORNER, _CORNER_HEIGHT = (15.0, 7.0), 19.0
_TURN = np.linspace(0, 2 * np.pi, 21)
_RIM = np.stack([np.cos(_TURN), np.sin(_TURN)], axis=1)
#: (20, 2, 2) strokes of a circle of radius one.
_CIRCLE = np.stack([_RIM[:-1], _RIM[1:]], axis=1)


def put_overlays(
    sheet: Sheet, scene: PaneScene, slot: str, overlays: Iterable[Overlay], pen: Pen
) -> None:
    """Put the overlays that this pane shows onto the sheet."""
    camera = scene.camera
    view = camera.view if isinstance(camera, OrthoCamera) else None
    for overlay in overlays:
        colour = _role(scene, overlay.role)
        if isinstance(overlay, Legend):
            if view is None:
                _legend(sheet, overlay, scene, pen)
        elif isinstance(overlay, PaneBox | PanePath):
            if overlay.slot == slot:
                _in_pane(sheet, overlay, colour)
        elif overlay.only in (None, view):
            if isinstance(overlay, Corner | Label):
                _words(sheet, scene, overlay, colour, pen)
            else:
                _lines(sheet, scene, overlay, colour)


def _in_pane(sheet: Sheet, overlay: PaneBox | PanePath, colour: Colour) -> None:
    if isinstance(overlay, PaneBox):
        _pane_box(sheet, overlay, colour)
    else:
        _pane_path(sheet, overlay, colour)


def _words(
    sheet: Sheet, scene: PaneScene, overlay: Corner | Label, colour: Colour, pen: Pen
) -> None:
    if isinstance(overlay, Corner):
        _corner(sheet, overlay, colour, scene, pen)
        return
    at = scene.camera.project(overlay.point)
    if np.isfinite(at).all():
        _label(sheet, at, overlay, colour, scene, pen)


def _lines(
    sheet: Sheet, scene: PaneScene, overlay: Strokes | Segments | Marks, colour: Colour
) -> None:
    camera = scene.camera
    if isinstance(overlay, Strokes):
        sheet.path(camera.project(overlay.points), colour, overlay.width, overlay.dash)
    elif isinstance(overlay, Segments):
        ends = camera.project(overlay.ends.reshape(-1, 3)).reshape(-1, 2, 2)
        sheet.lines(ends, colour, overlay.width)
    else:
        _marks(sheet, camera.project(overlay.points), overlay, colour)


def put_place(sheet: Sheet, point: Floats, on_drawings: Floats, palette: Palette) -> None:
    """The place pointed at in another pane (n, 2 pixels), and where it lies on drawings (m, 2)."""
    _marks(sheet, point, Marks(point, "cross", size=6.0), palette.accent)
    _marks(sheet, on_drawings, Marks(on_drawings, "ring", size=5.0), palette.accent)


def _role(scene: PaneScene, role: str) -> Colour:
    found: Colour = getattr(scene.palette, role)
    return found


def _pane_box(sheet: Sheet, box: PaneBox, colour: Colour) -> None:
    (x0, y0), (x1, y1) = box.low, box.high
    sheet.box(box.low, box.high, (*colour[:3], 0.10))
    ring = np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1], [x0, y0]], float)
    sheet.path(ring, colour, 1.0)


def _pane_path(sheet: Sheet, path: PanePath, colour: Colour) -> None:
    line = np.array(path.path, float)
    if path.closed:
        sheet.path(np.concatenate([line, line[:1]]), colour, path.width)
        return
    # Where the brush went, in circles as wide as it is.
    sheet.lines(_ring(line, path.width / 2), (*colour[:3], 0.35), 1.0)


def _marks(sheet: Sheet, at: Floats, marks: Marks, colour: Colour) -> None:
    at = at[np.isfinite(at).all(axis=1)]
    if not len(at):
        return
    r = marks.size
    if marks.kind in ("cross", "ring"):
        sheet.lines(_ring(at, r * 0.72), colour, 1.4)
    if marks.kind == "cross":
        for way in ((r + 2, 0.0), (0.0, r + 2)):
            sheet.lines(np.stack([at - way, at + way], axis=1), colour, 1.2)
    if marks.kind in ("dot", "square"):
        h = r / 2
        for x, y in at:
            sheet.box((x - h, y - h), (x + h, y + h), colour)


def _ring(at: Floats, radius: float) -> Floats:
    """Strokes (n, 2, 2) of a circle about each place."""
    return np.asarray((at[:, None, None] + _CIRCLE * radius).reshape(-1, 2, 2))


def _corner(sheet: Sheet, words: Corner, colour: Colour, scene: PaneScene, pen: Pen) -> None:
    """Text on a backing as high as the pane's own label is on its other side."""
    text = words.text
    if pen.width(text, _LABEL_SIZE, sheet.ratio) > sheet.size[0] - _PANE_LABEL:
        text = words.short
    width = pen.width(text, _LABEL_SIZE, sheet.ratio)
    x, y = sheet.size[0] - width - _CORNER[0], _CORNER[1]
    high = _CORNER_HEIGHT
    sheet.box((x - 8, y), (x + width + 8, y + high), scene.palette.label_back)
    sheet.text(text, (x, y + (high + _LABEL_SIZE) / 2 - 2), colour, _LABEL_SIZE)


def _legend(sheet: Sheet, legend: Legend, scene: PaneScene, pen: Pen) -> None:
    """A bar of the colours in the upper right corner, with what its ends mean beside it."""
    palette, high = scene.palette, _BAR[1]
    right, top = sheet.size[0] - 16.0, 46.0
    plain, count = palette.veil, 2 * TINT_STEPS + 1
    for number in range(count):
        step = (TINT_STEPS - number) / TINT_STEPS
        end = palette.selection if step > 0 else palette.warning
        mixed = [a + (b - a) * abs(step) for a, b in zip(plain[:3], end[:3], strict=True)]
        y = top + number * high
        sheet.box((right - _BAR[0], y), (right, y + high), (mixed[0], mixed[1], mixed[2], 1.0))
    colour = _role(scene, legend.role)
    for text, at in ((legend.above, 0.5), ("0", count / 2), (legend.below, count - 0.5)):
        x = right - _BAR[0] - 8 - pen.width(text, _LABEL_SIZE, sheet.ratio)
        sheet.text(text, (x, top + at * high + 4), colour, _LABEL_SIZE)


def _label(
    sheet: Sheet, at: Floats, label: Label, colour: Colour, scene: PaneScene, pen: Pen
) -> None:
    """Text on a backing, kept inside the pane."""
    width = pen.width(label.text, _LABEL_SIZE, sheet.ratio)
    w, h = sheet.size
    x = float(np.clip(at[0] + label.shift[0], 4, max(4.0, w - width - 8)))
    # What belongs to a view leaves the words at the pane's upper edge free.
    top = 16.0 if label.only is None else _CORNER[1] + _CORNER_HEIGHT + _LABEL_SIZE + 2 * _PAD[1]
    y = float(np.clip(at[1] + label.shift[1], top, max(top, h - 6)))
    sheet.box(
        (x - _PAD[0], y - _LABEL_SIZE - _PAD[1] + 1),
        (x + width + _PAD[0], y + _PAD[1] + 1),
        scene.palette.label_back,
    )
    sheet.text(label.text, (x, y), colour, _LABEL_SIZE)
