"""The snail as it stands on the workbench: a photo from its right, planks, tools and shadow and
all."""

from __future__ import annotations

import cv2
import numpy as np
from PIL import Image

from dimetron.demo import snail
from dimetron.demo.plates import Colour, Piece, Plate, on_nothing
from dimetron.geometry.views import View

SIZE_PX = (1500, 1100)
PX_PER_MM = 11.0
#: The view it is taken from, and where its middle falls.
SEEN = Piece(View.RIGHT, (760.0, 560.0), PX_PER_MM)
_WOOD = np.array([112.0, 92.0, 84.0])
_PLANK_PX = 150
#: Things that lie about: left, top, right, bottom and colour.
_TOOLS: tuple[tuple[tuple[int, int, int, int], Colour], ...] = (
    ((40, 60, 420, 96), (188, 190, 194)),
    ((1290, 180, 1460, 330), (52, 84, 122)),
    ((70, 880, 210, 1040), (92, 122, 84)),
)


def taken() -> Image.Image:
    """Take the photo."""
    share, colours = on_nothing(Plate(SIZE_PX, snail.PLATE.hand, (SEEN,)), snail.solid())
    behind = _planks()
    for (left, top, right, bottom), colour in _TOOLS:
        cv2.rectangle(behind, (left, top), (right, bottom), colour, -1)
    shadow = cv2.GaussianBlur(np.roll(share, (30, 26), (0, 1)), (0, 0), 16)[..., None]
    behind = cv2.GaussianBlur(behind, (0, 0), 1.4) * (1 - 0.4 * shadow)
    seen = colours + behind * (1 - share[..., None])
    fall = np.linspace(1.06, 0.86, SIZE_PX[0])[None, :, None]
    grain = np.random.default_rng(43).normal(0, 2.4, (SIZE_PX[1], SIZE_PX[0], 1))
    return Image.fromarray(np.clip(seen * fall + grain, 0, 255).astype(np.uint8))


def _planks() -> np.ndarray:
    rng = np.random.default_rng(42)
    w, h = SIZE_PX
    wood = np.empty((h, w, 3), np.float32)
    for top in range(0, h, _PLANK_PX):
        wood[top : top + _PLANK_PX] = _WOOD * rng.uniform(0.62, 1.22)
        wood[top : top + 4] *= 0.4
    grain = cv2.resize(rng.normal(0, 13, (h, 16, 1)).astype(np.float32), (w, h))
    return np.asarray(np.clip(wood + grain[..., None], 0, 255), np.float32)
