"""Edits of the Place station: pivots, pictures changed, back to back, alignment, formulas."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.document import aligning, edits, formulas, placing, size_references
from dimetron.document.model import Document, Drawing, with_item
from dimetron.document.parts import Order, ReferenceKind, Seen
from dimetron.geometry import auxiliary
from dimetron.geometry.camera import OrbitCamera, OrthoCamera
from dimetron.geometry.lengths import LengthError
from dimetron.geometry.placement import Placement, PlacementError
from dimetron.geometry.views import Auxiliary, Hinge, View
from dimetron.mesh.primitives import box
from dimetron.render.compass import turned_to
from dimetron.render.scene import drawings_in
from tests.document.test_edits import picture, two_views

spots = st.tuples(st.floats(-800, 800), st.floats(-800, 800))
placements = st.builds(
    Placement,
    mm_per_px=st.floats(0.01, 20),
    anchor_px=spots,
    anchor_mm=spots,
    rotation_deg=st.floats(-180, 180),
    mirrored=st.booleans(),
    pixel_aspect=st.floats(0.2, 5),
)
TILTED = auxiliary.tilted("slope", "slope", Hinge(View.FRONT, (0, 0, 80), (1, 0, 0), 40))


# Pivots.


@given(placements, spots, st.floats(0.05, 20), st.floats(0.05, 20), st.booleans())
def test_sizing_keeps_the_pivot_and_reaches_the_factors(
    p: Placement, pivot: tuple[float, float], fx: float, fy: float, aspect: bool
) -> None:
    after = placing.scaled(p, (fx, fy), pivot, aspect)
    assert np.allclose(after.to_plane(p.to_px(pivot)), pivot, atol=1e-6)
    wide, high = after.size_mm((100, 50))
    was = p.size_mm((100, 50))
    assert wide == pytest.approx(was[0] * fx)
    assert high == pytest.approx(was[1] * (fx if aspect else fy))
    assert after.rotation_deg == p.rotation_deg


@given(placements, spots, st.floats(-170, 170))
def test_turning_keeps_the_pivot_and_every_distance(
    p: Placement, pivot: tuple[float, float], by: float
) -> None:
    after = placing.turned_about(p, by, pivot)
    assert np.allclose(after.to_plane(p.to_px(pivot)), pivot, atol=1e-6)
    corners, before = after.corners((60, 40)), p.corners((60, 40))
    assert np.allclose(
        np.linalg.norm(corners - pivot, axis=1), np.linalg.norm(before - pivot, axis=1)
    )


@pytest.mark.parametrize("factor", [0.0, -1.0, float("nan"), float("inf")])
def test_a_size_of_nothing_is_refused(factor: float) -> None:
    p = Placement(1.0, (0, 0), (0, 0))
    with pytest.raises(PlacementError, match="more than zero"):
        placing.scaled(p, (1.0, factor), (0, 0), aspect=False)


def test_pivots_follow_the_picture_when_it_is_turned_and_mirrored() -> None:
    doc, front, _ = two_views()
    drawing = doc.drawing(front)
    turned = replace(
        drawing, placement=replace(drawing.placement, rotation_deg=90.0, mirrored=True)
    )
    found = placing.pivots(doc, turned)
    assert len(found) == 9
    assert np.allclose((found["top-left"] + found["bottom-right"]) / 2, found["centre"])
    assert np.allclose(found["top"], (found["top-left"] + found["top-right"]) / 2)


# Another picture, two points, a copied placement.


@given(placements, spots, spots, spots, spots)
def test_two_points_are_laid_onto_two_others(
    p: Placement, a: tuple[float, float], b: tuple[float, float], c: tuple[float, float],
    d: tuple[float, float],
) -> None:  # fmt: skip
    if np.hypot(*np.subtract(a, b)) < 1 or np.hypot(*np.subtract(c, d)) < 1:
        return
    after = placing.matched(p, [a, b], [c, d])
    assert np.allclose(after.to_plane([a, b]), [c, d], atol=1e-5)
    kept = placing.matched(p, [a, b], [c, d], keep_scale=True)
    assert kept.mm_per_px == p.mm_per_px
    assert np.allclose(kept.to_plane([a]), [c], atol=1e-5)
    way, wanted = np.diff(kept.to_plane([a, b]), axis=0)[0], np.subtract(d, c)
    assert np.allclose(way / np.hypot(*way), wanted / np.hypot(*wanted), atol=1e-6)


def test_the_same_point_twice_matches_nothing() -> None:
    p = Placement(1.0, (0, 0), (0, 0))
    for points, targets in (([(1, 1)] * 2, [(0, 0), (5, 5)]), ([(1, 1), (2, 2)], [(3, 3)] * 2)):
        with pytest.raises(PlacementError, match="pick two that lie apart"):
            placing.matched(p, points, targets)


def test_a_newer_scan_keeps_size_and_place_and_another_shape_is_told() -> None:
    doc, front, _ = two_views()
    doc = edits.with_extent(doc, front, 0, 432.0)
    before = doc.drawing(front).placement.centre((200, 100))
    finer, sheet = edits.with_sheet(doc, picture("finer.png", (800, 400)))
    after, words = placing.with_picture(finer, front, sheet)
    assert words == ""
    assert edits.extent(after, front, 0) == pytest.approx(432.0)
    assert np.allclose(after.drawing(front).placement.centre((800, 400)), before)
    taller, sheet = edits.with_sheet(doc, picture("taller.png", (800, 500)))
    after, words = placing.with_picture(taller, front, sheet)
    assert "25.0 % taller" in words and "width was kept" in words
    assert edits.extent(after, front, 0) == pytest.approx(432.0)


def test_a_duplicate_lies_on_the_original_and_can_be_given_another_picture() -> None:
    doc, front, side = two_views()
    doc, copy = placing.duplicated(doc, front)
    assert doc.drawing(copy).placement == doc.drawing(front).placement
    assert doc.drawing(copy).name == "front 2"
    other, _ = placing.replaced(doc, copy, side)
    assert other.drawing(copy).sheet == other.drawing(side).sheet
    assert other.drawing(front) == doc.drawing(front)


def test_a_pasted_placement_brings_scale_turn_and_shared_axes() -> None:
    doc, front, side = two_views()
    p = replace(doc.drawing(front).placement, mm_per_px=0.4, rotation_deg=3.0)
    doc = with_item(doc, front, placement=edits.place.moved(p, (12.0, 34.0)))
    like = doc.drawing(front)
    after = placing.pasted(doc, side, like, (200, 100)).drawing(side)
    assert (after.placement.mm_per_px, after.placement.rotation_deg) == (0.4, 3.0)
    middle = after.placement.centre((300, 160))
    # Both show the height; the depth that only the side shows stays.
    assert middle[1] == pytest.approx(like.placement.centre((200, 100))[1])
    assert middle[0] == pytest.approx(doc.drawing(side).placement.centre((300, 160))[0])


# Where drawings stand, and through which panes they are seen.


def test_drawings_stand_just_outside_everything_or_where_told() -> None:
    doc, front, _ = two_views()
    behind = edits.stand_off(doc, doc.drawing(front))
    reach = edits.bounds(doc)[1, 1]
    assert reach < behind <= reach * 1.1 + 11
    doc, _ = edits.with_mesh(doc, box((-10, -10, 0), (10, 900, 20)), "long")
    assert edits.stand_off(doc, doc.drawing(front)) > 900
    typed = with_item(
        doc, front, stand_auto=False,
        placement=replace(doc.drawing(front).placement, stand_off_mm=5.0),
    )  # fmt: skip
    assert edits.stand_offs(typed)[front] == 5.0
    assert edits.world_corners(typed, typed.drawing(front))[:, 1] == pytest.approx(5.0)


def back_to_back() -> tuple[Document, str, str]:
    doc, front, _ = two_views()
    doc, back = edits.with_drawing(doc, picture("back.png"), View.BACK)
    return placing.back_to_back(doc, back, front), front, back


def test_back_to_back_drawings_share_a_plane_and_each_is_seen_from_its_own_side() -> None:
    doc, front, back = back_to_back()
    planes = [edits.world_corners(doc, doc.drawing(i))[:, 1] for i in (front, back)]
    assert np.allclose(planes[0], planes[1])
    for azimuth, seen in ((-30.0, front), (150.0, back)):
        camera = OrbitCamera(azimuth_deg=azimuth, elevation_deg=20.0)
        shown = {d.id for d in drawings_in(doc, camera)}
        assert shown & {front, back} == {seen}
    for view, seen in ((View.FRONT, front), (View.BACK, back)):
        camera = OrthoCamera(view, (0, 0, 0), 1.0, (100, 100))
        assert [d.id for d in drawings_in(doc, camera)] == [seen]


def test_back_to_back_needs_views_that_look_at_each_other() -> None:
    doc, front, side = two_views()
    with pytest.raises(PlacementError, match="do not look at each other"):
        placing.back_to_back(doc, front, side)


def test_a_picture_seen_from_both_sides_fills_the_opposite_pane_until_that_has_its_own() -> None:
    doc, front, _ = two_views()
    behind = OrthoCamera(View.BACK, (0, 0, 0), 1.0, (100, 100))
    assert [d.id for d in drawings_in(doc, behind)] == [front]
    own_side = placing.shown_as(doc, (front,), both_sides=False)
    assert drawings_in(own_side, behind) == ()
    doc, back = edits.with_drawing(doc, picture("back.png"), View.BACK)
    assert [d.id for d in drawings_in(doc, behind)] == [back]


def test_a_drawing_is_seen_in_its_own_pane_in_3d_too_or_everywhere() -> None:
    doc, front, side = two_views()
    orbit = OrbitCamera()
    right = OrthoCamera(View.RIGHT, (0, 0, 0), 1.0, (100, 100))
    own = placing.shown_as(doc, (front,), seen=Seen.OWN, order=Order.DEPTH)
    assert front not in {d.id for d in drawings_in(own, orbit)}
    assert own.drawing(front).showing.order is Order.DEPTH
    along = placing.shown_as(doc, (front,), seen=Seen.ALONG)
    ahead = turned_to(orbit, "front")
    assert front in {d.id for d in drawings_in(along, ahead)}
    assert front in {d.id for d in drawings_in(along, turned_to(orbit, "back"))}
    aslant = replace(ahead, azimuth_deg=ahead.azimuth_deg + 1.0)
    assert front not in {d.id for d in drawings_in(along, aslant)}
    assert front not in {d.id for d in drawings_in(along, orbit)}
    every = placing.shown_as(doc, (front,), seen=Seen.EVERYWHERE)
    assert {d.id for d in drawings_in(every, right)} == {front, side}


def test_a_drawing_on_an_auxiliary_view_lies_in_its_plane_and_tilts_along() -> None:
    doc, front, _ = two_views()
    doc = placing.with_auxiliary(doc, TILTED)
    doc = edits.moved_to_view(doc, front, TILTED)
    assert edits.stand_off(doc, doc.drawing(front)) == pytest.approx(TILTED.depth_mm)
    steeper = auxiliary.tilted("slope", "slope", replace(TILTED.hinge, angle_deg=55.0))
    doc = placing.with_auxiliary(doc, steeper)
    assert doc.auxiliaries == (steeper,)
    on_it = doc.drawing(front)
    assert isinstance(on_it.view, Auxiliary) and on_it.view == steeper
    assert edits.stand_off(doc, on_it) == pytest.approx(steeper.depth_mm)
    with pytest.raises(PlacementError, match="front lies on this view"):
        placing.without_auxiliary(doc, "slope")
    free = edits.moved_to_view(doc, front, View.FRONT)
    assert placing.without_auxiliary(free, "slope").auxiliaries == ()
    assert placing.free_view_name(doc, "slope") == "slope 2"


def test_three_levels_of_fade_go_round() -> None:
    levels = [0.97]
    for _ in range(4):
        levels.append(placing.next_opacity(levels[-1]))
    assert levels[1:] == [0.85, 0.55, 0.25, 0.85]


# Aligning.

edges = st.sampled_from(sorted(aligning.EDGES))


@given(placements, edges, st.floats(-500, 500))
def test_an_edge_is_put_where_it_is_wanted(p: Placement, edge: str, at: float) -> None:
    doc, front, _ = two_views()
    doc = edits.with_placement(doc, front, p)
    after = aligning.put_edge(doc, front, edge, at)
    assert aligning.edge_of(after, after.drawing(front), edge) == pytest.approx(at, abs=1e-6)


def test_edges_of_ink_count_where_they_are_known() -> None:
    doc, front, side = two_views()
    ink = {front: (50.0, 20.0, 150.0, 90.0), side: (0.0, 60.0, 300.0, 130.0)}
    low = aligning.edge_of(doc, doc.drawing(front), "bottom", ink)
    assert low == pytest.approx(doc.drawing(front).placement.to_plane((0, 90))[1])
    after = aligning.level_with(doc, [side], front, "top", ink)
    tops = [aligning.edge_of(after, after.drawing(i), "top", ink) for i in (front, side)]
    assert tops[0] == pytest.approx(tops[1])


def test_opposite_views_are_level_on_the_same_side_of_the_object() -> None:
    doc, front, _ = two_views()
    doc, back = edits.with_drawing(doc, picture("back.png", (80, 100)), View.BACK)
    after = aligning.level_with(doc, [back], front, "left")
    corners = edits.world_corners(after, after.drawing(back))[:, 0]
    wanted = edits.world_corners(after, after.drawing(front))[:, 0].min()
    assert corners.min() == pytest.approx(wanted)


def test_the_depth_ties_plan_and_side_whichever_edge_is_named() -> None:
    doc, _, side = two_views()
    doc, plan = edits.with_drawing(doc, picture("plan.png", (200, 120)), View.TOP)
    doc = edits.slid(doc, plan, (0.0, 37.0))
    # The plan's lower edge is the object's front, as the side's left one is.
    for edge in ("left", "bottom"):
        after = aligning.level_with(doc, [plan], side, edge)
        ys = [edits.world_corners(after, after.drawing(i))[:, 1].min() for i in (plan, side)]
        assert ys[0] == pytest.approx(ys[1])
    for edge in ("right", "top"):
        after = aligning.level_with(doc, [side], plan, edge)
        ys = [edits.world_corners(after, after.drawing(i))[:, 1].max() for i in (plan, side)]
        assert ys[0] == pytest.approx(ys[1])


def test_a_view_that_lacks_the_axis_is_named() -> None:
    doc, front, side = two_views()
    with pytest.raises(PlacementError, match="side does not show X, as front does"):
        aligning.level_with(doc, [side], front, "left")


@given(st.lists(st.tuples(st.floats(-500, 500), st.floats(10, 200)), min_size=3, max_size=6))
def test_spread_out_drawings_have_equal_gaps_and_the_outermost_stay(
    row: list[tuple[float, float]],
) -> None:
    doc, ids = Document(), []
    for at, width in row:
        doc, id_ = edits.with_drawing(doc, picture(), View.FRONT)
        p = Placement(width / 200, (0.0, 100.0), (at, 0.0))
        doc = edits.with_placement(doc, id_, p)
        ids.append(id_)
    after = aligning.distributed(doc, ids, 0)
    spans = {i: aligning.extent_on_paper(after, after.drawing(i))[:, 0] for i in ids}
    was = {i: aligning.extent_on_paper(doc, doc.drawing(i))[:, 0] for i in ids}
    order = sorted(ids, key=lambda i: float(was[i].sum()))
    gaps = [spans[b][0] - spans[a][1] for a, b in pairwise(order)]
    assert np.allclose(gaps, gaps[0], atol=1e-6)
    assert np.allclose(spans[order[0]], was[order[0]])
    assert np.allclose(spans[order[-1]], was[order[-1]])


def test_spreading_needs_three_drawings_of_one_view() -> None:
    doc, front, side = two_views()
    with pytest.raises(PlacementError, match="three drawings or more"):
        aligning.distributed(doc, [front, side], 0)
    doc, third = edits.with_drawing(doc, picture(), View.FRONT)
    with pytest.raises(PlacementError, match="one view"):
        aligning.distributed(doc, [front, side, third], 0)


# Formulas.


def test_a_formula_follows_its_source_until_it_is_typed_over() -> None:
    doc, front, side = two_views()
    doc = formulas.with_formula(doc, side, "depth", "=front.width/2 + 10 mm")
    assert formulas.value_of(doc, doc.drawing(side), "depth") == pytest.approx(110)
    before = doc
    doc = formulas.evaluated(edits.with_extent(doc, front, 0, 500.0), before)
    assert formulas.value_of(doc, doc.drawing(side), "depth") == pytest.approx(260)
    slid = formulas.evaluated(edits.slid(doc, side, (30, 0)), doc)
    assert slid.drawing(side).formulas == doc.drawing(side).formulas
    by_hand = formulas.evaluated(edits.with_extent(doc, side, 1, 77.0), doc)
    assert by_hand.drawing(side).formulas == ()
    assert formulas.with_formula(doc, side, "depth", "=12 cm").drawing(side).formulas == ()


def test_a_formula_follows_what_is_drawn_and_waits_while_that_is_not_known() -> None:
    doc, front, side = two_views()
    w, h = doc.size_px(doc.drawing(front))
    mm = doc.drawing(front).placement.mm_per_px
    inks = {front: (0.25 * w, 0.0, 0.75 * w, 0.5 * h)}

    def ink_of(_: Document, drawing: Drawing) -> aligning.Box | None:
        return inks.get(drawing.id)

    doc = formulas.with_formula(doc, side, "depth", "=front.ink.width", ink_of)
    assert formulas.value_of(doc, doc.drawing(side), "depth") == pytest.approx(w * mm / 2)
    doc = formulas.with_formula(doc, side, "z", "=front.ink.bottom + 7 mm", ink_of)
    middle = formulas.value_of(doc, doc.drawing(front), "z")
    assert formulas.value_of(doc, doc.drawing(side), "z") == pytest.approx(middle + 7)
    inks[front] = (0.0, 0.0, w / 8, 0.5 * h)
    narrower = formulas.evaluated(doc, doc, ink_of=ink_of)
    assert formulas.value_of(narrower, narrower.drawing(side), "depth") == pytest.approx(w * mm / 8)
    assert formulas.evaluated(doc, doc) is doc
    with pytest.raises(LengthError, match="No ink is known of front"):
        formulas.with_formula(doc, side, "depth", "=front.ink.width")
    with pytest.raises(LengthError, match="The ink of front has no scale; it has width, height"):
        formulas.with_formula(doc, side, "depth", "=front.ink.scale", ink_of)
    for number, text in (
        ("width", "=side.ink.depth"),
        ("turned", "=side.ink.depth/side.ink.height"),
    ):
        inks[side] = inks[front]
        with pytest.raises(LengthError, match="round in a circle"):
            formulas.with_formula(doc, front, number, text, ink_of)


def test_what_waits_for_ink_holds_up_no_other_formula() -> None:
    doc, front, side = two_views()
    doc, back = edits.with_drawing(doc, picture("back.png"), View.BACK)
    inks = {front: (10.0, 10.0, 90.0, 40.0), back: (10.0, 10.0, 50.0, 40.0)}

    def ink_of(_: Document, drawing: Drawing) -> aligning.Box | None:
        return inks.get(drawing.id)

    doc = formulas.with_formula(doc, side, "depth", "=front.ink.width", ink_of)
    doc = formulas.with_formula(doc, back, "width", "=front.width/4", ink_of)
    wider = formulas.evaluated(edits.with_extent(doc, front, 0, 480.0), doc)
    assert formulas.value_of(wider, wider.drawing(back), "width") == pytest.approx(120)
    assert wider.drawing(side) is doc.drawing(side)
    # The middle counts along the world's axis, also where that runs to the left.
    drawing = doc.drawing(back)
    at = drawing.view.to_world(drawing.placement.to_plane((30.0, 25.0)))
    assert formulas.value_of(doc, drawing, "ink.x", ink_of) == pytest.approx(at[0])
    assert formulas.value_of(doc, drawing, "ink.z", ink_of) == pytest.approx(at[2])


def test_formulas_of_formulas_come_to_rest() -> None:
    doc, front, side = two_views()
    doc, top = edits.with_drawing(doc, picture("top.png"), View.TOP)
    doc = formulas.with_formula(doc, side, "depth", "=front.width")
    doc = formulas.with_formula(doc, top, "width", "=side.depth*2")
    doc = formulas.with_formula(doc, top, "x", "=front.right + 5 mm")
    after = formulas.evaluated(edits.with_extent(doc, front, 0, 90.0), doc)
    assert formulas.value_of(after, after.drawing(top), "width") == pytest.approx(180)
    assert formulas.value_of(after, after.drawing(top), "x") == pytest.approx(50)


@pytest.mark.parametrize(
    ("number", "text", "words"),
    [
        ("width", "=side.depth", "round in a circle"),
        ("width", "=front.height*2", "round in a circle"),
        ("width", "=lid.width", "There is no drawing “lid”"),
        ("width", "=side.width", "side has no width; it has depth, height"),
        ("width", "=side.depth-side.depth", "round in a circle"),
        ("x", "=side.height*side.height", "not a length"),
        ("turned", "=side.height", "not a plain number"),
    ],
)
def test_formulas_that_cannot_be_are_refused_in_words(number: str, text: str, words: str) -> None:
    doc, front, side = two_views()
    doc = formulas.with_formula(doc, side, "depth", "=front.width")
    with pytest.raises(LengthError, match=words):
        formulas.with_formula(doc, front, number, text)


def test_a_formula_that_comes_to_nothing_is_refused_and_one_that_loses_its_source_ends() -> None:
    doc, front, side = two_views()
    with pytest.raises(PlacementError, match="more than zero"):
        formulas.with_formula(doc, front, "width", "=side.depth - side.depth")
    doc = formulas.with_formula(doc, side, "depth", "=front.width")
    after = formulas.evaluated(edits.without_item(doc, front), doc)
    assert after.drawing(side).formulas == ()
    assert after.drawing(side).placement == doc.drawing(side).placement
    flat = formulas.with_formula(doc, side, "z", "=front.z + 3 mm")
    assert dict(flat.drawing(side).formulas) == {
        "depth": "=front.width",
        "z": "=front.z + 3 mm",
    }


def test_every_number_that_can_be_asked_for_can_be_given() -> None:
    doc, front, _ = two_views()
    doc = with_item(doc, front, aspect_locked=False)
    for number in formulas.numbers_of(doc.drawing(front)):
        after = formulas.with_value(doc, front, number, 33.0)
        assert formulas.value_of(after, after.drawing(front), number) == pytest.approx(33.0)


@pytest.mark.parametrize("view", [v for v in View if v is not View.FRONT])
def test_a_placement_lies_alike_along_the_axes_that_both_views_show(view: View) -> None:
    doc, front, other = two_views()
    doc = edits.moved_to_view(doc, other, view)
    lying = replace(doc.drawing(front).placement, anchor_mm=(37.0, 81.0), stand_off_mm=0.0)
    doc = edits.with_placement(doc, front, lying)
    like = doc.drawing(front)
    doc = placing.pasted(doc, other, like, doc.size_px(like))
    mine, theirs = (edits.world_corners(doc, doc.drawing(i)).mean(axis=0) for i in (other, front))
    shared = set(view.axes) & {0, 2}
    assert shared
    for axis in shared:
        assert mine[axis] == pytest.approx(theirs[axis]), axis


@pytest.mark.parametrize("away", [0.0, 35.0, -12.0])
def test_a_drawing_keeps_its_distance_from_a_view_that_is_tilted(away: float) -> None:
    doc, id_, _ = two_views()
    doc = placing.with_auxiliary(doc, TILTED)
    doc = edits.moved_to_view(doc, id_, TILTED)
    placement = doc.drawing(id_).placement
    behind = replace(placement, stand_off_mm=TILTED.depth_mm + away)
    doc = edits.with_placement(doc, id_, behind)
    steeper = auxiliary.tilted(TILTED.id, "slope", Hinge(View.FRONT, (0, 0, 140), (1, 0, 0), 65))
    after = placing.with_auxiliary(doc, steeper).drawing(id_)
    assert after.view == steeper
    assert after.placement.stand_off_mm - steeper.depth_mm == pytest.approx(away)


@given(st.floats(-80, 80), st.tuples(*[st.floats(-300, 300)] * 3))
def test_a_drawing_on_an_inclined_plane_stands_behind_everything_and_counts_where_it_lies(
    tilt: float, point: tuple[float, float, float]
) -> None:
    view = auxiliary.tilted("slope", "slope", Hinge(View.FRONT, point, (1, 0, 0), tilt))
    doc, id_, _ = two_views()
    doc, _ = edits.with_mesh(doc, box((-30, -400, 0), (60, 250, 90)), "body")
    doc = edits.moved_to_view(placing.with_auxiliary(doc, view), id_, view)
    doc = with_item(doc, id_, stand_auto=True)
    drawing = doc.drawing(id_)
    reach = edits.bounds(doc)
    assert reach is not None
    # Where it lies in its plane counts along all three axes.
    lying = drawing.placement.world_corners(view, doc.size_px(drawing), view.depth_mm)
    assert (reach[0] <= lying.min(axis=0) + 1e-9).all()
    assert (reach[1] >= lying.max(axis=0) - 1e-9).all()
    corners = np.array(np.meshgrid(*reach.T)).reshape(3, -1).T @ view.directions.forward
    if corners.max() > 0:
        assert edits.stand_off(doc, drawing) >= corners.max()


def test_what_is_hidden_does_not_count_where_only_what_is_shown_does() -> None:
    doc, front, side = two_views()
    doc, id_ = edits.with_mesh(doc, box((-30, -400, 0), (60, 250, 900)), "body")
    everything = edits.bounds(doc)
    hidden = with_item(doc, id_, shown=False)
    assert np.array_equal(edits.bounds(hidden), everything)
    assert np.allclose(
        edits.bounds(hidden, shown_only=True), edits.bounds(edits.without_item(doc, id_))
    )
    for drawing in (front, side):
        hidden = with_item(hidden, drawing, shown=False)
    assert edits.bounds(hidden, shown_only=True) is None


def test_a_size_is_taken_over_from_what_is_drawn_from_meshes_and_from_references() -> None:
    doc, front, side = two_views()
    # Ink of 60 mm and 70 mm height within pictures of 100 and 160.
    ink = {front: (50.0, 20.0, 150.0, 80.0), side: (0.0, 60.0, 300.0, 130.0)}
    after = aligning.matched_extent(doc, side, front, 2, ink)
    spans = [aligning.extent_on_paper(after, after.drawing(i), ink)[:, 1] for i in (front, side)]
    assert np.allclose(spans[0], spans[1])
    doc, body = edits.with_mesh(doc, box((-30, -50, 10), (40, 70, 95)), "body")
    after = aligning.matched_extent(doc, side, body, 1, ink)
    across = aligning.extent_on_paper(after, after.drawing(side), ink)[:, 0]
    assert np.allclose(across, (-50, 70))
    doc, ruler = size_references.with_reference(doc, ReferenceKind.FIGURE, (500.0, 0.0, 0.0))
    tall = doc.references[0].size[2]
    after = aligning.matched_extent(doc, front, ruler, 2, ink)
    up = aligning.extent_on_paper(after, after.drawing(front), ink)[:, 1]
    assert np.ptp(up) == pytest.approx(tall, rel=1e-3) and up[0] == pytest.approx(0, abs=1e-3)
    with pytest.raises(PlacementError, match="do not share"):
        aligning.matched_extent(doc, front, side, 1, ink)
