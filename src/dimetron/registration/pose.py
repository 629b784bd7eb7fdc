"""How a view's plane lies in the pixels of a drawing."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dimetron.geometry.placement import Placement
from dimetron.geometry.views import Vector


@dataclass(frozen=True, slots=True)
class Pose:
    """Of a point (right, up) mm of the view's plane, right negated if mirrored, the picture shows
    x = ox + alpha right - beta up and y = oy - aspect (beta right + alpha up).

    alpha + i beta is pixels per mm, turned by how far right is turned counter-clockwise in the
    picture; aspect: height over width of what is shown, 1 unless the drawing is stretched.
    """

    alpha: float = 1.0
    beta: float = 0.0
    origin_px: tuple[float, float] = (0.0, 0.0)
    mirrored: bool = False
    aspect: float = 1.0

    @property
    def mm_per_px(self) -> float:
        """Size of a pixel."""
        return 1.0 / math.hypot(self.alpha, self.beta)

    @property
    def rotation_deg(self) -> float:
        """How far the drawing's right is turned counter-clockwise in the picture."""
        return math.degrees(math.atan2(self.beta, self.alpha))

    def to_px(self, plane: ArrayLike) -> Vector:
        """View-plane points (..., 2) to pixels (..., 2)."""
        at = np.asarray(plane, dtype=np.float64)
        right = -at[..., 0] if self.mirrored else at[..., 0]
        up = at[..., 1]
        x = self.origin_px[0] + self.alpha * right - self.beta * up
        y = self.origin_px[1] - self.aspect * (self.beta * right + self.alpha * up)
        return np.stack([x, y], axis=-1)

    def to_plane(self, px: ArrayLike) -> Vector:
        """Pixels (..., 2) to view-plane points (..., 2)."""
        away = np.asarray(px, dtype=np.float64) - self.origin_px
        x, y = away[..., 0], -away[..., 1] / self.aspect
        size = self.alpha**2 + self.beta**2
        right = (self.alpha * x + self.beta * y) / size
        up = (self.alpha * y - self.beta * x) / size
        return np.stack([-right if self.mirrored else right, up], axis=-1)


def pose_of(placement: Placement) -> Pose:
    """The pose of a placed drawing."""
    turn = math.radians(placement.rotation_deg)
    sign = 1.0 if placement.mirrored else -1.0
    alpha = math.cos(turn) / placement.mm_per_px
    beta = sign * math.sin(turn) / placement.mm_per_px
    origin = placement.to_px((0.0, 0.0))
    return Pose(
        alpha,
        beta,
        (float(origin[0]), float(origin[1])),
        placement.mirrored,
        1.0 / placement.pixel_aspect,
    )


def placement_of(pose: Pose, like: Placement) -> Placement:
    """The placement with a pose, about the anchor of another and as far away. Raises
    PlacementError for a pose beyond what a placement can be."""
    turn = pose.rotation_deg if pose.mirrored else -pose.rotation_deg
    at = pose.to_plane(like.anchor_px)
    return Placement(
        mm_per_px=pose.mm_per_px,
        anchor_px=like.anchor_px,
        anchor_mm=(float(at[0]), float(at[1])),
        rotation_deg=turn,
        mirrored=pose.mirrored,
        stand_off_mm=like.stand_off_mm,
        pixel_aspect=1.0 / pose.aspect,
    )
