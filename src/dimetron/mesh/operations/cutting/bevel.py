"""Edges replaced by bands of faces."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.counting import counted
from dimetron.mesh.arrays import Ints, MeshError
from dimetron.mesh.bevels.faces import Made, Shape, made
from dimetron.mesh.bevels.plan import Around, planned
from dimetron.mesh.bevels.radius import Got, shares_for
from dimetron.mesh.bevels.room import Room, room
from dimetron.mesh.corner_cuts import cut_off
from dimetron.mesh.edited import Edited, Note
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import Drag, choice, count, length, number, only
from dimetron.mesh.select import Kind, Selection, none

#: A radius that is off by less is as good as the one that was typed.
_NEAR = 0.02
_BY = (("width", "width"), ("radius", "radius"))
_CORNERS = (("face", "one face"), ("round", "round"))


@dataclass(frozen=True)
class Bevel:
    """How wide and how round."""

    width: float = length(
        2.0,
        low=1e-6,
        drag=Drag.ACROSS,
        when=only("by", "width"),
        hint="How far each new edge stands from the old one along its face",
    )
    radius: float = length(
        2.0,
        low=1e-6,
        drag=Drag.ACROSS,
        when=only("by", "radius"),
        hint="Of the smooth surface across each edge, in its middle",
    )
    segments: int = count(1, high=64, hint="How many faces across")
    profile: float = number(
        0.5, low=0.0, high=1.0, hint="0: flat; 0.5: round; 1: out to where the edge was"
    )
    by: str = choice(
        "width", _BY, hint="What is typed: its width, or how round the smooth surface gets"
    )
    corners: str = choice(
        "face", _CORNERS, hint="What closes a corner where three bands or more meet"
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
    shape = Shape(how.segments, how.profile, how.corners == "round")
    if how.by == "radius":
        got = shares_for(mesh, edges, how.radius, shape)
        around = Around(mesh, edges, got.shares)
        done, notes = made(around, planned(around), 1.0, shape), _off(got, how.radius, edges)
    else:
        around = Around(mesh, edges, np.ones(len(edges)))
        plan = planned(around)
        width, notes = _limited(room(around, plan), how.width)
        done = made(around, plan, width, shape)
    return Edited(done.mesh, Selection(Kind.FACE, done.faces), (*notes, *_unrounded(done)))


def _limited(room: Room, width: float) -> tuple[float, list[Note]]:
    """The width there is room for, and a note where that is less."""
    if width <= room.width:
        return width, []
    words = f"The width is limited to {room.width:.4g} mm, as wide as the faces allow."
    return room.width, [Note(words, Kind.EDGE, room.short_of(width))]


def _off(got: Got, radius: float, edges: Ints) -> list[Note]:
    """Where the smooth surface gets another radius."""
    off = abs(got.radii / radius - 1) > _NEAR
    if not off.any():
        return []
    least, most = got.radii[off].min(), got.radii[off].max()
    small = got.full or most < radius
    why = "the faces allow no more" if small else "more segments allow less"
    words = f"The smooth surface gets a radius of {least:.4g} to {most:.4g} mm there: {why}."
    return [Note(words, Kind.WHOLE, none())]


def _unrounded(done: Made) -> list[Note]:
    """Corners that could not be rounded."""
    if not done.plain:
        return []
    words = counted(done.plain, "corner stays one face", "corners stay one face each")
    return [Note(f"{words}: an even number of segments rounds them.", Kind.WHOLE, none())]
