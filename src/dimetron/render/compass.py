"""The orientation mark of the 3D pane: a ground ring with the four sides of the object named round
it, and a plumb line through it with a knob above and a ring below."""

from __future__ import annotations

import math

import numpy as np

from dimetron.geometry.camera import (
    DIMETRIC_AZIMUTH_DEG,
    DIMETRIC_ELEVATION_DEG,
    OrbitCamera,
)
from dimetron.mesh.arrays import Floats
from dimetron.render.ink import Pen, Sheet
from dimetron.render.palette import Palette

_RADIUS = 27.0
_PLUMB = 30.0
_REACH = 10.0
_LETTER = 11
#: Middle of the mark, from the pane's left and lower edges, in pixels.
_INSET = (58.0, 52.0)
#: Where the sides lie round the ring, and which way one looks from there: azimuth, elevation.
POINTS: dict[str, tuple[tuple[float, float, float], tuple[float, float]]] = {
    "front": ((0, -1, 0), (0.0, 0.0)),
    "right": ((1, 0, 0), (90.0, 0.0)),
    "back": ((0, 1, 0), (180.0, 0.0)),
    "left": ((-1, 0, 0), (-90.0, 0.0)),
    "top": ((0, 0, 1), (0.0, 90.0)),
    "bottom": ((0, 0, -1), (0.0, -90.0)),
    "dimetric": ((0, 0, 0), (DIMETRIC_AZIMUTH_DEG, DIMETRIC_ELEVATION_DEG)),
}


def _middle(camera: OrbitCamera) -> Floats:
    return np.array([_INSET[0], camera.size[1] - _INSET[1]])


def _on_paper(camera: OrbitCamera, points: Floats) -> Floats:
    """Directions (n, 3) to pane pixels (n, 2), by the camera's turn alone."""
    right, up, _ = camera.axes
    flat = np.stack([points @ right, -(points @ up)], axis=1)
    return np.asarray(_middle(camera) + flat)


def knobs(camera: OrbitCamera) -> dict[str, Floats]:
    """Where the points of the mark lie (2,), in pane pixels, by the side they stand for."""
    ways = np.array([way for way, _ in POINTS.values()], dtype=np.float64)
    reach = np.where(ways[:, 2:] != 0, _PLUMB, _RADIUS)
    return dict(zip(POINTS, _on_paper(camera, ways * reach), strict=True))


def knob_at(camera: OrbitCamera, px: tuple[float, float]) -> str | None:
    """The side whose point of the mark lies under a pane pixel, nearest to the eye first."""
    near = []
    for name, at in knobs(camera).items():
        away = float(np.hypot(*(at - px)))
        if away <= _REACH:
            depth = float(np.array(POINTS[name][0]) @ camera.forward)
            near.append((round(away / 4), depth, name))
    return min(near)[2] if near else None


def turned_to(camera: OrbitCamera, name: str) -> OrbitCamera:
    """The camera looking from a side of the mark."""
    azimuth, elevation = POINTS[name][1]
    return camera.turned(azimuth - camera.azimuth_deg, elevation - camera.elevation_deg)


def draw(
    sheet: Sheet, camera: OrbitCamera, palette: Palette, pen: Pen, hot: str | None = None
) -> None:
    """Put the mark onto the sheet of a 3D pane; ``hot``: the point under the pointer."""
    turn = np.linspace(0, 2 * np.pi, 49)
    ring = np.stack([np.cos(turn), np.sin(turn), np.zeros_like(turn)], axis=1) * _RADIUS
    sheet.path(_on_paper(camera, ring), palette.soft_ink, 1.2)
    spots = knobs(camera)
    sheet.path(np.stack([spots["top"], spots["bottom"]]), palette.soft_ink, 1.0, dash=3.0)
    _circle(sheet, spots["bottom"], 4.0, palette.soft_ink, filled=False)
    _circle(sheet, spots["top"], 4.0, palette.accent, filled=True)
    _circle(sheet, spots["dimetric"], 2.0, palette.soft_ink, filled=True)
    toward = -camera.forward
    for name in ("front", "right", "back", "left"):
        at, way = spots[name], np.array(POINTS[name][0])
        near = float(way @ toward) >= -1e-9
        colour = palette.ink if near else (*palette.soft_ink[:3], 0.7)
        back = palette.accent if name == "front" else palette.label_back
        _circle(sheet, at, 7.5, back, filled=True)
        letter = name[0].upper()
        width = pen.width(letter, _LETTER, sheet.ratio, "SemiBold")
        word = palette.label_back if name == "front" else colour
        sheet.text(letter, (at[0] - width / 2, at[1] + 4), (*word[:3], 1.0), _LETTER, "SemiBold")
    if hot is not None:
        _circle(sheet, spots[hot], 9.0, palette.selection, filled=False)


def _circle(
    sheet: Sheet, at: Floats, radius: float, colour: tuple[float, ...], *, filled: bool
) -> None:
    turn = np.linspace(0, 2 * math.pi, 25)
    rim = at + np.stack([np.cos(turn), np.sin(turn)], axis=1) * radius
    r, g, b, a = colour
    if filled:
        fan = np.stack([np.broadcast_to(at, rim[:-1].shape), rim[:-1], rim[1:]], axis=1)
        sheet.triangles(fan, (r, g, b, a))
    else:
        sheet.path(rim, (r, g, b, a), 1.4)
