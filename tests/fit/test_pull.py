"""Meshes pulled to drawings of a shape that is known."""

from __future__ import annotations

import numpy as np
import pytest

from dimetron.fit.miss import Drawn, Miss, missed
from dimetron.fit.modelled import modelled
from dimetron.fit.pull import Part, Wanted, pulled, unturned
from dimetron.geometry.views import View
from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.health import health
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box
from dimetron.mesh.smooth_surface import surface_of

CAGE = box((-100, -150, 0), (100, 150, 200))
BODY = by_name("subdivide")(CAGE, levels=4).mesh
VIEWS = (View.FRONT, View.RIGHT, View.TOP)


def _waisted(positions: Floats) -> Floats:
    return np.asarray(positions * (1 + 0.06 * np.sin(positions[:, 2:] * 0.05)))


TRUTH = BODY.with_positions(_waisted(BODY.positions))


def drawn_of(mesh: Mesh, trust: float = 1.0) -> list[Wanted]:
    return [Wanted(view, Drawn(modelled([mesh], view).loops), trust) for view in VIEWS]


def misses(mesh: Mesh, wanted: list[Wanted]) -> list[Miss]:
    return [missed(modelled([mesh], one.view).loops, one.drawn) for one in wanted]


def bumped(mesh: Mesh) -> Mesh:
    away = ((mesh.positions - [100, 0, 150]) ** 2).sum(axis=1)
    bump = 15 * np.exp(-away / 40**2)
    return mesh.with_positions(mesh.positions + bump[:, None] * [1.0, 0, 0])


@pytest.mark.parametrize(
    "wrong",
    [
        BODY,
        TRUTH.with_positions(TRUTH.positions * 1.03),
        TRUTH.with_positions(TRUTH.positions + np.array([4.0, 3, -5])),
        bumped(TRUTH),
        TRUTH.with_positions(TRUTH.positions * np.array([1, 1, 0.92])),
    ],
    ids=["plain", "scaled", "shifted", "bumped", "squashed"],
)
def test_the_miss_falls_to_a_quarter_in_one_go(wrong: Mesh) -> None:
    wanted = drawn_of(TRUTH)
    (places,) = pulled([Part(wrong)], [], wanted)
    after = wrong.with_positions(places)
    for before, now in zip(misses(wrong, wanted), misses(after, wanted), strict=True):
        if before.mean > 0.5:
            assert now.mean < before.mean / 4
            assert now.largest < before.largest / 4
    assert unturned(wrong, places) == 1.0
    (volume, true) = (health(mesh).volume_mm3 or 0.0 for mesh in (after, TRUTH))
    assert volume == pytest.approx(true, rel=0.03)
    # What is pulled again stays where it is.
    (again,) = pulled([Part(after)], [], wanted)
    assert np.abs(again - places).max() < 1.0


def test_detail_is_kept_and_what_is_masked_or_not_selected_stays() -> None:
    wrong = TRUTH.with_positions(TRUTH.positions * 1.03)
    wanted = drawn_of(TRUTH)
    free = (wrong.positions[:, 2] > 100).astype(float)
    (places,) = pulled([Part(wrong, free=free)], [], wanted)
    moved = np.linalg.norm(places - wrong.positions, axis=1)
    assert (moved[free == 0] == 0).all()
    assert moved[free == 1].max() > 3
    (half,) = pulled([Part(wrong, free=np.where(free > 0, 1.0, 0.5))], [], wanted)
    held = np.linalg.norm(half - wrong.positions, axis=1)
    (whole,) = pulled([Part(wrong)], [], wanted)
    fully = np.linalg.norm(whole - wrong.positions, axis=1)
    low = wrong.positions[:, 2] < 40
    assert held[low].mean() < 0.8 * fully[low].mean()
    with pytest.raises(MeshError, match="free to move"):
        pulled([Part(wrong, free=np.zeros(len(free)))], [], wanted)


def test_both_sides_stay_the_same() -> None:
    wrong = bumped(TRUTH)
    even = TRUTH.with_positions(TRUTH.positions * np.array([1.05, 1, 1]))
    wanted = drawn_of(wrong)
    (places,) = pulled([Part(even, even=("x",))], [], wanted)
    image = places * [-1, 1, 1]
    gaps = np.linalg.norm(places[:, None] - image[None], axis=2).min(axis=1)
    assert gaps.max() < 1e-6
    (alone,) = pulled([Part(even)], [], wanted)
    assert np.linalg.norm(alone[:, None] - (alone * [-1, 1, 1])[None], axis=2).min(axis=1).max() > 3


def test_a_cage_is_moved_so_that_its_surface_meets_the_drawings() -> None:
    cage = by_name("subdivide")(CAGE, levels=2).mesh
    wrong = cage.with_positions(cage.positions * np.array([1.04, 0.95, 1]))
    wanted = drawn_of(surface_of(cage, 2))
    (places,) = pulled([Part(wrong, levels=2)], [], wanted)
    after = surface_of(wrong.with_positions(places), 2)
    for before, now in zip(
        misses(surface_of(wrong, 2), wanted), misses(after, wanted), strict=True
    ):
        assert now.mean < before.mean / 4


def test_several_meshes_and_one_that_only_stands_by() -> None:
    by_side = box((180, -40, 0), (260, 40, 60))
    both = [
        Wanted(view, Drawn(modelled([TRUTH, by_side], view).loops))
        for view in (View.FRONT, View.TOP)
    ]
    wrong = TRUTH.with_positions(TRUTH.positions * 1.02)
    (places,) = pulled([Part(wrong)], [by_side], both)
    after = [wrong.with_positions(places), by_side]
    for one in both:
        before = missed(modelled([wrong, by_side], one.view).loops, one.drawn)
        assert missed(modelled(after, one.view).loops, one.drawn).mean < before.mean / 4
    aside = by_side.with_positions(by_side.positions + np.array([0, 0, 8.0]))
    moved = pulled([Part(wrong), Part(aside)], [], both)
    assert moved[1][:, 2].min() == pytest.approx(0, abs=1.0)


def test_a_drawing_that_is_trusted_counts_more() -> None:
    larger = TRUTH.with_positions(TRUTH.positions * np.array([1, 1, 1.05]))
    heights = []
    for trust in (0.1, 1.0, 10.0):
        front = Wanted(View.FRONT, Drawn(modelled([larger], View.FRONT).loops), trust)
        right = Wanted(View.RIGHT, Drawn(modelled([TRUTH], View.RIGHT).loops))
        (places,) = pulled([Part(TRUTH)], [], [front, right])
        heights.append(float(places[:, 2].max()))
    assert heights == sorted(heights)
    assert heights[2] - heights[0] > 2


def test_what_has_no_outline_that_counts_is_refused() -> None:
    everything = np.array([[-900.0, -900], [900, -900], [900, 900], [-900, 900]])
    wanted = [Wanted(View.FRONT, Drawn(modelled([TRUTH], View.FRONT).loops, left_out=[everything]))]
    with pytest.raises(MeshError, match="outline that counts"):
        pulled([Part(TRUTH)], [], wanted)
    nothing = box((0, 0, 50), (1, 1, 51))
    behind = Wanted(View.FRONT, Drawn(modelled([TRUTH], View.FRONT).loops))
    with pytest.raises(MeshError, match="outline that counts"):
        pulled([Part(nothing)], [TRUTH], [behind])


def test_a_step_that_would_turn_faces_over_is_made_shorter() -> None:
    collapsed = CAGE.positions * np.array([-1.0, 1, 1])
    share = unturned(CAGE, collapsed)
    assert share == 0.5
    halfway = CAGE.with_positions(CAGE.positions + share * (collapsed - CAGE.positions))
    assert ((halfway.face_normals * CAGE.face_normals).sum(axis=1) >= 0).all()
