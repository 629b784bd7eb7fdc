"""Rows to the ink, beyond the plain case in the can's test."""

from __future__ import annotations

from tests.app.conftest import Hand, turn
from tests.app.test_modelling import laid, start, type_in

__all__ = ["laid"]


def test_rows_that_find_no_ink_are_told_until_the_next_click(laid: Hand) -> None:
    hand = laid
    hand.window.commands.run("tool.cylinder")
    turn()
    type_in(hand, Sides=16, Rows=4)
    # Its uppermost rows stand over the can's rim, where nothing is drawn so wide.
    start(hand, "cylinder", "elevation", (-70, 0, 20), (70, 0, 390))
    hand.window.commands.run("tool.to-the-ink")
    # Until a view was pointed at there is none that the rows could meet the ink in.
    hand.point(hand.at("elevation", (0, 0, 100)))
    hand.act("all")
    tool = hand.window.tools["to-the-ink"]
    assert "rows meet the ink; the others found none within reach." in tool.told()
    assert "rows to the ink" in str(hand.session.history.undo_label)
    hand.click(hand.at("elevation", (20.0, 20.0, 112.5)))
    assert tool.told() == ""
