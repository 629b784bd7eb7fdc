"""A slab: outlines with their holes run out along their view, tapered, with rounded edges."""

from __future__ import annotations

from collections.abc import Sequence

import mapbox_earcut
import numpy as np

from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, Ints, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.solids.manifolds import section_of
from dimetron.mesh.solids.rings import assembled, skin
from dimetron.mesh.solids.within import signed_area

#: A rounded edge takes so many rows of quads.
_STEPS = 5


def slab(
    loops: Sequence[Floats],
    view: AnyView,
    near: float,
    far: float,
    taper_deg: float = 0.0,
    rounding: float = 0.0,
) -> Mesh:
    """Between two depths along a view, of loops (n, 2) in its plane; one within another is a hole.
    taper_deg: by how much its sides lean inward towards ``far``; rounding: the radius of its edges
    at both ends. Raises MeshError for what crosses itself or has no room."""
    near, far = sorted((near, far))
    thick = far - near
    if not thick > 0:
        raise MeshError("A slab needs a thickness of more than nothing.")
    if rounding < 0 or 2 * rounding > thick + 1e-9:
        raise MeshError("The rounding is more than half the thickness; make it smaller.")
    ordered = _ordered(loops)
    rows = _rows(thick, taper_deg, rounding)
    points, quads, first = [], [], 0
    bottom: list[Ints] = []
    top: list[Ints] = []
    for loop in ordered:
        inward = _inward(loop)
        count = len(loop)
        for depth, inset in rows:
            row = loop + inset * inward
            if inset:
                _check_room(loop, row)
            points.append(view.to_world(row, near + depth))
        quads.append(skin(len(rows), count) + first)
        bottom.append(np.arange(first, first + count))
        top.append(np.arange(first + (len(rows) - 1) * count, first + len(rows) * count))
        first += len(rows) * count
    whole = np.concatenate(points)
    caps = _cap(view.to_plane(whole), bottom, flip=True) + _cap(view.to_plane(whole), top, False)
    return assembled(whole, quads, caps)


def _ordered(loops: Sequence[Floats]) -> list[Floats]:
    """Outer loops counter-clockwise, holes clockwise, without what crosses itself."""
    section = section_of(loops)
    given = [loop for loop in loops if len(loop) > 2]
    area = sum(abs(signed_area(loop)) for loop in given)
    if section.num_contour() == len(given) and section.num_vert() == sum(map(len, given)):
        depth = [
            sum(_within(loop[0], other) for other in given if other is not loop) for loop in given
        ]
        signed = sum(
            abs(signed_area(loop)) * (1 if d % 2 == 0 else -1)
            for loop, d in zip(given, depth, strict=True)
        )
        if abs(signed - section.area()) < 1e-6 * max(area, 1e-9):
            return [
                loop if (signed_area(loop) > 0) == (d % 2 == 0) else loop[::-1]
                for loop, d in zip(given, depth, strict=True)
            ]
    return [np.asarray(loop, np.float64) for loop in section.to_polygons()]


def _within(point: Floats, loop: Floats) -> bool:
    a, b = loop, np.roll(loop, -1, axis=0)
    crosses = (a[:, 1] > point[1]) != (b[:, 1] > point[1])
    rise = np.where(b[:, 1] != a[:, 1], b[:, 1] - a[:, 1], 1.0)
    x = a[:, 0] + (point[1] - a[:, 1]) / rise * (b[:, 0] - a[:, 0])
    return bool((crosses & (x > point[0])).sum() % 2)


def _rows(thick: float, taper_deg: float, rounding: float) -> list[tuple[float, float]]:
    """Depth and inset of each row of points."""
    lean = np.tan(np.radians(taper_deg))
    if rounding <= 0:
        return [(0.0, 0.0), (thick, float(lean * thick))]
    turn = np.linspace(0, np.pi / 2, _STEPS + 1)
    depths = rounding * (1 - np.cos(turn))
    insets = rounding * (1 - np.sin(turn))
    begin = list(zip(depths.tolist(), insets.tolist(), strict=True))
    end = [(thick - d, i) for d, i in begin[::-1]]
    if abs(end[0][0] - begin[-1][0]) < 1e-9:
        end = end[1:]
    return [(d, float(i + lean * d)) for d, i in (*begin, *end)]


def _inward(loop: Floats) -> Floats:
    """(n, 2) by how much each point moves so that its sides move inward by one."""
    way = np.roll(loop, -1, axis=0) - loop
    long = np.maximum(np.hypot(*way.T), 1e-12)
    normal = np.stack([-way[:, 1], way[:, 0]], axis=1) / long[:, None]
    both = normal + np.roll(normal, 1, axis=0)
    square = np.maximum((both * both).sum(axis=1), 0.1)
    return np.asarray(2 * both / square[:, None])


def _check_room(loop: Floats, row: Floats) -> None:
    before = np.roll(loop, -1, axis=0) - loop
    after = np.roll(row, -1, axis=0) - row
    if ((before * after).sum(axis=1) < -1e-12).any():
        raise MeshError("The taper or rounding has no room at a narrow place; make it smaller.")


def _cap(plane: Floats, loops: Sequence[Ints], flip: bool) -> list[list[int]]:
    """One face if there is no hole, else triangles. flip: it looks the other way."""
    if len(loops) == 1:
        faces = [loops[0].tolist()]
    else:
        numbers = np.concatenate(loops)
        ends = np.cumsum([len(loop) for loop in loops]).astype(np.uint32)
        outer = [k for k, loop in enumerate(loops) if signed_area(plane[loop]) > 0]
        if len(outer) == 1 and outer[0] == 0:
            triples = mapbox_earcut.triangulate_float64(plane[numbers], ends).reshape(-1, 3)
            faces = [[int(numbers[v]) for v in triple] for triple in triples]
        else:
            faces = _apart(plane, loops, outer)
    return [face[::-1] for face in faces] if flip else faces


def _apart(plane: Floats, loops: Sequence[Ints], outer: Sequence[int]) -> list[list[int]]:
    """Several outlines, each with the holes in it."""
    faces = []
    for k in outer:
        own = [loops[k]]
        own += [
            loop
            for n, loop in enumerate(loops)
            if n not in outer and _within(plane[loop[0]], plane[loops[k]])
        ]
        if len(own) == 1:
            faces.append(own[0].tolist())
            continue
        numbers = np.concatenate(own)
        ends = np.cumsum([len(loop) for loop in own]).astype(np.uint32)
        triples = mapbox_earcut.triangulate_float64(plane[numbers], ends).reshape(-1, 3)
        faces += [[int(numbers[v]) for v in triple] for triple in triples]
    return faces
