"""A slab: outlines with their holes run out along their view, tapered, with rounded edges."""

from __future__ import annotations

from collections.abc import Sequence

import manifold3d
import numpy as np

from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, Ints, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import Place
from dimetron.mesh.solids.manifolds import section_of
from dimetron.mesh.solids.radii import Edge, nearest_to, with_radii
from dimetron.mesh.solids.rings import assembled, merged, skin
from dimetron.mesh.solids.within import signed_area

#: A rounded edge takes so many rows of quads.
_STEPS = 5
#: Points nearer than this to the straight way are on it, in mm.
_FLAT = 1e-9


def slab(
    loops: Sequence[Floats],
    view: AnyView,
    near: float,
    far: float,
    taper_deg: float = 0.0,
    rounding: float = 0.0,
    others: Sequence[Place] = (),
) -> Mesh:
    """Between two depths along a view, of loops (n, 2) in its plane; one within another is a hole.
    taper_deg: by how much its sides lean inward towards ``far``; rounding: the radius of its edges
    at both ends; others: places in the plane whose run of edges, from corner to corner, has another
    radius. Raises MeshError for what crosses itself or has no room."""
    near, far = sorted((near, far))
    thick = far - near
    if not thick > 0:
        raise MeshError("A slab needs a thickness of more than nothing.")
    for radius in (rounding, *(place[2] for place in others)):
        if radius < 0 or 2 * radius > thick + 1e-9:
            raise MeshError("The rounding is more than half the thickness; make it smaller.")
    ordered = _ordered(loops)
    of = [nearest_to(ordered, place) for place in others]
    lean = abs(float(np.tan(np.radians(taper_deg)))) * thick
    edges = [
        with_radii(loop, rounding, [p for p, n in zip(others, of, strict=True) if n == k], lean)
        for k, loop in enumerate(ordered)
    ]
    points, quads, first = [], [], 0
    bottom: list[Ints] = []
    top: list[Ints] = []
    for edge in edges:
        depths, insets = _rows(thick, taper_deg, edge.radii)
        inward, slide = _inward(edge.loop), _sliding(edge)
        count, rows = len(edge.loop), len(depths)
        for depth, inset in zip(depths, insets, strict=True):
            row = edge.loop + inset[:, None] * inward + inset[edge.end][:, None] * slide
            _check_room(edge.loop, row)
            points.append(view.to_world(row, 0.0) + np.outer(near + depth, view.directions.forward))
        quads.append(skin(rows, count) + first)
        bottom.append(np.arange(first, first + count))
        top.append(np.arange(first + (rows - 1) * count, first + rows * count))
        first += rows * count
    whole = np.concatenate(points)
    caps = _cap(view.to_plane(whole), bottom, flip=True) + _cap(view.to_plane(whole), top, False)
    if not others:
        return assembled(whole, quads, caps)
    # Where the radius is nothing, all rows of the rounding lie in one place.
    places, at = merged(whole)
    return assembled(places, [at[part] for part in quads], [at[face].tolist() for face in caps])


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


def _rows(thick: float, taper_deg: float, radii: Floats) -> tuple[Floats, Floats]:
    """(rows, n) depth and inset of each point of each row, of edges with radii (n,)."""
    lean = np.tan(np.radians(taper_deg))
    if not radii.any():
        depths = np.outer([0.0, thick], np.ones(len(radii)))
        return depths, lean * depths
    turn = np.linspace(0, np.pi / 2, _STEPS + 1)
    depths = np.outer(1 - np.cos(turn), radii)
    insets = np.outer(1 - np.sin(turn), radii)
    halved = np.abs(thick - 2 * radii).max() < 1e-9
    end = slice(1 if halved else 0, None)
    depths = np.concatenate([depths, (thick - depths[::-1])[end]])
    insets = np.concatenate([insets, insets[::-1][end]])
    return depths, insets + lean * depths


def _inward(loop: Floats) -> Floats:
    """(n, 2) by how much each point moves so that its sides move inward by one."""
    way = np.roll(loop, -1, axis=0) - loop
    long = np.maximum(np.hypot(*way.T), 1e-12)
    normal = np.stack([-way[:, 1], way[:, 0]], axis=1) / long[:, None]
    both = normal + np.roll(normal, 1, axis=0)
    square = np.maximum((both * both).sum(axis=1), 0.1)
    return np.asarray(2 * both / square[:, None])


def _sliding(edge: Edge) -> Floats:
    """(n, 2) by how much each point goes along its side when the corner near to it moves inward by
    one: a corner takes what is beside it along."""
    way = np.roll(edge.loop, -1, axis=0) - edge.loop
    way = way / np.maximum(np.hypot(*way.T), 1e-12)[:, None]
    along = (_inward(edge.loop)[edge.end] * way).sum(axis=1)
    return np.asarray((edge.near * along)[:, None] * way)


def _check_room(loop: Floats, row: Floats) -> None:
    before = np.roll(loop, -1, axis=0) - loop
    after = np.roll(row, -1, axis=0) - row
    if ((before * after).sum(axis=1) < -1e-12).any():
        raise MeshError("The taper or rounding has no room at a narrow place; make it smaller.")


def _cap(plane: Floats, loops: Sequence[Ints], flip: bool) -> list[list[int]]:
    """Of each outline with the holes in it one face if there are none, else triangles. flip: they
    look the other way."""
    faces: list[list[int]] = []
    outer = [signed_area(plane[loop]) > 0 for loop in loops]
    for own, is_outer in zip(loops, outer, strict=True):
        if not is_outer:
            continue
        holes = [
            loop
            for loop, is_other in zip(loops, outer, strict=True)
            if not is_other and _within(plane[loop[0]], plane[own])
        ]
        if not holes:
            faces.append(own.tolist())
            continue
        rings = [own, *holes]
        numbers = np.concatenate(rings)
        # It leaves out no point of a straight side, which the wall beyond has, too.
        triples = manifold3d.triangulate([plane[ring] for ring in rings], _FLAT)
        faces += numbers[np.asarray(triples)].tolist()
    return [face[::-1] for face in faces] if flip else faces
