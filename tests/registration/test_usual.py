"""What is usual holds where marks say nothing, and gives way where they do."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from dimetron.geometry.views import View
from dimetron.registration.certainty import pose_slopes
from dimetron.registration.normal import pose_from
from dimetron.registration.pose import Pose
from dimetron.registration.problem import Landmark, Picture, PictureLength, Problem, Sighting
from dimetron.registration.solve import Solution, solve
from dimetron.registration.suspects import unknown
from tests.registration.objects import Few, few, made

#: The ends of an object 400 mm long and 200 mm high, on the ground and about the centre line.
NOSE, TAIL = (0.0, -200.0, 80.0), (0.0, 200.0, 120.0)
LEFT, RIGHT = (-150.0, 20.0, 60.0), (150.0, 20.0, 60.0)
VIEWS = {"front": View.FRONT, "side": View.RIGHT, "plan": View.TOP}


def placed(
    seen: dict[str, dict[str, tuple[float, float, float]]],
    present: dict[str, Pose] | None = None,
    true: dict[str, Pose] | None = None,
    body: str = "",
) -> Problem:
    """Drawings that show points as their true poses say and lie as their present ones do: both
    upright, two pixels a millimetre with the origin at (500, 900), if nothing else is said."""
    usual = Pose(2.0, 0.0, (500.0, 900.0))
    pictures = tuple(
        Picture(name, name, view, (present or {}).get(name, usual), body=body)
        for name, view in VIEWS.items()
    )
    marks = []
    for name, points in seen.items():
        pose = (true or {}).get(name, usual)
        for landmark, at in points.items():
            x, y = pose.to_px(VIEWS[name].to_plane(np.array(at)))
            marks.append(Sighting(landmark, name, (float(x), float(y))))
    names = sorted({m.landmark for m in marks})
    return Problem(pictures, tuple(Landmark(n) for n in names), tuple(marks), in_place=True)


LONG = {"nose": NOSE, "tail": TAIL}
WIDE = {"left": LEFT, "right": RIGHT}


def turned(degrees: float, mm_per_px: float = 0.5) -> Pose:
    z = np.exp(1j * np.radians(degrees)) / mm_per_px
    return Pose(float(z.real), float(z.imag), (500.0, 900.0))


def test_what_marks_leave_open_stays_as_it_lies_and_is_said() -> None:
    lies = {"front": turned(0.7, 0.45), "plan": turned(90.0)}
    problem = placed({"side": LONG, "plan": LONG}, lies, {"plan": turned(90.0)})
    solution = solve(problem)
    # Nothing is marked in the front; the plan stays turned by a quarter.
    front, plan = solution.poses["front"], solution.poses["plan"]
    assert front.rotation_deg == pytest.approx(0.7) and front.mm_per_px == pytest.approx(0.45)
    assert front.origin_px == pytest.approx((500.0, 900.0))
    assert plan.rotation_deg == pytest.approx(90.0, abs=1e-6)
    assert {("front", "scale"), ("side", "turn"), ("plan", "turn")} <= set(solution.loose)
    assert ("plan", "scale") not in solution.loose
    assert any("front" in words and "not determined" in words for words in unknown(solution))
    assert solution.as_usual


def test_two_marks_in_two_drawings_give_their_sizes_and_tilt_nothing() -> None:
    lies = {"plan": turned(0.0, 0.8)}
    solution = solve(placed({"side": LONG, "plan": LONG}, lies))
    sizes = {name: pose.mm_per_px for name, pose in solution.poses.items()}
    assert sizes["plan"] == pytest.approx(sizes["side"], rel=1e-3)
    assert all(abs(pose.rotation_deg) < 1e-3 for pose in solution.poses.values())


def test_marks_outvote_what_is_usual_at_once() -> None:
    every = {**LONG, **WIDE, "top": (40.0, 90.0, 200.0), "low": (-90.0, -60.0, 0.0)}
    true = {"side": turned(4.0, 0.75), "plan": turned(-3.0, 0.4)}
    seen = dict.fromkeys(VIEWS, every)
    solution = solve(placed(seen, None, true, body="sheet"))
    front = solution.poses["front"].mm_per_px
    for name, pose in true.items():
        assert solution.poses[name].rotation_deg == pytest.approx(pose.rotation_deg, abs=0.02)
        assert solution.poses[name].mm_per_px / front == pytest.approx(pose.mm_per_px / 0.5, 1e-3)


def test_drawings_of_one_body_follow_one_another_s_size_and_others_do_not_quite() -> None:
    # The side shares one mark only, so that its size rests on what is usual.
    length = PictureLength("front", (100.0, 0.0), (700.0, 0.0), 600.0)
    for body, close in (("sheet", 1e-3), ("", 0.5)):
        problem = placed({"front": WIDE, "plan": WIDE, "side": {"left": LEFT}}, body=body)
        solution = solve(replace(problem, picture_lengths=(length,)))
        assert solution.poses["front"].mm_per_px == pytest.approx(1.0, rel=1e-3)
        assert solution.poses["side"].mm_per_px == pytest.approx(1.0, rel=close)
        assert (("side", "scale") in solution.loose) == (not body)


def test_what_is_usual_is_never_counted_as_certainty() -> None:
    known = PictureLength("side", (0.0, 0.0), (400.0, 0.0), 200.0)
    lacking = solve(replace(placed({"side": LONG, "plan": LONG}), picture_lengths=(known,)))
    # Heights are told by the side alone, whose turn nothing determines.
    assert lacking.sigmas["nose"][2] > 20.0
    every = {**LONG, **WIDE, "top": (40.0, 90.0, 200.0), "low": (-90.0, -60.0, 0.0)}
    told = solve(replace(placed(dict.fromkeys(VIEWS, every)), picture_lengths=(known,)))
    assert told.sigmas["nose"][2] < 3.0 and told.loose == ()


def test_what_stands_on_the_ground_stays_on_it_when_it_becomes_larger() -> None:
    length = PictureLength("front", (100.0, 0.0), (700.0, 0.0), 600.0)
    problem = placed({"front": WIDE, "plan": WIDE}, body="sheet")
    solution = solve(replace(problem, picture_lengths=(length,)))
    for pose in solution.poses.values():
        assert pose.mm_per_px == pytest.approx(1.0, rel=1e-3)
        assert pose.origin_px == pytest.approx((500.0, 900.0), abs=0.1)


def test_a_known_coordinate_stays_and_else_most_stay_as_large_as_they_are() -> None:
    every = {**LONG, **WIDE, "top": (40.0, 90.0, 200.0), "low": (-90.0, -60.0, 0.0)}
    lies = {"plan": turned(0.0, 0.8)}
    problem = placed(dict.fromkeys(VIEWS, every), lies)
    free = solve(problem)
    sizes = [pose.mm_per_px for pose in free.poses.values()]
    assert sizes == pytest.approx([0.5, 0.5, 0.5], rel=1e-3)
    fixed = tuple(
        replace(m, fixed=(None, None, 75.0)) if m.name == "nose" else m for m in problem.landmarks
    )
    known = solve(replace(problem, landmarks=fixed))
    assert known.points["nose"][2] == 75.0 and known.rms_px < 0.01


def mirrored_in(solution: Solution) -> list[str]:
    return [name for name, pose in solution.poses.items() if pose.mirrored]


def test_a_drawing_is_mirrored_only_where_marks_bear_it_out() -> None:
    # Two marks nearly at the same width say nothing of which way round they lie.
    near = {"left": (-1.0, 20.0, 60.0), "right": (1.0, -150.0, 160.0)}
    problem = placed({"front": near, "plan": near})
    marks = list(problem.sightings)
    for i, mark in enumerate(marks):
        if mark.picture == "front":
            marks[i] = replace(mark, px=(1000.0 - mark.px[0], mark.px[1]))
    assert mirrored_in(solve(replace(problem, sightings=tuple(marks)))) == []
    wide = placed({"front": WIDE | LONG, "plan": WIDE | LONG})
    flipped = tuple(
        replace(m, px=(1000.0 - m.px[0], m.px[1])) if m.picture == "front" else m
        for m in wide.sightings
    )
    # Which of the two it is they alone cannot tell.
    assert len(mirrored_in(solve(replace(wide, sightings=flipped)))) == 1


def test_two_marks_that_run_the_other_way_turn_a_drawing_over_and_not_about() -> None:
    # Turned by 124 degrees and 1.8 times as large it would fit them as well.
    problem = placed({"side": LONG, "plan": LONG}, body="sheet")
    flipped = tuple(
        replace(m, px=(1000.0 - m.px[0], m.px[1])) if m.picture == "side" else m
        for m in problem.sightings
    )
    solution = solve(replace(problem, sightings=flipped))
    assert len(mirrored_in(solution)) == 1
    for pose in solution.poses.values():
        assert abs(pose.rotation_deg) < 1.0 and pose.mm_per_px == pytest.approx(0.5, rel=0.01)


@given(
    st.floats(-3, 3),
    st.floats(-3, 3),
    st.floats(0.5, 2),
    st.floats(-500, 500),
    st.floats(-500, 500),
)
def test_slopes_of_a_pose_are_those_of_what_it_does(
    alpha: float, beta: float, aspect: float, x: float, y: float
) -> None:
    assume(np.hypot(alpha, beta) > 0.2)
    row = np.array([alpha, beta, 40.0, -30.0, aspect])
    turn, size, places = pose_slopes(row, np.array([x, y]))
    step = 1e-6
    for number in range(4):
        ahead, behind = row.copy(), row.copy()
        ahead[number], behind[number] = row[number] + step, row[number] - step
        a, b = pose_from(ahead, False), pose_from(behind, False)
        turned = np.radians((a.rotation_deg - b.rotation_deg + 180) % 360 - 180) / (2 * step)
        assert turn[number] == pytest.approx(turned, abs=1e-4)
        sized = np.log(a.mm_per_px / b.mm_per_px) / (2 * step)
        assert size[number] == pytest.approx(sized, abs=1e-4)
        moved = (a.to_plane((x, y)) - b.to_plane((x, y))) / (2 * step) * np.hypot(alpha, beta)
        assert places[:, number] == pytest.approx(moved, rel=1e-4, abs=1e-3)


def test_a_solution_is_found_again_from_where_it_puts_the_drawings() -> None:
    for seed in range(6):
        problem = few(seed, 3).truth.problem
        first = solve(problem)
        there = tuple(replace(p, present=first.poses[p.id]) for p in problem.pictures)
        again = solve(replace(problem, pictures=there))
        assert again.rms_px <= first.rms_px + 0.05
        for name, pose in again.poses.items():
            # By no more than the marks can tell.
            assert pose.rotation_deg == pytest.approx(first.poses[name].rotation_deg, abs=0.6)


def faults(made: Few, solution: Solution) -> list[str]:
    """What is not sensible in a solution of a set."""
    found = [solution.poses[f"p{i}"] for i in range(3)]
    said = ["mirrored"] if any(p.mirrored for p in found) else []
    for i, (pose, true) in enumerate(zip(found, made.truth.poses, strict=True)):
        if abs(pose.rotation_deg - true.rotation_deg) > 1.5:
            said.append(f"p{i} turned")
        for j in range(i):
            size = pose.mm_per_px / found[j].mm_per_px
            off = abs(np.log(size * made.truth.poses[j].mm_per_px / true.mm_per_px))
            if off > (0.01 if made.alike or (j, i) in made.shared else 0.6):
                said.append(f"p{i} beside p{j} {off:.3f}")
    return said


@pytest.mark.parametrize("count", [2, 3, 4])
def test_few_marks_never_make_a_good_placement_worse(count: int) -> None:
    sets = [few(seed, count) for seed in range(24)]
    said = {seed: faults(one, solve(one.truth.problem)) for seed, one in enumerate(sets)}
    assert not any(said.values()), said


def test_many_marks_owe_nothing_to_what_is_usual() -> None:
    truth = made(np.random.default_rng(2), count=12)
    first = solve(truth.problem)
    others = tuple(
        replace(p, present=Pose(0.3, 0.1, (70.0, 5.0)), body="x") for p in truth.problem.pictures
    )
    again = solve(replace(truth.problem, pictures=others))
    assert not first.as_usual and not again.as_usual
    for name, pose in first.poses.items():
        assert again.poses[name].mm_per_px == pytest.approx(pose.mm_per_px, rel=1e-7)
