"""Landmarks of a project: marking them in drawings, known lengths, and what solving makes of them.

All are pure functions ``document -> document``, but for ``problem_of``.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import TYPE_CHECKING, Any

import numpy as np

from dimetron.document.bodies import pictures_body
from dimetron.document.checks import with_landmark_called, without_ties
from dimetron.document.edits import first_placement, numbered
from dimetron.document.model import Document, Drawing, with_item
from dimetron.document.names import plain_name
from dimetron.document.naming import tidied
from dimetron.geometry.placement import PlacementError
from dimetron.geometry.views import View
from dimetron.registration.pose import Pose, placement_of, pose_of
from dimetron.registration.problem import (
    Landmark,
    Length,
    Picture,
    PictureLength,
    Problem,
    RegistrationError,
    Sighting,
)

if TYPE_CHECKING:
    from dimetron.imaging.shape import Shape
    from dimetron.registration.byink.features import Feature
    from dimetron.registration.byink.proposal import Proposal
    from dimetron.registration.solve import Solution

Px = tuple[float, float]


def pictures_of(doc: Document, stays: tuple[str, ...] = ()) -> tuple[Picture, ...]:
    """The project's drawings as registration sees them; stays: ids that are pinned besides."""
    return tuple(
        Picture(
            d.id,
            d.name,
            d.view,
            pose_of(d.placement),
            trust=trust_of(doc, d.id),
            pinned=d.id in doc.pinned or d.id in stays,
            stretched=not d.aspect_locked,
            body=pictures_body(doc, d),
        )
        for d in doc.planes
    )


def problem_of(doc: Document) -> Problem:
    """The project's drawings, landmarks and lengths as a registration problem."""
    pictures = pictures_of(doc)
    there = {p.id for p in pictures}
    marks = tuple(m for m in doc.sightings if m.picture in there and m.counts)
    lengths = tuple(n for n in doc.lengths if n.counts)
    within = tuple(n for n in doc.drawing_lengths if n.picture in there and n.counts)
    # What was modelled already must not lose its drawings, and what stands on the ground stays.
    stand = bool(doc.meshes) or any(_arranged(doc, d) for d in doc.planes)
    return Problem(pictures, doc.landmarks, marks, lengths, within, in_place=stand)


def _arranged(doc: Document, drawing: Drawing) -> bool:
    """Whether a drawing was ever put anywhere, by hand or with its sheet."""
    first = first_placement(doc, doc.size_px(drawing), drawing.view, 1.0)
    now = drawing.placement
    where = (now.anchor_px, now.anchor_mm, now.rotation_deg, now.mirrored)
    return where != (first.anchor_px, first.anchor_mm, 0.0, False)


def with_solution(doc: Document, solution: Solution) -> Document:
    """Put the drawings where a solution has them. Raises PlacementError."""
    return _with_poses(doc, solution.poses)


def _with_poses(doc: Document, poses: Mapping[str, Pose]) -> Document:
    for drawing in doc.planes:
        pose = poses.get(drawing.id)
        if pose in (None, pose_of(drawing.placement)) or drawing.id in doc.pinned:
            continue
        try:
            placement = placement_of(pose, drawing.placement)
        except PlacementError as error:
            raise PlacementError(f"{drawing.name}: {error}") from error
        doc = with_item(doc, drawing.id, placement=placement)
    return doc


def with_proposal(doc: Document, proposal: Proposal) -> Document:
    """Put the drawings where their ink proposes, on the plane of the view they look like. Raises
    PlacementError."""
    for id_, reading in proposal.readings.items():
        view = reading.view
        if doc.drawing(id_).view is not view:
            doc = with_item(doc, id_, view=view)
    return _with_poses(doc, proposal.poses)


def features_of(doc: Document, shapes: Mapping[str, Shape]) -> tuple[Feature, ...]:
    """What the drawings show at the same place as they lie now, by their shapes: landmarks to
    propose, but for those that are marked already."""
    from dimetron.registration.byink.features import Placed, features

    placed = [
        Placed(d.id, d.view, pose_of(d.placement), shapes[d.id])
        for d in doc.planes
        if d.id in shapes and isinstance(d.view, View)
    ]
    marked = {(m.picture, m.px) for m in doc.sightings}
    return tuple(f for f in features(placed) if not marked & set(f.px.items()))


_LEVELS = ("width level", "depth level", "height level")


def with_feature(doc: Document, feature: Feature) -> tuple[Document, str]:
    """Add what drawings show at the same place as a landmark; returns the document and its name."""
    wanted = "point" if feature.axis is None else _LEVELS[feature.axis]
    doc, name = new_landmark(doc, wanted)
    for id_, px in feature.px.items():
        doc = marked(doc, name, id_, px, feature.axis)
    return doc, name


def landmark_of(doc: Document, name: str) -> Landmark | None:
    """The landmark of this name, or None."""
    return next((m for m in doc.landmarks if m.name == name), None)


def new_landmark(doc: Document, wanted: str = "landmark") -> tuple[Document, str]:
    """Add a landmark that is not marked yet; returns the document and its name."""
    name = numbered(wanted, {m.name for m in doc.landmarks})
    return replace(doc, landmarks=(*doc.landmarks, Landmark(name))), name


def marked(doc: Document, name: str, drawing: str, px: Px, axis: int | None = None) -> Document:
    """Mark a landmark in a drawing, or move the mark that is there. axis: the one world axis that a
    new mark counts for."""
    name = plain_name(name)
    if landmark_of(doc, name) is None:
        doc = replace(doc, landmarks=(*doc.landmarks, Landmark(name)))
    mine = (name, drawing)
    if any((m.landmark, m.picture) == mine for m in doc.sightings):
        marks = tuple(
            replace(m, px=px) if (m.landmark, m.picture) == mine else m for m in doc.sightings
        )
    else:
        marks = (*doc.sightings, Sighting(name, drawing, px, axis=axis))
    return replace(doc, sightings=marks)


def unmarked(doc: Document, name: str, drawing: str) -> Document:
    """Take a mark away; the landmark stays."""
    marks = tuple(m for m in doc.sightings if (m.landmark, m.picture) != (name, drawing))
    return replace(doc, sightings=marks)


def without_landmark(doc: Document, name: str) -> Document:
    """Remove a landmark with its marks, the lengths that name it and what is tied to it."""
    doc = without_ties(doc, name)
    return tidied(replace(doc, landmarks=tuple(m for m in doc.landmarks if m.name != name)))


def renamed_landmark(doc: Document, old: str, new: str) -> Document:
    """Give a landmark another name. Raises RegistrationError if it is taken or empty."""
    new = plain_name(new)
    if not new or (new != old and landmark_of(doc, new) is not None):
        raise RegistrationError(f"There is a landmark “{new}” already; choose another name.")

    def name(text: str) -> str:
        return new if text == old else text

    return replace(
        with_landmark_called(doc, old, new),
        landmarks=tuple(
            replace(m, name=name(m.name), mirror=m.mirror and name(m.mirror)) for m in doc.landmarks
        ),
        sightings=tuple(replace(m, landmark=name(m.landmark)) for m in doc.sightings),
        lengths=tuple(replace(n, a=name(n.a), b=name(n.b)) for n in doc.lengths),
    )


def with_fixed(doc: Document, name: str, axis: int, mm: float | None) -> Document:
    """Say one coordinate of a landmark, or leave it open again."""
    marks = []
    for mark in doc.landmarks:
        if mark.name == name:
            fixed = list(mark.fixed)
            fixed[axis] = mm
            mark = replace(mark, fixed=(fixed[0], fixed[1], fixed[2]))
        marks.append(mark)
    return replace(doc, landmarks=tuple(marks))


def with_mirror(doc: Document, name: str, twin: str | None) -> Document:
    """Say that two landmarks mirror each other about the centre plane, or that one has no twin."""
    marks = []
    for mark in doc.landmarks:
        if mark.name == name:
            mark = replace(mark, mirror=twin)
        elif mark.mirror == name or (twin is not None and mark.mirror == twin):
            mark = replace(mark, mirror=None)
        marks.append(mark)
    marks = [replace(m, mirror=None) if twin is not None and m.name == twin else m for m in marks]
    return replace(doc, landmarks=tuple(marks))


def with_length(doc: Document, length: Length) -> Document:
    """Add a known length, in the place of one between the same landmarks along the same axis.

    Raises RegistrationError if it has no meaning."""
    if not (np.isfinite(length.mm) and length.mm > 0) or length.a == length.b:
        raise RegistrationError("A known length must be more than zero, between two landmarks.")
    ends = {length.a, length.b}
    others = tuple(n for n in doc.lengths if {n.a, n.b} != ends or n.axis != length.axis)
    return replace(doc, lengths=(*others, length))


def with_other_length(
    doc: Document, old: Length | PictureLength, new: Length | PictureLength | None
) -> Document:
    """Put another known length in the place of one, or take it away. Raises RegistrationError."""
    if new is not None and not (np.isfinite(new.mm) and new.mm > 0):
        raise RegistrationError("A known length must be more than zero.")
    if new is not None and new.tolerance_mm is not None and not 0 < new.tolerance_mm < new.mm:
        raise RegistrationError("How exactly it is known must be more than zero, and less than it.")
    lengths = [new if n == old else n for n in doc.lengths]
    others = [new if n == old else n for n in doc.drawing_lengths]
    return replace(
        doc,
        lengths=tuple(n for n in lengths if isinstance(n, Length)),
        drawing_lengths=tuple(n for n in others if isinstance(n, PictureLength)),
    )


def _changed_mark(doc: Document, name: str, drawing: str, **values: Any) -> Document:
    mine = (name, drawing)
    return replace(
        doc,
        sightings=tuple(
            replace(m, **values) if (m.landmark, m.picture) == mine else m for m in doc.sightings
        ),
    )


def guided(doc: Document, name: str, drawing: str, axis: int | None) -> Document:
    """Let a mark count along one world axis only, or along all that its drawing shows."""
    # Two guides become the one mark that counts along both.
    return tidied(_changed_mark(doc, name, drawing, axis=axis))


def picked_to(doc: Document, name: str, drawing: str, sigma_px: float) -> Document:
    """Say how exactly a mark was picked. Raises RegistrationError."""
    if not 0.01 <= sigma_px <= 1000:
        raise RegistrationError("Type how exactly it was picked, 0.01 to 1000 pixels.")
    return _changed_mark(doc, name, drawing, sigma_px=sigma_px)


def counting(doc: Document, name: str, drawing: str, counts: bool) -> Document:
    """Let a mark count, or leave it as an open disagreement that is only shown."""
    return _changed_mark(doc, name, drawing, counts=counts)


def repaired(doc: Document, problem: Problem) -> Document:
    """The document with the marks and stretched drawings of a repaired problem of it."""
    marks = iter(problem.sightings)
    there = {d.id for d in doc.planes}
    doc = replace(
        doc,
        sightings=tuple(
            next(marks) if m.counts and m.picture in there else m for m in doc.sightings
        ),
    )
    for picture in problem.pictures:
        if picture.stretched and doc.drawing(picture.id).aspect_locked:
            doc = with_item(doc, picture.id, aspect_locked=False)
    return doc


def with_pinned(doc: Document, drawing: str, on: bool) -> Document:
    """Let a drawing stay where it is while others are registered to it, or not."""
    others = tuple(id_ for id_ in doc.pinned if id_ != drawing)
    return replace(doc, pinned=(*others, drawing) if on else others)


def trust_of(doc: Document, drawing: str) -> float:
    """How much the marks of a drawing count."""
    return dict(doc.trust).get(drawing, 1.0)


def with_trust(doc: Document, drawing: str, trust: float) -> Document:
    """Say how much the marks of a drawing count against others'. Raises RegistrationError."""
    if not 0.01 <= trust <= 100:
        raise RegistrationError("Type how much its marks count against others’, 0.01 to 100.")
    others = tuple(pair for pair in doc.trust if pair[0] != drawing)
    return replace(doc, trust=others if trust == 1.0 else (*others, (drawing, trust)))


def with_drawing_length(doc: Document, length: PictureLength) -> Document:
    """Add a known length between two points of one drawing. Raises RegistrationError."""
    if not (np.isfinite(length.mm) and length.mm > 0 and length.px > 0):
        raise RegistrationError("A known length must be more than zero, between two points.")
    return replace(doc, drawing_lengths=(*doc.drawing_lengths, length))


def carried(before: Document, after: Document, drawing: Drawing) -> Document:
    """Marks in a drawing stay on what they mark when its crop, turn or sheet changes."""
    marked = {m.picture for m in after.sightings} | {n.picture for n in after.drawing_lengths}
    if drawing.id not in marked:
        return after
    old, new = before.frame(drawing), after.frame(after.drawing(drawing.id))

    def there(px: Px) -> Px:
        x, y = new.to_frame(old.to_source(np.array(px)))
        return float(x), float(y)

    return replace(
        after,
        sightings=tuple(
            replace(m, px=there(m.px)) if m.picture == drawing.id else m for m in after.sightings
        ),
        drawing_lengths=tuple(
            replace(n, a_px=there(n.a_px), b_px=there(n.b_px)) if n.picture == drawing.id else n
            for n in after.drawing_lengths
        ),
    )
