"""What the camera noted of its lens, and what follows from it: the ratio of a rectangle's sides."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from PIL import Image

from dimetron.imaging.flat import Points, Rectangle, unbulged
from dimetron.imaging.rectify import check_corners, homography

#: EXIF: the sub-directory of the camera, the focal length, the same for 35 mm film, and how many
#: pixels a unit of the sensor holds.
_CAMERA, _FOCAL, _FOCAL_FILM, _PER_UNIT, _UNIT = 0x8769, 0x920A, 0xA405, 0xA20E, 0xA210
_UNIT_MM = {2: 25.4, 3: 10.0, 4: 1.0}
#: The diagonal of a film's picture, in mm.
_FILM = 43.27
#: Focal lengths beyond these, in diagonals, are no camera's.
_SHORTEST, _LONGEST = 0.15, 30.0
#: Sides that come together by less than this, as a share, tell of no focal length; nor do ratios
#: beyond this tell anything.
_TOGETHER, _MOST = 0.03, 50.0


def focal_noted(exif: Image.Exif, size_px: tuple[int, int]) -> float | None:
    """The focal length in diagonals of a picture, as the camera noted it, if it did."""
    noted = exif.get_ifd(_CAMERA)
    film, focal, per_unit = (_number(noted.get(tag)) for tag in (_FOCAL_FILM, _FOCAL, _PER_UNIT))
    if film:
        return _sound(film / _FILM)
    unit = _UNIT_MM.get(noted.get(_UNIT, 2), 25.4)
    long = math.hypot(*size_px)
    return _sound(focal * per_unit / unit / long) if focal and per_unit else None


def ratio_of(
    known: Rectangle, size_px: tuple[int, int], focal: float | None, bulge: float = 0.0
) -> float | None:
    """Width by height of what is a rectangle in truth, of which a photo of ``size_px`` shows the
    corners. focal: the lens's, in diagonals; None takes it from how the sides come together.

    The camera looks at the photo's middle and has square pixels. Zhang and He, "Whiteboard scanning
    and image enhancement", 2007. None where it cannot be told; raises FrameError for corners that
    are none.
    """
    check_corners(known.corners)
    size = np.array(size_px, np.float64)
    half = float(np.hypot(*size))
    corners = (unbulged(np.array(known.corners), size_px, bulge) - size / 2) / half
    # Across, up and the corner, each as a homogeneous direction.
    across, up = homography(np.array([[0, 0], [1, 0], [1, 1], [0, 1.0]]), corners)[:, :2].T
    if focal is None:
        focal = _focal_from(across, up)
        if focal is None:
            return None
    lens = np.array([1 / focal, 1 / focal, 1.0])
    ratio = float(np.linalg.norm(across * lens) / np.linalg.norm(up * lens))
    return ratio if 1 / _MOST < ratio < _MOST else None


def _focal_from(across: Points, up: Points) -> float | None:
    """The focal length at which both directions are square to one another."""
    if min(abs(across[2]), abs(up[2])) < _TOGETHER * max(
        float(np.hypot(*across[:2])), float(np.hypot(*up[:2]))
    ):
        return None
    squared = -float(across[:2] @ up[:2]) / float(across[2] * up[2])
    return _sound(math.sqrt(squared)) if squared > 0 else None


def _sound(focal: float) -> float | None:
    return focal if _SHORTEST < focal < _LONGEST else None


def _number(value: Any) -> float:
    try:
        found = float(value)
    except (TypeError, ValueError, ZeroDivisionError):
        return 0.0
    return found if math.isfinite(found) else 0.0
