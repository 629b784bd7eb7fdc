"""What outlines are off, told to all of a mesh."""

from __future__ import annotations

import numpy as np
import pytest

from dimetron.fit.miss import Drawn, missed
from dimetron.fit.modelled import modelled
from dimetron.fit.spread import OffAt, among, off_at, spread, told_to
from dimetron.geometry.views import View
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box

BLOCK = by_name("subdivide")(box((-50, -50, 0), (50, 50, 100)), levels=3).mesh
VIEWS = (View.FRONT, View.RIGHT)


def _off(right: list[Mesh], wrong: list[Mesh], view: View) -> OffAt:
    drawn, outline = Drawn(modelled(right, view).loops), modelled(wrong, view)
    return off_at(outline, missed(outline.loops, drawn, 400))


def test_what_stands_out_is_over_where_it_does_and_short_on_the_other_side() -> None:
    shifted = BLOCK.with_positions(BLOCK.positions + np.array([4.0, 0, 0]))
    front, right = (_off([BLOCK], [shifted], view) for view in VIEWS)
    assert front.off.max() == pytest.approx(4, abs=0.2)
    assert front.off.min() == pytest.approx(-4, abs=0.2)
    assert np.abs(right.off).max() < 1e-6
    told = spread(shifted.positions, [front])
    x = shifted.positions[:, 0] - 4
    far = 0.8 * x.max()
    assert told[x > far].mean() > 2 and told[x < -far].mean() < -2
    assert np.abs(told).max() <= 4.2
    assert spread(shifted.positions, []).tolist() == [0.0] * len(shifted.positions)


def test_each_mesh_has_its_own_share() -> None:
    beside = box((200, 0, 0), (230, 30, 30))
    wide = box((200, 0, 0), (240, 30, 30))
    found = [_off([BLOCK, beside], [BLOCK, wide], View.FRONT)]
    count = len(BLOCK.positions)
    (first,), (second,) = among(found, 0, count), among(found, count, count + 8)
    assert np.abs(first.off).max() < 1e-6
    assert second.off.max() == pytest.approx(10, abs=0.1)
    assert len(first.vertices) + len(second.vertices) == len(found[0].vertices)
    assert np.abs(spread(BLOCK.positions, [first])).max() < 1e-6


def test_between_outlines_it_goes_over_from_one_to_the_other() -> None:
    fine = by_name("subdivide")(BLOCK, levels=1).mesh
    wrong = fine.with_positions(fine.positions * np.array([1.1, 0.9, 1.0]))
    found = [_off([fine], [wrong], view) for view in VIEWS]
    ends = fine.topology.edges
    steps = [
        np.abs(np.diff(told[ends], axis=1)).max()
        for told in (told_to(wrong, found), spread(wrong.positions, found))
    ]
    assert steps[0] < 0.6 * steps[1]
    told = told_to(wrong, found)
    across, deep = np.abs(wrong.positions[:, 0]), np.abs(wrong.positions[:, 1])
    assert told[across > 0.95 * across.max()].mean() > 1
    assert told[deep > 0.95 * deep.max()].mean() < -1
