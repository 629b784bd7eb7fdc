"""Scanned drawings of made-up objects with known truth, some mirrored, turned or of another view
than they are called."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import manifold3d
import numpy as np
from PIL import Image

from benchmarks.objects import OBJECTS
from dimetron.demo.lines import visible_lines
from dimetron.demo.pencil import Scan, drawn
from dimetron.demo.solids import as_mesh
from dimetron.geometry.views import View
from dimetron.mesh.mesh import Mesh
from dimetron.registration.pose import Pose

F, R, L, T, B, K = View.FRONT, View.RIGHT, View.LEFT, View.TOP, View.BOTTOM, View.BACK
SETS = ((F, R, T), (F, L, T), (F, R, T, L), (F, R, T, K), (F, R, T, L, K), (F, R, T, L, K, B))
#: What may be wrong with one drawing of a set.
FAULTS = ("none", "mirrored", "named", "turned")
_SWAPPED = {F: R, R: F, L: F, T: F, B: R, K: L}


@dataclass(frozen=True, slots=True, eq=False)
class Drawn:
    """called: the view it is said to be; view: the one it is; pose: where that lies in it."""

    called: View
    view: View
    pose: Pose
    picture: Image.Image


@dataclass(frozen=True, slots=True, eq=False)
class Case:
    drawings: tuple[Drawn, ...]
    fault: str
    #: Which drawing it is in.
    wrong: int
    size: np.ndarray
    middle: np.ndarray


def case(number: int, fault: str | None = None) -> Case:
    """A set of drawings; every fourth is as it should be."""
    rng = np.random.default_rng(7000 + number)
    fault = FAULTS[number % len(FAULTS)] if fault is None else fault
    views = SETS[int(rng.integers(len(SETS)))]
    mesh = varied(OBJECTS[int(rng.integers(len(OBJECTS)))](), rng)
    wrong = int(rng.integers(len(views)))
    found = []
    for i, view in enumerate(views):
        here = fault if i == wrong else "none"
        found.append(_drawn(mesh, view, here, rng))
    if fault == "named":
        found = _misnamed(found, wrong)
    low, high = mesh.bounds
    middle = (np.asarray(low) + high) / 2
    return Case(tuple(found), fault, wrong, np.subtract(high, low), middle)


def _misnamed(found: list[Drawn], wrong: int) -> list[Drawn]:
    """One drawing bears a name of a view across; who bears it already takes the other's."""
    name = _SWAPPED[found[wrong].view]
    return [
        replace(d, called=name)
        if i == wrong
        else replace(d, called=found[wrong].view)
        if d.called == name
        else d
        for i, d in enumerate(found)
    ]


def varied(mesh: Mesh, rng: np.random.Generator) -> Mesh:
    """The object stretched, with one or two parts more, so that no two cases are alike."""
    points = mesh.positions * rng.uniform(0.75, 1.35, 3)
    low, high = points.min(axis=0), points.max(axis=0)
    solid = manifold3d.Manifold(
        manifold3d.Mesh(points.astype(np.float32), mesh.triangles.astype(np.uint32))
    )
    for _ in range(int(rng.integers(1, 3))):
        at = low + (high - low) * rng.uniform(0.15, 0.85, 3)
        side = int(rng.integers(3))
        at[side] = (low if rng.random() < 0.5 else high)[side]
        part = manifold3d.Manifold.cube((high - low) * rng.uniform(0.08, 0.3, 3), True)
        lift = max(0.0, float(low[2] - (at[2] + part.bounding_box()[2])))
        solid += part.translate((*at[:2], at[2] + lift))
        # A stalk keeps it on the object.
        solid += _stalk(at, (low + high) / 2, 0.03 * float(np.min(high - low)))
    return as_mesh(solid)


def _stalk(a: np.ndarray, b: np.ndarray, radius: float) -> manifold3d.Manifold:
    way = b - a
    length = float(np.linalg.norm(way))
    lean = math.degrees(math.acos(float(way[2]) / length))
    turn = math.degrees(math.atan2(float(way[1]), float(way[0])))
    rod = manifold3d.Manifold.cylinder(length, radius, radius, 16)
    return rod.rotate((0, lean, 0)).rotate((0, 0, turn)).translate(tuple(a))


def _drawn(mesh: Mesh, view: View, fault: str, rng: np.random.Generator) -> Drawn:
    plane = view.to_plane(mesh.positions)
    low, high = plane.min(axis=0), plane.max(axis=0)
    longest = float(rng.uniform(600, 1200))
    scale = float((high - low).max()) / longest
    margin = rng.uniform(60, 160, 4)
    size = (high - low) / scale + margin[:2] + margin[2:] + 0.08 * longest
    turn = float(rng.uniform(-2, 2))
    w, h = (int(v) for v in size)
    turned = Pose(math.cos(math.radians(turn)) / scale, math.sin(math.radians(turn)) / scale)
    shift = np.array([w, h]) / 2 - turned.to_px((low + high) / 2)
    scan = Scan(
        view,
        "drawing.png",
        (w, h),
        (float(shift[0]), float(shift[1])),
        scale,
        turn,
        line_px=float(rng.uniform(1.6, 3.4)),
        paper=(int(rng.integers(230, 250)), int(rng.integers(225, 245)), 225),
        seed=int(rng.integers(1 << 30)),
    )
    picture = drawn(scan, visible_lines(mesh, view))
    pose = replace(turned, origin_px=scan.origin_px)
    return _spoilt(Drawn(view, view, pose, picture), fault, rng)


def _spoilt(good: Drawn, fault: str, rng: np.random.Generator) -> Drawn:
    """The drawing mirrored left to right, or turned by quarters."""
    w, h = good.picture.size
    pose = good.pose
    x, y = pose.origin_px
    if fault == "mirrored":
        picture = good.picture.transpose(Image.Transpose.FLIP_LEFT_RIGHT)
        return replace(good, picture=picture, pose=Pose(pose.alpha, -pose.beta, (w - x, y), True))
    if fault == "turned":
        quarters = int(rng.integers(1, 4))
        for _ in range(quarters):
            # A quarter turn counter-clockwise takes (x, y) to (y, w - x).
            pose = Pose(-pose.beta, pose.alpha, (y, w - x))
            w, h = h, w
            x, y = pose.origin_px
        way = (Image.Transpose.ROTATE_90, Image.Transpose.ROTATE_180, Image.Transpose.ROTATE_270)
        return replace(good, picture=good.picture.transpose(way[quarters - 1]), pose=pose)
    return good
