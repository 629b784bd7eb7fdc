"""What marks, guides, trust and tolerances are worth; and extents of ink as landmarks."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dimetron.geometry.placement import Placement
from dimetron.geometry.views import View
from dimetron.registration.extents import end_name, with_extents
from dimetron.registration.pose import pose_of
from dimetron.registration.problem import Length, Picture, PictureLength, Problem
from dimetron.registration.solve import Solution, solve
from tests.registration.objects import made

seeds = st.integers(0, 10_000)


def points_of(solution: Solution) -> np.ndarray:
    return np.array([solution.points[m.name] for m in solution.problem.landmarks], float)


@settings(max_examples=10)
@given(seeds, st.floats(0.1, 8.0))
def test_trust_is_worth_as_much_as_marks_that_are_as_much_more_exact(
    seed: int, trust: float
) -> None:
    problem = made(np.random.default_rng(seed), anchored=True).problem
    first = problem.pictures[0]
    trusted = replace(problem, pictures=(replace(first, trust=trust), *problem.pictures[1:]))
    exact = tuple(
        replace(mark, sigma_px=mark.sigma_px / np.sqrt(trust)) if mark.picture == first.id else mark
        for mark in problem.sightings
    )
    found = points_of(solve(trusted))
    assert np.allclose(found, points_of(solve(replace(problem, sightings=exact))), atol=1e-6)
    assert trust == pytest.approx(1, abs=0.05) or not np.allclose(found, points_of(solve(problem)))


def test_the_noise_that_is_found_is_that_of_the_marks_with_guides_or_without() -> None:
    """A guide tells one number, a mark two: what is left over is shared out among as many."""
    found: dict[bool, list[float]] = {False: [], True: []}
    for seed in range(12):
        problem = made(np.random.default_rng(seed), count=30, noise=1.0, anchored=True).problem
        for guided, noises in found.items():
            marks = problem.sightings
            if guided:
                views = {p.id: p.view for p in problem.pictures}
                marks = tuple(
                    replace(m, axis=views[m.picture].axes[k % 2]) if k % 3 else m
                    for k, m in enumerate(marks)
                )
            noises.append(solve(replace(problem, sightings=marks)).noise)
    assert np.mean(found[False]) == pytest.approx(1.0, abs=0.1)
    assert np.mean(found[True]) == pytest.approx(1.0, abs=0.1)


@given(st.floats(1, 5000), st.floats(0.001, 10))
def test_a_tolerance_is_millimetres_however_long_the_length_is(mm: float, tolerance: float) -> None:
    length = Length("a", "b", mm, tolerance_mm=tolerance)
    ours = PictureLength("p", (0, 0), (100, 0), mm, tolerance)
    assert length.sigma_mm == tolerance
    assert ours.sigma_share * mm == pytest.approx(tolerance)
    # Where none is told a long one is less exact than a short one, by a share.
    plain, twice = Length("a", "b", mm), Length("a", "b", 2 * mm)
    assert plain.sigma_mm >= 0.02 and twice.sigma_mm >= plain.sigma_mm
    if mm > 200:
        assert twice.sigma_mm == pytest.approx(2 * plain.sigma_mm)
    assert PictureLength("p", (0, 0), (9, 0), mm).sigma_share * mm == pytest.approx(plain.sigma_mm)


@given(
    st.sampled_from(View),
    st.tuples(*[st.floats(-200, 0)] * 3),
    st.tuples(*[st.floats(10, 300)] * 3),
    st.floats(0.05, 3),
)
def test_the_edges_of_the_ink_are_the_ends_of_the_object(
    view: View, low: tuple[float, ...], size: tuple[float, ...], scale: float
) -> None:
    """Of a drawing from any side, each end lies where the object ends along that axis."""
    ends = np.array([low, np.add(low, size)])
    placement = Placement(scale, (310.0, 240.0), (12.0, -7.0))
    corners = np.array(np.meshgrid(*ends.T)).reshape(3, -1).T
    px = placement.to_px(view.to_plane(corners))
    box = (*px.min(axis=0).tolist(), *px.max(axis=0).tolist())
    picture = Picture("p", "drawing", view, pose_of(placement))
    problem = with_extents(Problem((picture,), (), ()), {"p": box}, (0, 1, 2), {0: 90.0})
    assert len(problem.sightings) == len(problem.landmarks) == 4
    for mark in problem.sightings:
        at = view.to_world(placement.to_plane(mark.px))
        assert mark.axis is not None
        end = [end_name(mark.axis, k) for k in (0, 1)].index(mark.landmark)
        assert at[mark.axis] == pytest.approx(ends[end, mark.axis], abs=1e-6)
        # In the middle of the ink the other way.
        (other,) = (axis for axis in view.axes if axis != mark.axis)
        assert at[other] == pytest.approx(ends[:, other].mean(), abs=1e-6)
    assert [length.mm for length in problem.lengths] == ([90.0] if 0 in view.axes else [])
