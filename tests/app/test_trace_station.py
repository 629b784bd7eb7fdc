from __future__ import annotations

import pytest
from PySide6.QtCore import Qt

from dimetron.demo.shelf import project
from dimetron.document.outline import Outline, outlines_of
from tests.app.conftest import Hand, turn

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def tracing(hand: Hand) -> Hand:
    """The watering can's drawings, read, and the Trace station open."""
    hand.session.open(project("watering-can"), None)
    hand.wait(lambda: not hand.window.pictures.busy)
    hand.board.fit_all()
    hand.window.navigation.open_station("trace")
    hand.settle()
    return hand


def _outline(hand: Hand) -> Outline:
    (item,) = outlines_of(hand.doc)
    return item


def _shot(hand: Hand, name: str) -> None:
    hand.settle()
    turn()
    hand.window.grab().save(f"/tmp/shots/{name}.png")


def test_zz(tracing: Hand) -> None:
    hand = tracing
    hand.window.resize(1280, 800)
    turn()
    hand.board.fit_all()
    hand.window.navigation.take("follow-ink")
    hand.settle()
    a, b, c = (0, -216, 225), (0, -120, 90), (0, -82, 36)
    hand.click(hand.at("side", a))
    hand.point(hand.at("side", b))
    _shot(hand, "t1")
    hand.click(hand.at("side", b))
    hand.point(hand.at("side", c))
    _shot(hand, "t2")
    hand.click(hand.at("side", c))
    hand.key(Qt.Key.Key_Return)
    _shot(hand, "t3")
    hand.window.navigation.take("points")
    _shot(hand, "t4")
    hand.window.navigation.take("trace-itself")
    hand.click(hand.at("elevation", (30, 0, 100)))
    hand.wait(lambda: bool(hand.window.board.tool._found))
    _shot(hand, "t5")
    print(hand.board.rects())
