"""Drawings of one sheet are sized and turned together, unless somebody said otherwise."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.document import aligning, bodies, edits, preparing, registering
from dimetron.document.model import Document, with_item
from dimetron.document.serial import from_json, parsed, to_json
from dimetron.geometry import placement as place
from dimetron.geometry.placement import PlacementError
from dimetron.geometry.views import View
from dimetron.imaging.frame import Crop
from dimetron.registration.problem import PictureLength, Sighting
from dimetron.registration.solve import solve
from tests.document.test_preparing import proposed


def placed() -> Document:
    doc, sheet = proposed()
    return preparing.place_all(doc, sheet)


def corners(doc: Document) -> np.ndarray:
    return np.array([d.placement.corners(doc.size_px(d)) for d in doc.planes])


@given(st.floats(0.1, 10.0), st.integers(0, 2))
def test_a_known_length_in_one_drawing_sizes_its_sheet_about_the_origin(
    factor: float, which: int
) -> None:
    doc = placed()
    drawing = doc.planes[which]
    p = place.to_known_length(drawing.placement, (10, 10), (110, 10), 50.0 * factor)
    after = bodies.carried_along(doc, drawing.id, p)
    assert np.allclose(corners(after), corners(doc) * factor)
    assert {d.placement.mm_per_px for d in after.planes} == {p.mm_per_px}


def test_a_small_turn_is_the_papers_and_a_quarter_turn_the_drawings() -> None:
    doc = placed()
    front = doc.planes[0]
    mirrored = place.flipped(doc.planes[1].placement, (0.0, 0.0))
    doc = with_item(doc, doc.planes[1].id, placement=mirrored)
    tilted = place.turned(front.placement, 1.5, (0.0, 0.0))
    after = bodies.carried_along(doc, front.id, tilted)
    # The paper turns one way: seen through a mirrored drawing, the other.
    assert [d.placement.rotation_deg for d in after.planes] == pytest.approx([1.5, -1.5, 1.5])
    for before, now in zip(doc.planes, after.planes, strict=True):
        px = before.placement.to_px((0.0, 0.0))
        assert np.allclose(now.placement.to_plane(px), 0.0, atol=1e-9)
    laid = place.turned(front.placement, 90.0, (200.0, 150.0))
    alone = bodies.carried_along(doc, front.id, laid)
    assert alone.planes[0].placement == laid
    assert alone.planes[1:] == doc.planes[1:]


def test_what_is_slid_stretched_or_pinned_is_by_itself() -> None:
    doc = placed()
    front, side, _ = doc.planes
    slid = place.moved(front.placement, (3.0, 4.0))
    stretched = place.with_pixel_aspect(front.placement, 1.1)
    for p in (slid, stretched):
        after = bodies.carried_along(doc, front.id, p)
        assert after.planes[0].placement == p and after.planes[1:] == doc.planes[1:]
    doc = replace(doc, pinned=(side.id,))
    larger = place.resized_about(front.placement, 2.0, (0.0, 0.0))
    after = bodies.carried_along(doc, front.id, larger)
    assert [d.placement.mm_per_px for d in after.planes] == [1.0, 0.5, 1.0]
    with pytest.raises(PlacementError):
        huge = place.resized_about(front.placement, 1e9, (0.0, 0.0))
        bodies.carried_along(doc, front.id, huge)


def test_they_are_separated_and_joined_again() -> None:
    doc = placed()
    front, side, top = doc.planes
    assert bodies.words_of(doc, front.id) == "Sized with 2 others"
    apart = bodies.separated(doc, [top.id])
    assert bodies.words_of(apart, front.id) == "Sized with can right"
    assert bodies.words_of(apart, top.id) == ""
    larger = place.resized_about(top.placement, 2.0, (0.0, 0.0))
    assert bodies.carried_along(apart, top.id, larger).planes[:2] == apart.planes[:2]
    tree = parsed(json.dumps(to_json(apart)).encode(), "x")
    assert from_json(tree, {}, {}, "x").drawing(top.id).body == top.id
    again = bodies.joined(apart, [top.id])
    assert bodies.body_of(again, top.id) == doc.planes
    # Any drawings can be one, of other sheets, too; then their own sheets' others are not.
    more, other = edits.with_drawing(doc, replace(doc.sources[0], id="s2"), View.BACK)
    one = bodies.joined(more, [other, side.id])
    assert {d.id for d in bodies.body_of(one, other)} == {other, side.id}
    assert bodies.words_of(one, front.id) == "Sized with can top"


def test_a_size_taken_over_from_its_own_body_parts_them() -> None:
    doc = placed()
    front, side, top = doc.planes
    after = aligning.matched_extent(doc, top.id, side.id, 1)
    assert edits.extent(after, top.id, 1) == pytest.approx(edits.extent(after, side.id, 1))
    after = edits.with_extent(after, front.id, 2, 300.0)
    assert edits.extent(after, side.id, 2) == pytest.approx(300.0)
    assert after.drawing(top.id).placement.mm_per_px == top.placement.mm_per_px


def test_a_view_that_is_placed_later_is_as_large_as_its_body_became() -> None:
    doc, sheet = proposed()
    doc = preparing.placed(doc, [d.id for d in doc.drawings[:2]])
    larger = place.resized_about(doc.planes[0].placement, 1.7, (0.0, 0.0))
    doc = preparing.place_all(bodies.carried_along(doc, doc.planes[0].id, larger), sheet)
    assert [d.placement.mm_per_px for d in doc.planes] == pytest.approx([0.85] * 3)


def test_registering_keeps_one_sheet_to_one_size_on_the_ground() -> None:
    doc = placed()
    front, side, top = doc.planes
    marks = []
    for name, at in (("a", (-90.0, 0.0, 20.0)), ("b", (80.0, 30.0, 140.0))):
        for d in (front, side):
            x, y = d.placement.to_px(d.view.to_plane(np.array(at)))
            marks.append(Sighting(name, d.id, (float(x), float(y))))
    for mark in marks:
        doc = registering.marked(doc, mark.landmark, mark.picture, mark.px)
    doc = registering.with_drawing_length(
        doc, PictureLength(front.id, (0.0, 0.0), (100.0, 0.0), 100.0)
    )
    after = registering.with_solution(doc, solve(registering.problem_of(doc)))
    assert np.allclose(corners(after), corners(doc) * 2.0, atol=0.05)
    assert top.id not in {m.picture for m in doc.sightings}


def test_what_was_never_arranged_is_put_where_convention_says() -> None:
    doc, front = edits.with_drawing(Document(), placed().sources[0], View.FRONT)
    doc, _ = edits.with_drawing(doc, replace(doc.sources[0], id="s2"), View.RIGHT)
    assert not registering.problem_of(doc).in_place
    assert registering.problem_of(edits.slid(doc, front, (1.0, 0.0))).in_place
    cropped = with_item(doc, front, crop=Crop(10, 10, 300, 200))
    assert registering.problem_of(cropped).in_place
