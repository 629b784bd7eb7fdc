"""Registering is worth it only where marks say something else than how the drawings lie."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from dimetron.registration.gain import determines, gain_of
from dimetron.registration.problem import Landmark, Length, PictureLength, Problem, Sighting
from dimetron.registration.solve import solve
from tests.registration.objects import few, made


def placed_rightly(problem: Problem) -> Problem:
    """The same, with the drawings where its solution has them."""
    found = solve(problem)
    return replace(
        problem,
        pictures=tuple(replace(p, present=found.poses[p.id]) for p in problem.pictures),
        in_place=True,
    )


@pytest.mark.parametrize("seed", range(8))
def test_what_was_registered_is_not_worth_registering_again(seed: int) -> None:
    for problem in (made(np.random.default_rng(seed)).problem, few(seed, 3).truth.problem):
        there = placed_rightly(problem)
        gain = gain_of(solve(there), there)
        assert gain.determines and not gain.worth
        assert gain.after_mm <= gain.before_mm + 1e-6 < 1.0


def test_what_lies_otherwise_is_worth_it_and_how_much_is_said() -> None:
    there = placed_rightly(made(np.random.default_rng(1), noise=0.3).problem)
    one = there.pictures[1]
    x, y = one.present.origin_px
    moved = replace(one, present=replace(one.present, origin_px=(x, y + 40.0)))
    problem = replace(there, pictures=(there.pictures[0], moved, there.pictures[2]))
    gain = gain_of(solve(problem), problem)
    assert gain.worth and gain.before_mm > 10 * gain.after_mm


def test_what_says_nothing_determines_nothing() -> None:
    problem = made(np.random.default_rng(2), count=3, lengths=0).problem
    alone = replace(problem, sightings=tuple(m for m in problem.sightings if m.picture == "p0"))
    assert not determines(alone) and determines(problem)
    assert not gain_of(solve(alone), alone).worth
    # Front and right share heights only: a guide along X ties nothing there.
    guides = tuple(
        replace(m, axis=0) if m.picture == "p0" else m
        for m in problem.sightings
        if m.picture in ("p0", "p1")
    )
    assert not determines(replace(problem, sightings=guides))
    assert determines(replace(alone, lengths=(Length("m0", "m1", 50.0),)))
    assert not determines(replace(alone, lengths=(Length("m0", "x", 50.0),)))
    within = PictureLength("p0", (0.0, 0.0), (10.0, 0.0), 5.0)
    assert determines(replace(alone, picture_lengths=(within,)))
    grounded = (Landmark("m0", (None, None, 0.0)), *alone.landmarks[1:])
    assert determines(replace(alone, landmarks=grounded))
    sideways = (Landmark("m0", (None, 0.0, None)), *alone.landmarks[1:])
    assert not determines(replace(alone, landmarks=sideways))
    assert determines(replace(alone, sightings=(*alone.sightings, Sighting("m0", "p2", (1, 1)))))
