"""Edges replaced by bands of faces."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.around import chained, expanded
from dimetron.mesh.arrays import Floats, Ints, MeshError, unit
from dimetron.mesh.bevelling import Around, Plan, planned
from dimetron.mesh.corner_cuts import cut_off
from dimetron.mesh.edited import Edited, Note
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import Drag, count, length, number
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
from dimetron.mesh.select import Kind, Selection

#: Of the width at which an edge of a face would be gone, so much is taken at most.
_MOST = 0.999
#: Profiles from here on are the corner itself.
_CORNER = 0.97


@dataclass(frozen=True)
class Bevel:
    """How wide and how round."""

    width: float = length(
        2.0,
        low=1e-6,
        drag=Drag.ACROSS,
        hint="How far each new edge stands from the old one along its face",
    )
    segments: int = count(1, high=64, hint="How many faces across")
    profile: float = number(
        0.5, low=0.0, high=1.0, hint="0: flat; 0.5: round; 1: out to where the edge was"
    )


@operation(
    "bevel",
    title="Bevel",
    icon="bevel",
    takes=(Kind.EDGE, Kind.VERTEX),
    key="Ctrl+Shift+E",
    order=10,
)
def bevel(mesh: Mesh, chosen: Selection, how: Bevel) -> Edited:
    """Replace edges by bands of faces; where three or more meet, a face closes the corner.

    Edges of a border, or of more than two faces, stay. Vertices are cut off instead, so far along
    each of their edges. Where the width would use up an edge of a face it is limited. The new faces
    are selected.
    """
    if chosen.kind is Kind.VERTEX:
        return cut_off(mesh, chosen.indices, how.width)
    topology = mesh.topology
    edges = chosen.indices[topology.edge_face_count[chosen.indices] == 2]
    if not len(edges):
        raise MeshError("Only edges between two faces can be bevelled; choose such edges.")
    around = Around(mesh, edges)
    plan = planned(around)
    width, notes = _limited(around, plan, how.width)
    named, points = _rows(around, plan, width, how)
    faces = np.unique(topology.corner_face[around.corners])
    bands = [_bands(plan, named), *_caps(plan, named, topology.vertex_count)]
    what = Replacement(
        gone=faces, faces=[_neighbours(around, plan, faces, named), *bands], points=points
    )
    done = replaced(mesh, what).mesh
    made = last_faces(done, sum(len(part.sizes) for part in bands))
    return Edited(done, Selection(Kind.FACE, made), notes)


def _limited(around: Around, plan: Plan, width: float) -> tuple[float, tuple[Note, ...]]:
    """The width at which no edge of a face is used up, and a note where that is less."""
    t, p = around.t, around.mesh.positions
    near = np.zeros(t.face_count, bool)
    near[t.corner_face[around.corners]] = True
    corners = np.flatnonzero(near[t.corner_face])
    after = t.next_corner[corners]
    way = p[t.corners[after]] - p[t.corners[corners]]
    long = np.linalg.norm(way, axis=1)
    shorter = ((plan.rates(corners, plan.last) - plan.rates(after, plan.first)) * unit(way)).sum(1)
    tight = shorter > 1e-9
    most = float((long[tight] / shorter[tight]).min(initial=np.inf)) * _MOST
    if width <= most:
        return width, ()
    where = np.unique(t.corner_edge[corners[tight][long[tight] / shorter[tight] < width]])
    words = f"The width is limited to {most:.4g} mm, as wide as the faces allow."
    return most, (Note(words, Kind.EDGE, where.astype(np.int32)),)


def _rows(around: Around, plan: Plan, width: float, how: Bevel) -> tuple[Ints, Points]:
    """(r, segments + 1) the vertices across each end of a band, and where all of them stand."""
    n, segments = around.t.vertex_count, how.segments
    places = around.mesh.positions[plan.vertex] + plan.rate * width
    a, b = places[plan.rows].swapaxes(0, 1)
    v = plan.vertex[plan.rows[:, 0]]
    corner = around.mesh.positions[v]
    base = corner + plan.slide * ((((a + b) / 2 - corner) * plan.slide).sum(axis=1)[:, None])
    first = len(places) + np.arange(len(v) * (segments - 1)).reshape(len(v), segments - 1)
    rows = np.concatenate([plan.rows[:, :1], first, plan.rows[:, 1:]], axis=1)
    x, y = _profile(np.arange(1, segments) / segments, how.profile)
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
    low, high = (
        np.where(turned[:, None], named[row][:, ::-1], named[row]) for row, turned in plan.bands
    )
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


def _caps(plan: Plan, named: Ints, n: int) -> list[Faces]:
    """A face for each vertex at which three bands or more meet, or that a band ends beside."""
    segments = named.shape[1] - 1
    chains = chained(plan.cap_begin, plan.cap_end)
    order = np.argsort(plan.cap_begin, kind="stable")
    link = np.full(len(chains.items), -1)
    at = np.searchsorted(plan.cap_begin[order], chains.items).clip(0, len(order) - 1)
    begins = plan.cap_begin[order[at]] == chains.items
    link[begins] = order[at[begins]]
    row = np.where(link >= 0, plan.cap_row[link], -1)
    step, who = expanded(np.zeros(len(link), np.int64), np.where(row >= 0, segments, 1))
    count = len(plan.vertex)
    items = chains.items
    old = items >= count
    kept = plan.kept[np.where(old, items - count, 0)] if len(plan.kept) else items
    vertices = np.where(old, kept, n + items)[who]
    turned = plan.cap_begin[link] > plan.cap_end[link]
    on = row[who] >= 0
    place = np.where(turned[who], segments - step, step)
    vertices[on] = named[row[who][on], place[on]]
    sizes = np.where(row >= 0, segments, 1)
    ends = np.concatenate([[0], np.cumsum(sizes)])[chains.offsets]
    large = chains.sizes >= 3
    every = np.repeat(large, np.diff(ends))
    face = plan.cap_face[link[chains.offsets[:-1]]]
    none = np.full(int(every.sum()), -1, np.int32)
    made = Faces(
        np.diff(ends)[large].astype(np.int32), vertices[every].astype(np.int32), face[large], none
    )
    return [cleaned(made)]


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
