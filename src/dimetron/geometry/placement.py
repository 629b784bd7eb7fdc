"""Where a drawing lies: a 2D similarity from its pixels to the plane of its view.

Pixels are (x, y) from the top-left corner, y down. A placement is a value; every function returns
a new one. ``pixel_aspect`` is 1 unless the person released the aspect.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike

from dimetron.geometry.views import AnyView, Vector

#: Scales outside of this are slips: a pixel of a nanometre, or of a kilometre.
MIN_MM_PER_PX, MAX_MM_PER_PX = 1e-6, 1e6
MAX_MM = 1e7


class PlacementError(ValueError):
    """The wanted placement has no meaning; the message says why in one sentence."""


@dataclass(frozen=True, slots=True)
class Placement:
    """A drawing's place in its view plane.

    mm_per_px: size of a pixel along the picture's width.
    pixel_aspect: a pixel's height over its width.
    rotation_deg: counter-clockwise turn in the view plane as seen.
    mirrored: left and right swapped before turning.
    anchor_px, anchor_mm: a pixel and the view-plane position (right, up) where it lies.
    stand_off_mm: distance behind the origin along the view's forward direction.
    """

    mm_per_px: float
    anchor_px: tuple[float, float]
    anchor_mm: tuple[float, float]
    rotation_deg: float = 0.0
    mirrored: bool = False
    stand_off_mm: float = 0.0
    pixel_aspect: float = 1.0

    def __post_init__(self) -> None:
        numbers = (
            *self.anchor_px,
            *self.anchor_mm,
            self.rotation_deg,
            self.stand_off_mm,
            self.mm_per_px,
            self.pixel_aspect,
        )
        if not all(math.isfinite(n) and abs(n) <= MAX_MM for n in numbers):
            raise PlacementError("A number of this placement is not finite or beyond 10 km.")
        for size in (self.mm_per_px, self.mm_per_px * self.pixel_aspect):
            if not MIN_MM_PER_PX <= size <= MAX_MM_PER_PX:
                raise PlacementError(
                    "The size must be more than zero and less than 1 km per pixel."
                )

    @property
    def matrix(self) -> Vector:
        """(2, 2): pixel differences (x right, y down) to view-plane millimetres."""
        angle = math.radians(self.rotation_deg)
        c, s = math.cos(angle), math.sin(angle)
        sx = -self.mm_per_px if self.mirrored else self.mm_per_px
        sy = -self.mm_per_px * self.pixel_aspect
        return np.array([[c * sx, -s * sy], [s * sx, c * sy]])

    def to_plane(self, px: ArrayLike) -> Vector:
        """Pixels (..., 2) to view-plane millimetres (..., 2)."""
        away = np.asarray(px, dtype=np.float64) - self.anchor_px
        return np.asarray(away @ self.matrix.T + self.anchor_mm, dtype=np.float64)

    def to_px(self, mm: ArrayLike) -> Vector:
        """View-plane millimetres (..., 2) to pixels (..., 2)."""
        away = np.asarray(mm, dtype=np.float64) - self.anchor_mm
        return np.asarray(away @ np.linalg.inv(self.matrix).T + self.anchor_px, dtype=np.float64)

    def corners(self, size_px: tuple[int, int]) -> Vector:
        """(4, 2) in the view plane: top-left, top-right, bottom-right, bottom-left."""
        w, h = size_px
        return self.to_plane(np.array([[0, 0], [w, 0], [w, h], [0, h]]))

    def centre(self, size_px: tuple[int, int]) -> Vector:
        """(2,) where the middle of the picture lies in the view plane."""
        return self.to_plane([size_px[0] / 2, size_px[1] / 2])

    def size_mm(self, size_px: tuple[int, int]) -> tuple[float, float]:
        """Width and height of the picture itself, along its own edges."""
        return size_px[0] * self.mm_per_px, size_px[1] * self.mm_per_px * self.pixel_aspect

    def world_corners(
        self, view: AnyView, size_px: tuple[int, int], stand_off_mm: float | None = None
    ) -> Vector:
        """(4, 3), in the order of ``corners``; at its own stand-off unless another is given."""
        depth = self.stand_off_mm if stand_off_mm is None else stand_off_mm
        return _on_paper(self, view, size_px) + depth * view.directions.forward


@lru_cache(maxsize=1024)
def _on_paper(place: Placement, view: AnyView, size_px: tuple[int, int]) -> Vector:
    """(4, 3) world corners at depth 0. A board of many drawings asks for all of them whenever one
    of them moves."""
    corners = view.to_world(place.corners(size_px))
    corners.setflags(write=False)
    return corners


def moved(place: Placement, by_mm: ArrayLike) -> Placement:
    """Slide by (right, up) millimetres in the view plane."""
    right, up = np.asarray(by_mm, dtype=np.float64)
    return replace(
        place, anchor_mm=(place.anchor_mm[0] + float(right), place.anchor_mm[1] + float(up))
    )


def resized_about(place: Placement, factor: float, fixed_mm: ArrayLike) -> Placement:
    """Scale by ``factor``; the view-plane point ``fixed_mm`` (2,) keeps its picture point.

    Raises PlacementError for a factor that is zero, negative or not finite.
    """
    if not math.isfinite(factor) or factor <= 0:
        raise PlacementError("The size must be more than zero.")
    fixed = np.asarray(fixed_mm, dtype=np.float64)
    anchor = fixed + (np.asarray(place.anchor_mm) - fixed) * factor
    return replace(
        place,
        mm_per_px=place.mm_per_px * factor,
        anchor_mm=(float(anchor[0]), float(anchor[1])),
    )


def to_known_length(
    place: Placement,
    first_px: ArrayLike,
    second_px: ArrayLike,
    length_mm: float,
    axis: int | None = None,
) -> Placement:
    """Scale so that two picked pixels are ``length_mm`` apart; the first stays where it is.

    axis: None for the straight distance, 0 to count along the right direction only, 1 along up.
    Raises PlacementError if the length is not positive or the points coincide along the axis.
    """
    if not math.isfinite(length_mm) or length_mm <= 0:
        raise PlacementError("The known length must be more than zero.")
    ends = place.to_plane(np.array([first_px, second_px]))
    way = ends[1] - ends[0]
    now = float(np.hypot(*way)) if axis is None else abs(float(way[axis]))
    # Less than a hundredth of a pixel apart is one point, whatever the scale.
    if now < 0.01 * place.mm_per_px:
        raise PlacementError("The two points lie at the same place along this direction.")
    return resized_about(place, length_mm / now, ends[0])


def with_scale(place: Placement, mm_per_px: float, fixed_mm: ArrayLike = (0.0, 0.0)) -> Placement:
    """Give the placement a scale; the picture point at ``fixed_mm`` (the origin) stays."""
    return resized_about(place, mm_per_px / place.mm_per_px, fixed_mm)


def with_pixel_aspect(place: Placement, pixel_aspect: float) -> Placement:
    """Change height against width; the anchor stays."""
    return replace(place, pixel_aspect=pixel_aspect)


def turned(place: Placement, rotation_deg: float, about_px: ArrayLike) -> Placement:
    """Set the rotation; the picture point ``about_px`` stays where it is."""
    return _keeping(place, replace(place, rotation_deg=wrapped(rotation_deg)), about_px)


def flipped(place: Placement, about_px: ArrayLike) -> Placement:
    """Mirror left to right as seen in the view, about the vertical through ``about_px``."""
    after = replace(place, mirrored=not place.mirrored, rotation_deg=wrapped(-place.rotation_deg))
    return _keeping(place, after, about_px)


def _keeping(before: Placement, after: Placement, px: ArrayLike) -> Placement:
    return moved(after, before.to_plane(px) - after.to_plane(px))


def wrapped(degrees: float) -> float:
    """To (-180, 180]."""
    if not math.isfinite(degrees):
        raise PlacementError("The angle must be a finite number of degrees.")
    wrapped = math.remainder(degrees, 360.0)
    return 180.0 if wrapped == -180.0 else wrapped
