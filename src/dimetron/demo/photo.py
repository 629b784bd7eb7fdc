"""The wall clock as it is known: from one photo, taken askew with a lens that bulges a little."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from PIL import Image

from dimetron.demo import clock
from dimetron.demo.lines import visible_lines
from dimetron.geometry.views import View
from dimetron.imaging.flat import bulged, inverse, projected, unbulged
from dimetron.imaging.rectify import homography
from dimetron.mesh.arrays import Floats

SIZE_PX = (1900, 1500)
BULGE = 0.06
_PX_PER_MM = 5.0
#: The piece of wall that is drawn: left, bottom, right, top in the clock's front view, mm.
_WALL = (-260.0, -120.0, 260.0, 420.0)
#: Where its corners fall in the photo before the lens: top-left, and so on round.
_SEEN = ((130.0, -60.0), (1700.0, 150.0), (1815.0, 1395.0), (60.0, 1640.0))


@dataclass(frozen=True, slots=True, eq=False)
class Photo:
    """The photo, and the truth: where points of the clock's front plane (mm) lie in it."""

    picture: Image.Image
    to_photo: Floats

    def px(self, mm: Floats) -> Floats:
        """Front-view millimetres (..., 2) to photo pixels (..., 2)."""
        return bulged(projected(self.to_photo, mm), SIZE_PX, BULGE)


def taken() -> Photo:
    """Take the photo."""
    x0, y0, x1, y1 = _WALL
    mm = np.array([[x0, y1], [x1, y1], [x1, y0], [x0, y0]])
    to_photo = homography(mm, np.array(_SEEN))
    flat = _wall()
    w, h = SIZE_PX
    x, y = np.meshgrid(np.arange(w) + 0.5, np.arange(h) + 0.5)
    seen = unbulged(np.stack([x, y], axis=-1), SIZE_PX, BULGE)
    at = (projected(inverse(to_photo), seen) - (x0, y1)) * (_PX_PER_MM, -_PX_PER_MM) - 0.5
    picture = cv2.remap(
        flat, at[..., 0].astype(np.float32), at[..., 1].astype(np.float32), cv2.INTER_AREA,
        borderMode=cv2.BORDER_REFLECT,
    )  # fmt: skip
    light = 1.06 - 0.28 * (x / w) * (0.4 + 0.6 * y / h)
    grain = np.random.default_rng(5).normal(scale=2.2, size=(h, w, 1))
    lit = np.clip(picture * light[..., None] + grain, 0, 255).astype(np.uint8)
    return Photo(Image.fromarray(lit, "RGB"), to_photo)


def _wall() -> np.ndarray:
    """(h, w, 3) the wall with the clock on it, seen squarely."""
    x0, y0, x1, y1 = _WALL
    h, w = int((y1 - y0) * _PX_PER_MM), int((x1 - x0) * _PX_PER_MM)
    wall = np.full((h, w, 3), (205, 200, 188), np.uint8)
    for row in range(0, h, int(90 * _PX_PER_MM)):
        cv2.line(wall, (0, row), (w, row), (186, 180, 168), 3, cv2.LINE_AA)

    def px(mm: Floats) -> np.ndarray:
        away = (np.asarray(mm) - (x0, y1)) * (_PX_PER_MM, -_PX_PER_MM)
        return np.rint(away * 16).astype(np.int32)

    centre = np.array([0.0, 150.0])
    turn = np.linspace(0, 2 * np.pi, 240)
    for radius, colour in ((150.0, (96, 62, 44)), (clock.DIAL_MM / 2, (244, 240, 226))):
        ring = centre + radius * np.stack([np.cos(turn), np.sin(turn)], axis=1)
        cv2.fillPoly(wall, [px(ring)], colour, cv2.LINE_AA, 4)
    for run in visible_lines(clock.solid(), View.FRONT):
        cv2.polylines(wall, [px(run)], False, (44, 40, 40), 4, cv2.LINE_AA, 4)
    return wall
