"""Landmarks of a project: marked, renamed, removed, solved and put back; the whole made larger."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.document import edits, registering, sizing
from dimetron.document.model import Document, Drawing, with_item
from dimetron.document.parts import SavedLook
from dimetron.document.serial import from_json, parsed, to_json
from dimetron.geometry import placement as place
from dimetron.geometry.placement import PlacementError
from dimetron.geometry.views import View
from dimetron.mesh.primitives import box
from dimetron.registration.problem import Length, PictureLength, RegistrationError
from dimetron.registration.solve import solve
from tests.document.test_edits import picture, two_views
from tests.document.test_tray import everything

POINTS = np.array([[10, -40, 20], [-60, 30, 90], [35, 70, 5], [0, 0, 60], [50, -20, 75]], float)


def marked_views() -> tuple[Document, Document]:
    """Three drawings with five landmarks each; and the same with two of them out of place."""
    doc, _, _ = two_views()
    doc, _ = edits.with_drawing(doc, picture("top.png"), View.TOP)
    for k, point in enumerate(POINTS):
        for drawing in doc.drawings:
            x, y = drawing.placement.to_px(drawing.view.to_plane(point))
            doc = registering.marked(doc, f"p{k}", drawing.id, (float(x), float(y)))
    exact = tuple(replace(m, sigma_px=0.1) for m in doc.sightings)
    doc = replace(doc, sightings=exact)
    length = float(np.linalg.norm(POINTS[0] - POINTS[1]))
    doc = registering.with_length(doc, Length("p0", "p1", length))
    doc = registering.with_fixed(doc, "p2", 2, 5.0)
    moved = doc
    for drawing, factor in zip(doc.drawings[1:], (1.3, 0.7), strict=True):
        p = place.turned(drawing.placement, 2.0, (20.0, 30.0))
        moved = with_item(moved, drawing.id, placement=place.resized_about(p, factor, (9.0, 4.0)))
    return doc, moved


def test_solving_brings_drawings_back_to_where_the_marks_say() -> None:
    true, moved = marked_views()
    after = registering.with_solution(moved, solve(registering.problem_of(moved)))
    for a, b in zip(after.drawings, true.drawings, strict=True):
        assert a.placement.mm_per_px == pytest.approx(b.placement.mm_per_px, rel=1e-6)
        assert a.placement.rotation_deg == pytest.approx(b.placement.rotation_deg, abs=1e-5)
    # The origin across is a convention here; that all agree on it is not.
    both = zip(after.drawings, true.drawings, strict=True)
    shifts = [view_x(a) - view_x(b) for a, b in both if shows_x(a)]
    assert shifts[0] == pytest.approx(shifts[1], abs=1e-4)


def shows_x(drawing: Drawing) -> bool:
    return 0 in drawing.view.axes


def view_x(drawing: Drawing) -> float:
    return float(drawing.placement.to_plane((50.0, 50.0))[0])


def test_a_landmark_is_renamed_everywhere_and_goes_with_all_that_names_it() -> None:
    doc, _ = marked_views()
    named = registering.renamed_landmark(doc, "p1", "rim, left")
    assert named.lengths[0].b == "rim, left"
    assert sum(m.landmark == "rim, left" for m in named.sightings) == 3
    for wrong in ("p0", "  "):
        with pytest.raises(RegistrationError, match="already"):
            registering.renamed_landmark(doc, "p1", wrong)
    gone = registering.without_landmark(named, "rim, left")
    assert gone.lengths == () and len(gone.sightings) == 12
    assert len(registering.unmarked(doc, "p0", doc.drawings[0].id).sightings) == 14


def test_a_removed_drawing_takes_its_marks_along() -> None:
    doc, _ = marked_views()
    after = edits.without_item(doc, doc.drawings[0].id)
    assert len(after.sightings) == 10 and len(after.landmarks) == 5


@given(st.floats(0.01, 100))
def test_everything_grows_together(factor: float) -> None:
    doc = everything()
    after = sizing.scaled_project(doc, factor)
    for a, b in zip(after.drawings, doc.drawings, strict=True):
        assert np.allclose(corners(a), corners(b) * factor)
        assert a.placement.stand_off_mm == pytest.approx(b.placement.stand_off_mm * factor)
    assert np.allclose(after.meshes[0].mesh.positions, doc.meshes[0].mesh.positions * factor)
    assert after.references[0].size == pytest.approx(
        tuple(v * factor for v in doc.references[0].size)
    )
    assert after.auxiliaries[0].depth_mm == pytest.approx(doc.auxiliaries[0].depth_mm * factor)
    assert after.lengths == doc.lengths


@given(st.floats(0.01, 100))
def test_a_kept_look_shows_the_same_of_what_grew(factor: float) -> None:
    look = SavedLook(
        *("look", "close", (), ("side",), None, (0.5, 0.5), (1.0, 2.0, 3.0), 0.25, (4.0, 5.0, 6.0)),
        *(30.0, 20.0, 0.5, False, ()),
    )
    (after,) = sizing.scaled_project(replace(everything(), looks=(look,)), factor).looks
    for name in ("focus", "mm_per_px", "target", "orbit_mm_per_px"):
        grown = np.array(getattr(look, name)) * factor
        assert np.allclose(getattr(after, name), grown)
    assert (after.azimuth_deg, after.split) == (30.0, (0.5, 0.5))


def corners(drawing: Drawing) -> np.ndarray:
    return drawing.placement.corners((200, 100))


@pytest.mark.parametrize("factor", [0.0, -1.0, float("nan"), 1e9])
def test_a_size_without_meaning_is_refused(factor: float) -> None:
    with pytest.raises(PlacementError, match="more than zero"):
        sizing.scaled_project(everything(), factor)


def test_a_project_of_format_3_is_read_and_all_in_it_counts() -> None:
    doc, _ = marked_views()
    tree = json.loads(json.dumps(to_json(doc)))
    tree["version"] = 3
    del tree["drawing_lengths"], tree["trust"]
    for item in (*tree["sightings"], *tree["lengths"]):
        del item["counts"]
    read = from_json(parsed(json.dumps(tree).encode(), "old"), {}, {}, "old")
    assert read.sightings == doc.sightings and read.lengths == doc.lengths
    assert read.trust == () and read.drawing_lengths == ()


def test_marks_and_lengths_that_do_not_count_change_nothing_and_are_kept() -> None:
    doc, _ = marked_views()
    front = doc.drawings[0]
    doc = registering.counting(doc, "p3", front.id, False)
    wrong = Length("p0", "p2", 999.0, None, 0.5, counts=False)
    doc = registering.with_length(doc, wrong)
    known = PictureLength(front.id, (10.0, 10.0), (10.0, 60.0), 3.0, counts=False)
    doc = registering.with_drawing_length(doc, known)
    doc = registering.with_trust(doc, front.id, 4.0)
    problem = registering.problem_of(doc)
    assert len(problem.sightings) == len(doc.sightings) - 1
    assert wrong not in problem.lengths and problem.picture_lengths == ()
    assert problem.pictures[0].trust == 4.0
    read = from_json(parsed(json.dumps(to_json(doc)).encode(), "x"), {}, {}, "x")
    kinds = ("sightings", "lengths", "drawing_lengths", "trust")
    assert all(getattr(read, kind) == getattr(doc, kind) for kind in kinds)
    # A drawing that goes takes what was said of it along.
    gone = edits.without_item(doc, front.id)
    assert gone.drawing_lengths == () and gone.trust == ()
    with pytest.raises(RegistrationError, match=r"0\.01 to 100"):
        registering.with_trust(doc, front.id, 0.0)
    with pytest.raises(RegistrationError, match="less than it"):
        registering.with_other_length(doc, wrong, replace(wrong, tolerance_mm=2000.0))


def test_a_repair_puts_marks_where_they_belong_and_leaves_what_does_not_count() -> None:
    doc, _ = marked_views()
    front = doc.drawings[0].id
    aside = registering.counting(doc, "p1", front, False)
    problem = registering.problem_of(aside)
    names = {"p2": "p3", "p3": "p2"}
    marks = tuple(
        replace(m, landmark=names.get(m.landmark, m.landmark)) if m.picture == front else m
        for m in problem.sightings
    )
    pictures = tuple(replace(p, stretched=p.id == front) for p in problem.pictures)
    after = registering.repaired(aside, replace(problem, sightings=marks, pictures=pictures))
    px = {(m.landmark, m.picture): m.px for m in aside.sightings}
    now = {(m.landmark, m.picture): m.px for m in after.sightings}
    assert now["p2", front] == px["p3", front] and now["p1", front] == px["p1", front]
    assert not after.drawing(front).aspect_locked and after.drawings[1].aspect_locked


def test_beside_a_mesh_the_drawings_stay_about_where_they_are() -> None:
    doc, moved = marked_views()
    doc, moved = (
        replace(edits.with_mesh(d, box((0, 0, 0), (9, 9, 9)), "block")[0], lengths=d.lengths)
        for d in (doc, moved)
    )
    open_again = registering.with_fixed(moved, "p2", 2, None)
    solution = solve(registering.problem_of(open_again))
    assert solution.said == ("the drawings stay about where they are",)
    # Of two drawings that show an axis one lies where it should: by the middle nothing flies.
    after = registering.with_solution(open_again, solution)
    for drawing in after.drawings:
        now, before = drawing.placement, moved.drawing(drawing.id).placement
        px = np.array([m.px for m in moved.sightings if m.picture == drawing.id])
        step = now.to_plane(px).mean(axis=0) - before.to_plane(px).mean(axis=0)
        assert np.abs(step).max() < 60
    again = solve(registering.problem_of(after))
    for id_, pose in again.poses.items():
        assert pose.origin_px == pytest.approx(solution.poses[id_].origin_px, abs=0.5)
