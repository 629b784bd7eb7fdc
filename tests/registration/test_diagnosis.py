"""What is wrong with marks and drawings, against made-up objects that were spoilt on purpose."""

from __future__ import annotations

import re
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dimetron.demo.project import CAN_SCANS
from dimetron.geometry.views import View
from dimetron.registration.bent import bent
from dimetron.registration.diagnosis import findings
from dimetron.registration.problem import Landmark, Length, Picture, Problem, Sighting
from dimetron.registration.solve import solve
from dimetron.registration.suspects import guess_from
from tests.registration.objects import THREE, Truth, made

seeds = st.integers(0, 2**32 - 1)
SIX = tuple(View)


def spoilt(truth: Truth, picture: str, bend: str) -> Problem:
    """The marks of a drawing as they would be on one that is stretched, sheared or askew."""
    px = np.array([m.px for m in truth.problem.sightings if m.picture == picture])
    middle, half = px.mean(axis=0), float(np.ptp(px, axis=0).max()) / 2
    marks = []
    for mark in truth.problem.sightings:
        if mark.picture == picture:
            x, y = np.array(mark.px) - middle
            if bend == "stretch":
                y *= 1.03
            elif bend == "shear":
                x -= y * np.tan(np.radians(2.0))
            else:
                x, y = x * (1 + 0.04 * x / half), y * (1 + 0.04 * x / half)
            mark = replace(mark, px=(float(middle[0] + x), float(middle[1] + y)))
        marks.append(mark)
    return replace(truth.problem, sightings=tuple(marks))


@settings(max_examples=12, deadline=None)
@given(seeds, st.sampled_from(["stretch", "shear", "perspective"]))
def test_a_bent_drawing_is_said_to_look_so(seed: int, bend: str) -> None:
    truth = made(np.random.default_rng(seed), SIX, count=14, lengths=2)
    solution = solve(spoilt(truth, "p1", bend))
    found = bent(solution)
    assert found and found[0].kind == bend
    assert "p1" in {b.picture for b in found}
    amount = {"stretch": 0.03, "shear": 2.0, "perspective": 0.08}[bend]
    (mine,) = [b for b in found if b.picture == "p1"]
    assert abs(mine.amount) == pytest.approx(amount, rel=0.4)


def test_a_stretched_drawing_can_be_scaled_apart() -> None:
    truth = made(np.random.default_rng(4), SIX, count=14, lengths=2)
    solution = solve(spoilt(truth, "p1", "stretch"))
    (finding,) = findings(solution)
    assert re.match(r"back looks stretched, (2.9|3.0|3.1)% too long upwards$", finding.words)
    assert finding.do == "Scale back apart" and finding.repair is not None
    after = solve(finding.repair)
    assert after.rms_px < 0.5 * solution.rms_px
    assert after.poses["p1"].aspect == pytest.approx(1.03, abs=0.004)


def test_where_nothing_is_wrong_nothing_is_said() -> None:
    said = [
        findings(solve(made(np.random.default_rng(seed), views, count=10, lengths=2).problem))
        for views in (THREE, SIX)
        for seed in range(20)
    ]
    # The noise itself passes for a bend once in a few hundred drawings.
    assert sum(map(bool, said)) <= 1


@settings(max_examples=12, deadline=None)
@given(seeds)
def test_exchanged_and_misnamed_marks_are_recognised(seed: int) -> None:
    rng = np.random.default_rng(seed)
    truth = made(rng, SIX, count=10, lengths=2)
    marks = list(truth.problem.sightings)
    mine = [k for k, m in enumerate(marks) if m.picture == "p2"]
    i, j = (mine[int(k)] for k in rng.choice(len(mine), 2, replace=False))
    if np.hypot(*np.subtract(marks[i].px, marks[j].px)) < 150:
        return
    swapped = list(marks)
    swapped[i], swapped[j] = (
        replace(marks[i], px=marks[j].px),
        replace(marks[j], px=marks[i].px),
    )
    found = findings(solve(replace(truth.problem, sightings=tuple(swapped))))
    assert found and "seem to be exchanged in left" in found[0].words
    assert found[0].repair is not None
    restored = {(m.landmark, m.picture): m.px for m in found[0].repair.sightings}
    assert restored == {(m.landmark, m.picture): m.px for m in marks}
    # Under the wrong name, and the right one not marked.
    wrong = [replace(m, px=marks[j].px) if k == i else m for k, m in enumerate(marks) if k != j]
    found = findings(solve(replace(truth.problem, sightings=tuple(wrong))))
    assert found and f"lies where {marks[j].landmark} belongs" in found[0].words
    assert found[0].do == f"Let it mark {marks[j].landmark}"


def test_exchanged_marks_that_make_a_drawing_seem_mirrored_are_recognised_as_such() -> None:
    """The outermost two of a side view: most marks then agree better with its mirror image."""
    told = 0
    for seed in range(10):
        truth = made(np.random.default_rng(900 + seed), count=7, lengths=2)
        marks = list(truth.problem.sightings)
        mine = [k for k, m in enumerate(marks) if m.picture == "p1"]
        i, j = (choose(mine, key=lambda k: marks[k].px[0]) for choose in (min, max))
        marks[i], marks[j] = (
            replace(marks[i], px=marks[j].px),
            replace(marks[j], px=marks[i].px),
        )
        found = findings(solve(replace(truth.problem, sightings=tuple(marks))))
        told += bool(found) and "seem to be exchanged in right" in found[0].words
    assert told >= 7


def test_a_mirrored_drawing_is_told() -> None:
    truth = made(np.random.default_rng(7), count=8, mirrored=(False, True, False))
    words = [f.words for f in findings(solve(truth.problem))]
    assert words == ["right is drawn the wrong way round; registering turns it over"]


def test_solving_quickly_from_near_ends_at_the_same_place() -> None:
    truth = made(np.random.default_rng(3), count=12)
    before = solve(truth.problem)
    marks = list(truth.problem.sightings)
    marks[5] = replace(marks[5], px=(marks[5].px[0] + 30, marks[5].px[1] - 20))
    problem = replace(truth.problem, sightings=tuple(marks))
    quick, whole = solve(problem, guess_from(before), quick=True), solve(problem)
    for id_, pose in whole.poses.items():
        assert quick.poses[id_].mm_per_px == pytest.approx(pose.mm_per_px, rel=1e-4)
    assert np.abs(quick.off - whole.off).max() < 0.1


def test_the_plan_of_the_can_is_found_to_be_too_long_once_two_lengths_are_known() -> None:
    """Its drawing is 3 mm longer than the side view says. From marks alone any of the three may be
    stretched; with one more known length it is the plan."""
    rng = np.random.default_rng(8)
    landmarks = {
        name: np.array(at)
        for name, at in (
            ("rose", (35.0, -232.0, 215.0)), ("left", (-84.0, 0.0, 2.0)),
            ("right", (84.0, 5.0, 2.0)), ("back", (6.0, 150.0, 130.0)),
            ("rim", (-60.0, -45.0, 190.0)), ("handle", (-11.0, 40.0, 288.0)),
            ("neck", (14.0, -120.0, 90.0)), ("strap", (11.0, 120.0, 240.0)),
        )
    }  # fmt: skip
    pictures, marks = [], []
    for scan in CAN_SCANS:
        pictures.append(Picture(scan.view.key, scan.file, scan.view))
        for name, at in landmarks.items():
            plane = scan.view.to_plane(at) * [1.0, scan.lengthened]
            x, y = scan.true_placement.to_px(plane) + rng.normal(size=2) * 0.3
            marks.append(Sighting(name, scan.view.key, (float(x), float(y)), 0.3))
    known = tuple(Landmark(name) for name in landmarks)
    problem = Problem(tuple(pictures), known, tuple(marks), (Length("left", "right", 168.0, 0),))
    (finding,) = findings(solve(problem))
    assert finding.repair is None and "would explain it as well" in finding.words
    assert re.search(r"looks stretched, 0\.[678]% too (long|short)", finding.words)
    # The depth by the side view: now the plan alone is left.
    long = Length("rose", "back", 382.0, 1)
    tall = Length("left", "handle", 286.0, 2)
    solution = solve(replace(problem, lengths=(*problem.lengths, long, tall)))
    (finding,) = findings(solution)
    assert re.match(r"can plan.png looks stretched, 0\.[678]% too long upwards$", finding.words)
    assert finding.repair is not None
    assert solve(finding.repair).rms_mm < solution.rms_mm
