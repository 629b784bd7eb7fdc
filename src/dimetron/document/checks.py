"""What a project is checked for: sizes that meshes are to have, and notes pinned to places."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from dimetron.document.edits import numbered
from dimetron.document.fitting import counts, seen
from dimetron.document.model import (
    Document,
    MeshObject,
    PinnedNote,
    SizeCheck,
    SizeEnd,
    new_id,
    with_item,
)
from dimetron.document.names import plain_name
from dimetron.geometry.views import AXIS_NAMES, AnyView
from dimetron.mesh.arrays import Floats
from dimetron.mesh.spots import PREFIX, Spot, marked, spot_of, spots_of, with_spot, without_spot

#: Where landmarks lie, as far as that is known.
Places = Mapping[str, Floats]
#: What is allowed unless it is said, mm.
_TOLERANCE = 0.5
#: No length is larger, mm.
_MOST = 1e7
_EXTENTS = ("width", "depth", "height")


@dataclass(frozen=True, slots=True)
class Sized:
    """How large something is that is checked, and where: ends (2, 3); off: by how much it is larger
    than it may be at least, or smaller, mm; None of what is gone."""

    mm: float | None = None
    ends: Floats | None = None

    def off(self, check: SizeCheck) -> float | None:
        """By how much it is larger than wanted, mm."""
        return None if self.mm is None else self.mm - check.mm

    def holds(self, check: SizeCheck) -> bool:
        """Whether it is as large as it should be."""
        off = self.off(check)
        return off is not None and abs(off) <= check.tolerance_mm + 1e-9


def sized(doc: Document, check: SizeCheck, landmarks: Places) -> Sized:
    """How large it is now."""
    if not check.ends:
        return _extent(doc, check)
    ends = [_end(doc, end, landmarks) for end in check.ends]
    a, b = ends
    if a is None or b is None:
        return Sized()
    way = b - a
    mm = float(np.linalg.norm(way) if check.axis is None else abs(way[check.axis]))
    return Sized(mm, np.stack([a, b]))


def _extent(doc: Document, check: SizeCheck) -> Sized:
    meshes = [m for m in doc.meshes if m.id == check.of or (not check.of and counts(doc, m))]
    boxes = [seen(m).bounds for m in meshes if len(m.mesh.positions)]
    if not boxes or check.axis is None:
        return Sized()
    low, high = np.min([b[0] for b in boxes], axis=0), np.max([b[1] for b in boxes], axis=0)
    begin = low.copy()
    end = low.copy()
    end[check.axis] = high[check.axis]
    return Sized(float(high[check.axis] - low[check.axis]), np.stack([begin, end]))


def _end(doc: Document, end: SizeEnd, landmarks: Places) -> Floats | None:
    if end.landmark:
        return landmarks.get(end.landmark)
    item = next((m for m in doc.meshes if m.id == end.mesh), None)
    return None if item is None else _place(item, end.spot)


def _place(item: MeshObject, key: str) -> Floats | None:
    """Where a marked place is seen: of a cage where its surface has it."""
    return spot_of(item.mesh, key, seen(item).positions)


def end_at(doc: Document, mesh: str, spot: Spot) -> tuple[Document, SizeEnd]:
    """A place on a mesh as an end, and the project in which it is marked. Raises KeyError."""
    key = new_id()
    item = doc.mesh(mesh)
    return with_item(doc, mesh, mesh=with_spot(item.mesh, key, spot)), SizeEnd(mesh, key)


def with_distance(
    doc: Document, a: SizeEnd, b: SizeEnd, axis: int | None, landmarks: Places
) -> tuple[Document, SizeCheck]:
    """With a check of how far two ends lie apart, straight or along an axis, which holds now."""
    made = SizeCheck(new_id(), _free(doc, "distance"), 0.0, _TOLERANCE, axis, (a, b))
    return _added(doc, made, landmarks)


def with_extent_check(doc: Document, axis: int, of: str = "") -> tuple[Document, SizeCheck]:
    """With a check of how wide, deep or tall a mesh is, or all together; it holds now."""
    name = _EXTENTS[axis]
    if of:
        name = f"{name} of {doc.mesh(of).name}"
    made = SizeCheck(new_id(), _free(doc, name), 0.0, _TOLERANCE, axis, (), of)
    return _added(doc, made, {})


def _added(doc: Document, made: SizeCheck, landmarks: Places) -> tuple[Document, SizeCheck]:
    now = sized(doc, made, landmarks).mm
    made = replace(made, mm=round(now or 0.0, 3))
    return replace(doc, sizes=(*doc.sizes, made)), made


def _free(doc: Document, wanted: str) -> str:
    return numbered(wanted, {check.name for check in doc.sizes})


def with_size(doc: Document, id_: str, **changes: object) -> Document:
    """With another wanted length (``mm``), ``tolerance_mm`` or ``name``. Raises ValueError."""
    for check in doc.sizes:
        if check.id != id_:
            continue
        now = replace(check, **changes)  # type: ignore[arg-type]
        if not plain_name(now.name):
            raise ValueError("Type what the check is called.")
        if not (0 <= now.mm <= _MOST and 0 <= now.tolerance_mm <= _MOST):
            raise ValueError("Type a length of 0 or more.")
        now = replace(now, name=plain_name(now.name))
        return replace(doc, sizes=tuple(now if one is check else one for one in doc.sizes))
    return doc


def without_size(doc: Document, id_: str) -> Document:
    """Without a check, and without the marks of its ends."""
    for check in doc.sizes:
        if check.id == id_:
            for end in check.ends:
                if end.spot and doc.item(end.mesh) is not None:
                    mesh = without_spot(doc.mesh(end.mesh).mesh, end.spot)
                    doc = with_item(doc, end.mesh, mesh=mesh)
    return replace(doc, sizes=tuple(check for check in doc.sizes if check.id != id_))


# Landmarks on meshes.

#: Vertices tied to a landmark are marked by its name behind this.
_TIED = "landmark:"


def tied_to(doc: Document, mesh: str, spot: Spot, landmark: str) -> Document:
    """With a place on a mesh tied to a landmark. Raises KeyError."""
    item = doc.mesh(mesh)
    return with_item(doc, mesh, mesh=with_spot(item.mesh, _TIED + landmark, spot))


def tied_spot(doc: Document, mesh: str, landmark: str) -> Spot | None:
    """The place on a mesh that is tied to a landmark, if any is. Raises KeyError."""
    return marked(doc.mesh(mesh).mesh, _TIED + landmark)


def untied(doc: Document, mesh: str, landmark: str) -> Document:
    """Without that tie. Raises KeyError."""
    return with_item(doc, mesh, mesh=without_spot(doc.mesh(mesh).mesh, _TIED + landmark))


def without_ties(doc: Document, landmark: str) -> Document:
    """With no vertex tied to a landmark any more."""
    for item in doc.meshes:
        if PREFIX + _TIED + landmark in item.mesh.layers:
            doc = untied(doc, item.id, landmark)
    return doc


def ties_of(doc: Document) -> list[tuple[str, str, Floats]]:
    """Meshes by their ids, the landmarks that vertices of them are tied to, and where these
    vertices stand."""
    names = {m.name for m in doc.landmarks}
    found = []
    for item in doc.meshes:
        for key in spots_of(item.mesh):
            name = key.removeprefix(_TIED)
            place = _place(item, key)
            if key.startswith(_TIED) and name in names and place is not None:
                found.append((item.id, name, place))
    return found


def with_landmark_called(doc: Document, old: str, new: str) -> Document:
    """With what is checked and tied of a landmark going by its new name."""
    for item in doc.meshes:
        layer = item.mesh.layers.get(PREFIX + _TIED + old)
        if layer is not None and new != old:
            mesh = without_spot(item.mesh, _TIED + old).with_layer(PREFIX + _TIED + new, layer)
            doc = with_item(doc, item.id, mesh=mesh)

    def called(end: SizeEnd) -> SizeEnd:
        return replace(end, landmark=new) if end.landmark == old else end

    sizes = tuple(replace(check, ends=tuple(map(called, check.ends))) for check in doc.sizes)
    return replace(doc, sizes=sizes) if sizes != doc.sizes else doc


# Notes.


def with_note(
    doc: Document, text: str, view: AnyView | None, at: Floats
) -> tuple[Document, PinnedNote]:
    """With a note pinned to a place in space (3,), seen in one view or, without one, in all. Raises
    ValueError if it says nothing."""
    words = plain_name(text)
    if not words:
        raise ValueError("Type what the note says first.")
    x, y, z = (float(v) for v in at)
    made = PinnedNote(new_id(), words, "" if view is None else view.key, (x, y, z))
    return replace(doc, notes=(*doc.notes, made)), made


def with_note_text(doc: Document, id_: str, text: str) -> Document:
    """With other words in a note. Raises ValueError if there are none."""
    words = plain_name(text)
    if not words:
        raise ValueError("Type what the note says.")
    notes = tuple(replace(note, text=words) if note.id == id_ else note for note in doc.notes)
    return replace(doc, notes=notes)


def without_note(doc: Document, id_: str) -> Document:
    """Without a note."""
    return replace(doc, notes=tuple(note for note in doc.notes if note.id != id_))


def said_of(doc: Document, check: SizeCheck) -> str:
    """What is checked, in words."""
    if check.ends:
        along = "straight" if check.axis is None else f"along {AXIS_NAMES[check.axis]}"
        names = [end.landmark or _mesh_name(doc, end.mesh) for end in check.ends]
        return f"{names[0]} to {names[1]}, {along}"
    of = _mesh_name(doc, check.of) if check.of else "all meshes"
    return f"{_EXTENTS[check.axis or 0]} of {of}"


def _mesh_name(doc: Document, id_: str) -> str:
    item = doc.item(id_)
    return "nothing" if item is None else item.name
