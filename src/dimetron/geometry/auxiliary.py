"""Making auxiliary views: tilted about a hinge, through three points, square to a face."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from numpy.typing import ArrayLike

from dimetron.geometry.views import Auxiliary, Directions, Hinge, Triple, Vector, View

#: Three points count as one line when their triangle is flatter than this, as a share of its
#: longest side.
_FLAT = 1e-3
#: A plane that is tilted by less than this (radians) is level and has no height up it.
_LEVEL = 1e-6
#: The first tilt about a line along an axis; one that lies this much off is slanted.
_FIRST_DEG, _SLANTED_DEG = 30.0, 1.0


class AuxiliaryError(ValueError):
    """The plane wanted for an auxiliary view does not exist; the message says why."""


def tilted(id_: str, name: str, hinge: Hinge) -> Auxiliary:
    """A principal view turned about a hinge line in its plane. The hinge stands upright or lies
    level on the paper, whichever is nearer to how it lies in the principal view.

    Raises AuxiliaryError if the hinge has no direction or the angle is not finite.
    """
    way = _checked_way(hinge)
    base = hinge.base.directions
    lies = math.atan2(float(way @ base.up), float(way @ base.right))
    roll = lies - math.pi / 2 * round(lies / (math.pi / 2))
    right = math.cos(roll) * base.right + math.sin(roll) * base.up
    up = math.cos(roll) * base.up - math.sin(roll) * base.right
    turn = rotation(way, hinge.angle_deg)
    return Auxiliary(id_, name, _unit(turn @ right), _unit(turn @ up), _triple(hinge.point), hinge)


def tilted_to(view: Auxiliary, angle_deg: float) -> Auxiliary:
    """A view tilted about its hinge to another angle; what lies level on its paper stays so.

    Raises AuxiliaryError if it has no hinge or the angle is not finite.
    """
    if view.hinge is None:
        raise AuxiliaryError(f"{view.name} has no hinge to tilt about.")
    hinge = replace(view.hinge, angle_deg=angle_deg)
    turn = rotation(_checked_way(hinge), angle_deg - view.hinge.angle_deg)
    right, up = turn @ view.directions.right, turn @ view.directions.up
    return replace(view, right=_unit(right), up=_unit(up), hinge=hinge)


def _checked_way(hinge: Hinge) -> Vector:
    way = np.asarray(hinge.way, dtype=np.float64)
    length = float(np.linalg.norm(way))
    if not math.isfinite(hinge.angle_deg):
        raise AuxiliaryError("The angle must be a finite number of degrees.")
    if not math.isfinite(length) or length < 1e-9:
        raise AuxiliaryError("The hinge line needs two different points.")
    return np.asarray(way / length)


def first_angle(base: View, way: ArrayLike) -> float:
    """The tilt to begin with, in degrees, about a hinge along ``way`` (3,). A slanted line is most
    often an inclined face seen edge-on, which is then looked at squarely, from above where it can
    be; about an upright or level one that would be a principal view."""
    unit = np.asarray(way, dtype=np.float64) / np.linalg.norm(way)
    if np.abs(unit).max() > math.cos(math.radians(_SLANTED_DEG)):
        return _FIRST_DEG
    forward = rotation(unit, 90.0) @ base.directions.forward
    return -90.0 if forward[2] > _LEVEL or (abs(forward[2]) <= _LEVEL and forward[1] < 0) else 90.0


def rotation(axis: Vector, angle_deg: float) -> Vector:
    """(3, 3) turn by degrees about a unit axis (3,), by Rodrigues' formula."""
    angle = math.radians(angle_deg)
    x, y, z = axis
    cross = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    return np.asarray(np.eye(3) + math.sin(angle) * cross + (1 - math.cos(angle)) * cross @ cross)


def through_points(id_: str, name: str, points: ArrayLike, facing: Vector) -> Auxiliary:
    """Square to the plane of three world points (3, 3), seen from the side that ``facing`` (3,)
    looks from.

    Raises AuxiliaryError if the points lie in a line.
    """
    a, b, c = np.asarray(points, dtype=np.float64)
    normal = np.cross(b - a, c - a)
    longest = max(float(np.linalg.norm(way)) for way in (b - a, c - b, a - c))
    height = float(np.linalg.norm(normal))
    if longest == 0 or height < _FLAT * longest * longest:
        raise AuxiliaryError("The three points lie in a line; pick one that is off it.")
    normal /= height
    if normal @ facing > 0:
        normal = -normal
    return square_to(id_, name, normal, (a + b + c) / 3)


def square_to(id_: str, name: str, normal: ArrayLike, point: ArrayLike) -> Auxiliary:
    """Looking against a normal (3,) at a plane through a point (3,), with height up the paper
    (as the top or the bottom view, if the plane lies level). Raises AuxiliaryError for a normal
    without length."""
    n = np.asarray(normal, dtype=np.float64)
    length = float(np.linalg.norm(n))
    if not math.isfinite(length) or length < 1e-12:
        raise AuxiliaryError("This face has no area, so nothing is square to it.")
    forward = -n / length
    guide = np.array([0.0, 0.0, 1.0])
    if math.hypot(forward[0], forward[1]) < _LEVEL:
        # Up on the paper as in the top view, or the bottom one: depth away, or towards.
        guide = np.array([0.0, -math.copysign(1.0, forward[2]), 0.0])
    right = np.cross(forward, guide)
    right /= np.linalg.norm(right)
    return Auxiliary(id_, name, _unit(right), _unit(np.cross(right, forward)), _triple(point))


def along(id_: str, name: str, axes: Vector, point: ArrayLike) -> Auxiliary:
    """A view with given axes (3, 3): rows right, up, forward."""
    return Auxiliary(id_, name, _unit(axes[0]), _unit(axes[1]), _triple(point))


def principal_like(directions: Directions, within: float = 1e-6) -> View | None:
    """The principal view that looks just these ways, if one does."""
    return next((view for view in View if looks_like(view.directions, directions, within)), None)


def looks_like(a: Directions, b: Directions, within: float = 1e-6) -> bool:
    """Whether two frames look the same way with the same side up."""
    return bool(np.allclose(a.right, b.right, atol=within) and np.allclose(a.up, b.up, atol=within))


def _unit(way: Vector) -> Triple:
    # Exact zeros and ones keep axes exact where a view is tilted about one of them.
    clean = np.where(np.abs(way) < 1e-12, 0.0, way)
    return _triple(clean / np.linalg.norm(clean))


def _triple(point: ArrayLike) -> Triple:
    x, y, z = np.asarray(point, dtype=np.float64)
    return float(x), float(y), float(z)
