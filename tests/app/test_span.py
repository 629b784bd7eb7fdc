"""Stations of an operation, dragged on the board."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt

from dimetron.mesh.operation import by_name
from dimetron.mesh.select import Kind
from tests.app.conftest import Hand, turn
from tests.app.test_modelling import grid

__all__ = ["grid"]


def take(hand: Hand, name: str) -> None:
    hand.window.commands.run(f"tool.{name}")
    hand.settle()
    turn()


def positions(hand: Hand) -> np.ndarray:
    return hand.doc.meshes[0].mesh.positions


def test_stations_are_dragged_before_and_after_it_is_done(grid: Hand) -> None:
    hand = grid
    before = hand.doc.meshes[0].mesh
    take(hand, "taper")
    # The line of the second station lies on the top of the box, 60 mm high.
    hand.drag(hand.at("elevation", (10, 0, 60)), hand.at("elevation", (10, 0, 30)))
    assert positions(hand) is before.positions, "nothing is done yet"
    numbers = hand.window.workbench.operating.numbers(by_name("taper"))
    assert (numbers.begin, numbers.end) == pytest.approx((0.0, 0.5), abs=0.02)
    # Across the mesh: so many times as wide.
    start = hand.at("elevation", (-10, 0, 45))
    hand.drag(start, start + QPoint(-140, 0))
    low, high = positions(hand).min(axis=0), positions(hand).max(axis=0)
    step = hand.window.workbench.operating.step
    assert step is not None and step.how.times == pytest.approx(0.5, abs=0.02)
    assert np.ptp(positions(hand)[positions(hand)[:, 2] > 59][:, 0]) == pytest.approx(30, abs=1)
    assert high[0] - low[0] == pytest.approx(60)
    label, steps = hand.session.history.undo_label, len(hand.session.history.steps)
    # Afterwards the same step is done anew; never beyond the other station.
    hand.drag(hand.at("elevation", (25, 0, 0)), hand.at("elevation", (25, 0, 15)))
    step = hand.window.workbench.operating.step
    assert step is not None and step.how.begin == pytest.approx(0.25, abs=0.02)
    hand.drag(hand.at("elevation", (25, 0, 15)), hand.at("elevation", (25, 0, 59)))
    assert hand.window.workbench.operating.step.how.begin == pytest.approx(0.499, abs=0.02)
    assert len(hand.session.history.steps) == steps
    assert str(label).startswith("Taper")
    expected = by_name("taper").run(
        before, hand.session.part, hand.window.workbench.operating.step.how
    )
    assert np.allclose(positions(hand), expected.mesh.positions)
    hand.session.undo()
    assert positions(hand) is before.positions


def test_stations_lie_along_the_axis_that_is_said_and_around_what_is_selected(grid: Hand) -> None:
    hand = grid
    hand.window.commands.run("kind.face")
    right = np.flatnonzero(hand.doc.meshes[0].mesh.face_centres[:, 0] > 11).astype(np.int32)
    hand.session.select(Kind.FACE, right)
    take(hand, "twist")
    hand.key(Qt.Key.Key_X)
    numbers = hand.window.workbench.operating.numbers
    assert numbers(by_name("twist")).axis == "x"
    # What is selected reaches from 10 to 30 along X.
    hand.drag(hand.at("elevation", (10, 0, 30)), hand.at("elevation", (20, 0, 30)))
    assert numbers(by_name("twist")).begin == pytest.approx(0.5, abs=0.04)
    start = hand.at("plan", (15, 5, 60))
    hand.drag(start, start + QPoint(40, 0))
    step = hand.window.workbench.operating.step
    assert step is not None and step.how.turn == pytest.approx(20, abs=1)
    moved = ~np.isclose(positions(hand), step.task.item.mesh.positions).all(axis=1)
    assert moved.any() and positions(hand)[moved, 0].min() > 19
    assert hand.session.selected.tolist() == right.tolist()


def test_a_drag_of_a_station_can_be_dropped(grid: Hand) -> None:
    hand = grid
    take(hand, "stretch")

    def drop() -> None:
        hand.key(Qt.Key.Key_Escape)

    start = hand.at("elevation", (5, 0, 15))
    hand.drag(start, hand.at("elevation", (5, 0, 25)), before_release=drop)
    numbers = hand.window.workbench.operating.numbers(by_name("stretch"))
    assert (numbers.begin, numbers.end) == (0.25, 0.75)
    # Of nothing selected there is nothing to drag.
    hand.window.commands.run("kind.face")
    take(hand, "stretch")
    before = positions(hand)
    face = hand.at("elevation", (0, -30, 45))
    hand.drag(face, face + QPoint(60, 0))
    assert positions(hand) is before
    assert "Select" in hand.notice()
