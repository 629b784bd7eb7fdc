"""Solving against known truth: poses, landmarks, their uncertainty, and what cannot be known."""

from __future__ import annotations

import re
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from dimetron.geometry import auxiliary
from dimetron.geometry.placement import Placement
from dimetron.geometry.views import Hinge, View
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
from dimetron.registration.solve import Solution, solve
from dimetron.registration.suspects import odd_lengths, suspects, unknown
from tests.registration.objects import THREE, Truth, made

seeds = st.integers(0, 10_000)


def points_of(solution: Solution) -> np.ndarray:
    return np.array([solution.points[m.name] for m in solution.problem.landmarks], float)


def without(truth: Truth, drop: object) -> Problem:
    marks = tuple(s for s in truth.problem.sightings if not drop(s))  # type: ignore[operator]
    return replace(truth.problem, sightings=marks)


placements = st.builds(
    Placement,
    mm_per_px=st.floats(0.01, 10),
    anchor_px=st.tuples(st.floats(-500, 500), st.floats(-500, 500)),
    anchor_mm=st.tuples(st.floats(-500, 500), st.floats(-500, 500)),
    rotation_deg=st.floats(-179, 179),
    mirrored=st.booleans(),
    pixel_aspect=st.floats(0.5, 2),
)


@given(placements, st.tuples(st.floats(-900, 900), st.floats(-900, 900)))
def test_a_pose_is_its_placement_and_back(p: Placement, px: tuple[float, float]) -> None:
    pose = pose_of(p)
    assert np.allclose(pose.to_plane(px), p.to_plane(px), atol=1e-6)
    assert np.allclose(pose.to_px(pose.to_plane(px)), px, atol=1e-6)
    back = placement_of(pose, p)
    assert np.allclose(back.to_plane(px), p.to_plane(px), atol=1e-6)


@settings(max_examples=40)
@example(853, False, 5)
@given(seeds, st.booleans(), st.integers(5, 20))
def test_without_noise_the_truth_is_found_to_the_last_digit(
    seed: int, flipped: bool, count: int
) -> None:
    flips = (False, flipped, False)
    truth = made(np.random.default_rng(seed), count=count, noise=0.0, mirrored=flips)
    exact = tuple(replace(m, sigma_px=0.02) for m in truth.problem.sightings)
    solution = solve(replace(truth.problem, sightings=exact))
    assert solution.rms_px < 1e-6
    for i, true in enumerate(truth.poses):
        found = solution.poses[f"p{i}"]
        assert found.mirrored == true.mirrored
        assert found.mm_per_px == pytest.approx(true.mm_per_px, rel=1e-7)
        assert found.rotation_deg == pytest.approx(true.rotation_deg, abs=1e-6)
    found_points, true_points = points_of(solution), truth.points
    shift = (found_points - true_points).mean(axis=0)
    assert np.allclose(found_points - shift, true_points, atol=1e-4)
    assert found_points[:, 2].min() == pytest.approx(0, abs=1e-9)
    assert solution.loose == () and unknown(solution) == ()
    assert any("ground" in words for words in solution.said)


def test_of_two_drawings_that_face_each_other_one_is_taken_as_mirrored() -> None:
    # Front and top alone show X: which of the two is mirrored gives the object or its mirror image.
    truth = made(np.random.default_rng(21), noise=0.0, mirrored=(True, False, False))
    solution = solve(truth.problem)
    assert solution.rms_px < 1e-6
    assert [p.mirrored for p in solution.poses.values()].count(True) == 1


def test_errors_are_as_small_as_the_noise_allows_and_sigmas_say_so() -> None:
    inside = total = 0
    for seed in range(30):
        truth = made(np.random.default_rng(seed), count=12, anchored=True)
        solution = solve(truth.problem)
        sigma = np.array([solution.sigmas[f"m{k}"] for k in range(1, 12)], float)
        error = points_of(solution)[1:] - truth.points[1:]
        inside += int((np.abs(error) < 1.645 * sigma).sum())
        total += error.size
    assert 0.85 <= inside / total <= 0.95


def test_a_stretched_scan_gets_a_height_of_its_own() -> None:
    truth = made(np.random.default_rng(5), noise=0.0)
    pictures, marks = list(truth.problem.pictures), []
    pictures[1] = replace(pictures[1], stretched=True)
    for mark in truth.problem.sightings:
        squashed = (mark.px[0], mark.px[1] * 0.93)
        marks.append(replace(mark, px=squashed) if mark.picture == "p1" else mark)
    problem = replace(truth.problem, pictures=tuple(pictures), sightings=tuple(marks))
    solution = solve(problem)
    assert solution.rms_px < 1e-5
    assert solution.poses["p1"].aspect == pytest.approx(0.93, rel=1e-6)


def test_a_pinned_drawing_stays_and_the_others_fit_to_it() -> None:
    truth = made(np.random.default_rng(6), noise=0.0, lengths=0)
    pinned = replace(truth.problem.pictures[0], present=truth.poses[0], pinned=True)
    problem = replace(truth.problem, pictures=(pinned, *truth.problem.pictures[1:]))
    solution = solve(problem)
    assert solution.poses["p0"] == truth.poses[0]
    found = points_of(solution)
    assert np.allclose(found[:, [0, 2]], truth.points[:, [0, 2]], atol=1e-5)


def test_an_auxiliary_view_is_registered_too() -> None:
    rng = np.random.default_rng(7)
    truth = made(rng, noise=0.0, count=8)
    slope = auxiliary.tilted("s", "slope", Hinge(View.FRONT, (0, 0, 0), (1, 0, 0), 35.0))
    true = Pose(4.0, 0.05, (300.0, 700.0))
    px = true.to_px(slope.to_plane(truth.points))
    picture = Picture("aux", "slope", slope, Pose(3.5, 0.0, (250.0, 650.0)))
    marks = tuple(
        Sighting(f"m{k}", "aux", (float(px[k, 0]), float(px[k, 1]))) for k in range(len(px))
    )
    problem = replace(
        truth.problem,
        pictures=(*truth.problem.pictures, picture),
        sightings=(*truth.problem.sightings, *marks),
    )
    solution = solve(problem)
    assert solution.rms_px < 1e-5
    assert solution.poses["aux"].mm_per_px == pytest.approx(true.mm_per_px, rel=1e-6)


def test_guides_count_along_their_axis_only() -> None:
    truth = made(np.random.default_rng(8), noise=0.0, turn_deg=0.0)
    moved = tuple(
        replace(s, px=(s.px[0] + 400.0, s.px[1]), axis=2)
        if s.picture == "p1" and s.landmark in ("m2", "m3")
        else s
        for s in truth.problem.sightings
    )
    solution = solve(replace(truth.problem, sightings=moved))
    assert solution.rms_px < 1e-5


def test_mirrored_twins_lie_alike_on_both_sides() -> None:
    truth = made(np.random.default_rng(9), noise=1.0)
    points = truth.points.copy()
    twin = points[0] * [-1, 1, 1]
    marks = [s for s in truth.problem.sightings if s.landmark != "m1"]
    for i, view in enumerate(THREE):
        px = truth.poses[i].to_px(view.to_plane(twin))
        marks.append(Sighting("m1", f"p{i}", (float(px[0]), float(px[1]))))
    landmarks = (Landmark("m0", mirror="m1"), *truth.problem.landmarks[1:])
    length = Length("m2", "m3", float(np.linalg.norm(points[2] - points[3])))
    problem = replace(truth.problem, landmarks=landmarks, sightings=tuple(marks), lengths=(length,))
    solution = solve(problem)
    a, b = (np.array(solution.points[n], float) for n in ("m0", "m1"))
    assert np.allclose(a * [-1, 1, 1], b)
    # The twins also say where the centre plane is.
    assert not solution.gauge.free[0]
    assert solution.points["m2"][0] == pytest.approx(points[2][0], abs=1.5)


def test_the_scale_comes_from_a_length_in_one_drawing_or_from_fixed_coordinates() -> None:
    truth = made(np.random.default_rng(10), noise=0.0, lengths=0)
    px = [s.px for s in truth.problem.sightings if s.picture == "p2"][:2]
    mm = float(np.hypot(*np.subtract(*px)) * truth.poses[2].mm_per_px)
    by_picture = replace(truth.problem, picture_lengths=(PictureLength("p2", px[0], px[1], mm),))
    heights = tuple(
        replace(m, fixed=(None, None, float(truth.points[k, 2]))) if k < 2 else m
        for k, m in enumerate(truth.problem.landmarks)
    )
    for problem in (by_picture, replace(truth.problem, landmarks=heights)):
        solution = solve(problem)
        assert solution.poses["p0"].mm_per_px == pytest.approx(truth.poses[0].mm_per_px, rel=1e-6)
        assert not solution.gauge.scale


# What cannot be known.


def test_without_a_length_only_proportions_are_known_and_it_is_said() -> None:
    solution = solve(made(np.random.default_rng(11), lengths=0).problem)
    assert "only proportions are known" in unknown(solution)[0]
    assert solution.loose == ()


@pytest.mark.parametrize(
    ("drop", "words"),
    [
        (
            lambda s: s.picture == "p2",
            "the size, turn and place of top are not determined and stay: mark two ",
        ),
        (
            lambda s: s.picture == "p2" and s.landmark != "m1",
            "top are not determined and stay: it shares one landmark along X; mark a second",
        ),
    ],
)
def test_what_the_marks_do_not_determine_is_said_with_its_cure(drop: object, words: str) -> None:
    truth = made(np.random.default_rng(12))
    solution = solve(without(truth, drop))
    (said,) = unknown(solution)
    assert words in said
    assert {picture for picture, _ in solution.loose} == {"p2"}
    true = truth.poses[0].mm_per_px
    assert solution.poses["p0"].mm_per_px == pytest.approx(true, rel=0.02)


def test_a_landmark_seen_once_keeps_what_it_does_not_show_open() -> None:
    truth = made(np.random.default_rng(13))
    solution = solve(without(truth, lambda s: s.landmark == "m5" and s.picture != "p0"))
    x, y, z = solution.points["m5"]
    assert y is None and x is not None and z is not None
    assert solution.sigmas["m5"][1] is None


@pytest.mark.parametrize("count", [1, 2])
def test_next_to_nothing_marked_does_not_fail(count: int) -> None:
    truth = made(np.random.default_rng(14), count=2, lengths=0)
    marks = tuple(s for s in truth.problem.sightings if int(s.landmark[1:]) < count)
    solution = solve(replace(truth.problem, sightings=marks[: count * 3]))
    assert np.isfinite(solution.rms_px)
    assert unknown(solution)


def test_marks_in_a_line_leave_the_turn_of_a_drawing_known_and_nothing_breaks() -> None:
    rng = np.random.default_rng(15)
    truth = made(rng, noise=0.0)
    line = truth.points[0] + np.outer(np.linspace(0, 1, 10), [0.0, 0.0, 120.0])
    marks = []
    for i, view in enumerate(THREE):
        px = truth.poses[i].to_px(view.to_plane(line))
        marks += [Sighting(f"m{k}", f"p{i}", (float(px[k, 0]), float(px[k, 1]))) for k in range(10)]
    length = Length("m0", "m9", 120.0)
    solution = solve(replace(truth.problem, sightings=tuple(marks), lengths=(length,)))
    assert all(np.isfinite(p.mm_per_px) for p in solution.poses.values())
    assert {picture for picture, _ in solution.loose} == {"p2"}


# What does not agree.


def test_a_displaced_mark_is_the_first_suspect_and_others_are_left_alone() -> None:
    first = alone = 0
    for seed in range(30):
        rng = np.random.default_rng(seed)
        truth = made(rng, count=int(rng.integers(8, 14)))
        assert suspects(solve(truth.problem)) == ()
        marks = list(truth.problem.sightings)
        wrong = int(rng.integers(len(marks)))
        off = rng.choice([-1, 1], 2) * rng.uniform(12, 40, 2)
        x, y = marks[wrong].px
        marks[wrong] = replace(marks[wrong], px=(x + off[0], y + off[1]))
        found = suspects(solve(replace(truth.problem, sightings=tuple(marks))))
        first += bool(found) and found[0].sighting == wrong
        alone += bool(found) and found[0].after_mm < found[0].before_mm / 2
    assert first >= 29 and alone >= 27


def test_a_suspect_is_told_by_how_much_and_which_way() -> None:
    # A height is shown by three drawings here, so two outvote the third.
    views = (View.FRONT, View.RIGHT, View.TOP, View.BACK)
    truth = made(np.random.default_rng(3), views, noise=0.2, turn_deg=0.0)
    marks = list(truth.problem.sightings)
    at = next(i for i, s in enumerate(marks) if (s.landmark, s.picture) == ("m4", "p1"))
    up_px = 4.2 / truth.poses[1].mm_per_px
    marks[at] = replace(marks[at], px=(marks[at].px[0], marks[at].px[1] - up_px))
    (suspect, *_) = suspects(solve(replace(truth.problem, sightings=tuple(marks))))
    assert re.match(r"m4 in right is 4\.[123] mm too high; without it the mismatch", suspect.words)
    assert suspect.size_mm == pytest.approx(4.2, abs=0.4)


def test_contradictory_lengths_are_named() -> None:
    truth = made(np.random.default_rng(16), count=12, lengths=4)
    wrong = replace(truth.problem.lengths[2], mm=truth.problem.lengths[2].mm * 1.08)
    lengths = (*truth.problem.lengths[:2], wrong, truth.problem.lengths[3])
    said = odd_lengths(solve(replace(truth.problem, lengths=lengths)))
    assert any("m4 to m5 comes out" in words and "less than" in words for words in said)
    assert odd_lengths(solve(truth.problem)) == ()


@settings(max_examples=25, deadline=None)
@example(415, 1.25, -27.6, 100.0)
@given(seeds, st.floats(0.3, 3.0), st.floats(-30, 30), st.floats(-400, 400))
def test_what_is_found_does_not_depend_on_where_the_pictures_lay(
    seed: int, factor: float, turn_deg: float, shift: float
) -> None:
    """Scanned finer, turned and cut otherwise, the same drawings give the same object."""
    truth = made(np.random.default_rng(seed), count=12, noise=0.1)
    turn = np.exp(1j * np.radians(turn_deg)) * factor
    exact, marks = [], []
    for mark in truth.problem.sightings:
        mark = replace(mark, sigma_px=0.1)
        exact.append(mark)
        if mark.picture == "p1":
            z = complex(*mark.px) * turn + complex(shift, -shift)
            mark = replace(mark, px=(z.real, z.imag), sigma_px=0.1 * factor)
        marks.append(mark)
    before, after = (solve(replace(truth.problem, sightings=tuple(m))) for m in (exact, marks))
    for name, at in before.points.items():
        assert after.points[name] == pytest.approx(at, abs=1e-3)
    ratio = before.poses["p1"].mm_per_px / after.poses["p1"].mm_per_px
    assert ratio == pytest.approx(factor, rel=1e-5)


@settings(max_examples=40, deadline=None)
@given(
    seeds,
    st.sampled_from(["line", "plane", "spot", "one drawing", "two marks"]),
    st.integers(1, 6),
)
def test_degenerate_sets_are_solved_or_said_to_be_open_and_nothing_is_not_a_number(
    seed: int, kind: str, count: int
) -> None:
    rng = np.random.default_rng(seed)
    truth = made(rng, count=max(2, count), lengths=0)
    points = truth.points.copy()
    if kind == "line":
        points = points[0] + np.outer(np.arange(len(points)), (7.0, -3.0, 5.0))
    elif kind == "plane":
        points[:, 1] = 20.0
    elif kind == "spot":
        points[:] = points[0]
    marks = []
    for mark in truth.problem.sightings:
        i = int(mark.picture[1:])
        view = truth.problem.pictures[i].view
        x, y = truth.poses[i].to_px(view.to_plane(points[int(mark.landmark[1:])]))
        marks.append(replace(mark, px=(float(x), float(y))))
    if kind == "one drawing":
        marks = [m for m in marks if m.picture == "p0"]
    elif kind == "two marks":
        marks = marks[:1] + marks[-1:]
    solution = solve(replace(truth.problem, sightings=tuple(marks)))
    assert np.isfinite(solution.off).all() and np.isfinite(solution.strength).all()
    for pose in solution.poses.values():
        assert np.isfinite([pose.alpha, pose.beta, *pose.origin_px]).all()
        assert pose.mm_per_px > 0
    assert unknown(solution)


# What has no meaning.


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"sightings": ()}, "Nothing is marked yet"),
        ({"sightings": (Sighting("rim", "p0", (1, 1)),)}, "no landmark “rim”"),
        ({"sightings": (Sighting("m0", "p9", (1, 1)),)}, "a drawing that is not there"),
        ({"sightings": (Sighting("m0", "p0", (float("nan"), 1)),)}, "not marked at a place"),
        ({"sightings": (Sighting("m0", "p0", (1, 1)),) * 2}, "marked twice in front"),
        ({"lengths": (Length("m0", "m1", 0.0),)}, "must be more than zero"),
        ({"lengths": (Length("m0", "m0", 5.0),)}, "to itself"),
        ({"lengths": (Length("m0", "rim", 5.0),)}, "which is no landmark"),
        ({"landmarks": (Landmark("a"), Landmark("a"))}, "is there twice"),
        ({"landmarks": (Landmark("m0", mirror="x"),)}, "is mirrored by “x”"),
        (
            {"landmarks": (Landmark("a", (5, None, 2), "b"), Landmark("b", (5, None, 2)))},
            "“a” and “b” mirror each other, but X 5 mm and 5 mm do not",
        ),
    ],
)
def test_what_has_no_meaning_is_refused_in_words(change: dict[str, object], words: str) -> None:
    problem = made(np.random.default_rng(1), count=2, lengths=0).problem
    if "landmarks" in change:
        change = {**change, "sightings": (Sighting(change["landmarks"][0].name, "p0", (1, 1)),)}  # type: ignore[index]
    with pytest.raises(RegistrationError, match=words):
        solve(replace(problem, **change))  # type: ignore[arg-type]


@pytest.mark.parametrize("degrees", [25.0, -25.0, 35.0])
@pytest.mark.parametrize("seed", [404, 405, 411])
def test_a_drawing_that_is_turned_far_does_not_end_mirrored(seed: int, degrees: float) -> None:
    truth = made(np.random.default_rng(seed))
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    turn = np.array([[c, -s], [s, c]])
    for picture in ("p0", "p1", "p2"):
        marks = tuple(
            replace(m, px=tuple(float(v) for v in turn @ (np.array(m.px) - 500) + 500))
            if m.picture == picture
            else m
            for m in truth.problem.sightings
        )
        solution = solve(replace(truth.problem, sightings=marks))
        assert solution.rms_px < 2.5
        assert not any(pose.mirrored for pose in solution.poses.values())
