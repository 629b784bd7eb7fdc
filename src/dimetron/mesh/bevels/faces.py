"""What stands in place of bevelled edges: rows of vertices, bands between them, and corners."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.around import chained, expanded
from dimetron.mesh.arrays import Floats, Ints, Mask
from dimetron.mesh.bevels.corners import rounded
from dimetron.mesh.bevels.plan import Around, Plan
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.replaced import (
    Faces,
    Points,
    Replacement,
    cleaned,
    face_sizes,
    last_faces,
    polygons,
    replaced,
)

#: Profiles from here on are the corner itself.
_CORNER = 0.97
#: No corner is rounded.
_NONE: tuple[list[Faces], Floats, Ints] = ([], np.zeros((0, 3)), np.zeros(0, np.int32))


@dataclass(frozen=True, slots=True)
class Shape:
    """How many faces there are across, in which profile (0 flat, 0.5 round, 1 the edge itself), and
    whether corners are rounded."""

    segments: int = 1
    profile: float = 0.5
    rounded: bool = False


@dataclass(frozen=True, eq=False)
class Made:
    """What a bevel comes to: the mesh, and its new faces (f,), those of the bands first, edge by
    edge. plain: so many corners stayed one face each, of those that were to be rounded."""

    mesh: Mesh
    faces: Ints
    plain: int


def made(around: Around, plan: Plan, width: float, shape: Shape) -> Made:
    """Bevel edges as planned."""
    t = around.t
    named, points = _rows(around, plan, width, shape)
    gone = np.unique(t.corner_face[around.corners])
    corners = _Corners(plan, named, t.vertex_count)
    round_, more, like = corners.rounded(points.positions) if shape.rounded else _NONE
    new = [_bands(plan, named), *round_, corners.plain(bool(round_))]
    points = Points(np.concatenate([points.positions, more]), np.concatenate([points.a, like]))
    around_them = _neighbours(around, plan, gone, named)
    what = Replacement(gone=gone, faces=[around_them, *new], points=points)
    done = replaced(around.mesh, what).mesh
    count = sum(len(part.sizes) for part in new)
    return Made(done, last_faces(done, count), corners.plain_count if shape.rounded else 0)


def _rows(around: Around, plan: Plan, width: float, shape: Shape) -> tuple[Ints, Points]:
    """(r, segments + 1) the vertices across each end of a band, and where all of them stand."""
    n, segments = around.t.vertex_count, shape.segments
    places = around.mesh.positions[plan.vertex] + plan.rate * width
    a, b = places[plan.rows].swapaxes(0, 1)
    v = plan.vertex[plan.rows[:, 0]]
    corner = around.mesh.positions[v]
    base = corner + plan.slide * ((((a + b) / 2 - corner) * plan.slide).sum(axis=1)[:, None])
    first = len(places) + np.arange(len(v) * (segments - 1)).reshape(len(v), segments - 1)
    rows = np.concatenate([plan.rows[:, :1], first, plan.rows[:, 1:]], axis=1)
    x, y = _profile(np.arange(1, segments) / segments, shape.profile)
    shaped = base[:, None] + (a - base)[:, None] * x[:, None] + (b - base)[:, None] * y[:, None]
    where = np.concatenate([places, shaped.reshape(-1, 3)])
    like = np.concatenate([plan.vertex, np.repeat(v, segments - 1)]).astype(np.int32)
    # A band that ends in a point.
    point = plan.rows[:, 0] == plan.rows[:, 1]
    rows[point] = plan.rows[point, :1]
    return n + rows, Points(where, like)


def _bands(plan: Plan, named: Ints) -> Faces:
    """The faces in place of edges."""
    segments = named.shape[1] - 1
    low, high = _ends(plan, named)
    quads = np.stack([low[:, :-1], low[:, 1:], high[:, 1:], high[:, :-1]], axis=2)
    corner = np.repeat(plan.band_corners[:, None], segments, axis=1).reshape(-1, 4)
    return cleaned(polygons(quads.reshape(-1, 4), np.repeat(plan.band_face, segments), corner))


def _neighbours(around: Around, plan: Plan, faces: Ints, named: Ints) -> Faces:
    """The faces around, with their new corners."""
    t, segments = around.t, named.shape[1] - 1
    corners = t.corners_of(faces)
    first, last, row = plan.first[corners], plan.last[corners], plan.row[corners]
    sizes = np.where(row >= 0, segments + 1, np.where(first == last, 1, 2))
    step, who = expanded(np.zeros(len(corners), np.int64), sizes)
    old = t.corners[corners]
    begin = np.where(first >= 0, t.vertex_count + first, old)
    end = np.where(last >= 0, t.vertex_count + last, old)
    vertices = np.where(step == 0, begin[who], end[who])
    on = row[who] >= 0
    turned = first > last
    at = np.where(turned[who], segments - step, step)
    vertices[on] = named[row[who][on], at[on]]
    return cleaned(
        Faces(
            face_sizes(sizes, t.sizes[faces]),
            vertices.astype(np.int32),
            faces.astype(np.int32),
            corners[who].astype(np.int32),
        )
    )


class _Corners:
    """What closes the corners where bands meet. named (r, segments + 1): the vertices of rows."""

    def __init__(self, plan: Plan, named: Ints, n: int) -> None:
        self._plan, self._named, self._n = plan, named, n
        chains = chained(plan.cap_begin, plan.cap_end)
        order = np.argsort(plan.cap_begin, kind="stable")
        link = np.full(len(chains.items), -1)
        at = np.searchsorted(plan.cap_begin[order], chains.items).clip(0, len(order) - 1)
        begins = plan.cap_begin[order[at]] == chains.items
        link[begins] = order[at[begins]]
        self._chains, self._link = chains, link
        self._row = np.where(link >= 0, plan.cap_row[link], -1)
        self._large = chains.sizes >= 3

    def plain(self, others: bool) -> Faces:
        """A face for each vertex at which three bands or more meet, or that a band ends beside;
        others: only where none is rounded."""
        plan, chains, link, row = self._plan, self._chains, self._link, self._row
        segments = self._named.shape[1] - 1
        step, who = expanded(np.zeros(len(link), np.int64), np.where(row >= 0, segments, 1))
        count, items = len(plan.vertex), chains.items
        old = items >= count
        kept = plan.kept[np.where(old, items - count, 0)] if len(plan.kept) else items
        vertices = np.where(old, kept, self._n + items)[who]
        turned = plan.cap_begin[link] > plan.cap_end[link]
        on = row[who] >= 0
        place = np.where(turned[who], segments - step, step)
        vertices[on] = self._named[row[who][on], place[on]]
        sizes = np.where(row >= 0, segments, 1)
        ends = np.concatenate([[0], np.cumsum(sizes)])[chains.offsets]
        large = self._large & ~self._round if others else self._large
        every = np.repeat(large, np.diff(ends))
        face = plan.cap_face[link[chains.offsets[:-1]]]
        none = np.full(int(every.sum()), -1, np.int32)
        sizes = np.diff(ends)[large].astype(np.int32)
        return cleaned(Faces(sizes, vertices[every].astype(np.int32), face[large], none))

    @property
    def _between_bands(self) -> Mask:
        """(k,) corners at which three bands or more meet."""
        bands = np.minimum.reduceat(self._row, self._chains.offsets[:-1]) >= 0
        return self._large & self._chains.closed & bands

    @property
    def _round(self) -> Mask:
        """(k,) of these, those of segments that can be halved."""
        odd = (self._named.shape[1] - 1) % 2 == 1
        return np.zeros(len(self._large), bool) if odd else self._between_bands

    @property
    def plain_count(self) -> int:
        """How many of them cannot be rounded."""
        return int((self._between_bands & ~self._round).sum())

    def rounded(self, places: Floats) -> tuple[list[Faces], Floats, Ints]:
        """Quads in the corners where that can be, the places (p, 3) of their new vertices, and
        which old ones (p,) these are like. places: of all new vertices so far."""
        low, high = _ends(self._plan, self._named)
        sides = np.concatenate([low[:, ::-1], high]) - self._n
        far = np.concatenate([high[:, ::-1], low]) - self._n
        sizes, first = self._chains.sizes, self._chains.offsets[:-1]
        faces, points, like = [], [np.zeros((0, 3))], [np.zeros(0, np.int32)]
        for k in np.unique(sizes[self._round]).tolist():
            mine = np.flatnonzero(self._round & (sizes == k))
            link = self._link[first[mine][:, None] + np.arange(k)]
            so_far = len(places) + sum(map(len, points))
            quads, made = rounded(sides[link], far[link], places, so_far)
            face = np.repeat(self._plan.cap_face[link[:, 0]], quads.shape[1])
            faces.append(polygons((self._n + quads.reshape(-1, 4)).astype(np.int32), face))
            points.append(made.reshape(-1, 3))
            corner = self._plan.vertex[self._plan.cap_begin[link[:, 0]]]
            like.append(np.repeat(corner, made.shape[1]).astype(np.int32))
        return faces, np.concatenate(points), np.concatenate(like)


def _ends(plan: Plan, named: Ints) -> tuple[Ints, Ints]:
    """The vertices (b, segments + 1) of the rows at both ends of each band."""
    low, high = (
        np.where(turned[:, None], named[row][:, ::-1], named[row]) for row, turned in plan.bands
    )
    return low, high


def _profile(t: Floats, profile: float) -> tuple[Floats, Floats]:
    """How much of each side counts at places t along a superellipse's quarter: a straight line at
    0, the circle at 0.5, the corner itself at 1."""
    if profile <= 0:
        return 1 - t, t
    # |x|^p + |y|^p = 1 has p = 1 for a line, 2 for a circle, and grows without end to a corner.
    angle = t * np.pi / 2
    c, s = np.cos(angle), np.sin(angle)
    if profile > _CORNER:
        long = np.maximum(c, s)
    else:
        p = 2 * profile / (1 - profile) if profile > 0.5 else 1 + 2 * profile
        long = (c**p + s**p) ** (1 / p)
    return np.asarray(1 - s / long), np.asarray(1 - c / long)
