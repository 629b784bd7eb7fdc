from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from dimetron.outlines.letters import fonts, lettered
from dimetron.outlines.path import OutlineError, area, bounds

OWN = fonts()["Barlow"]


def test_letters_stand_on_the_line_at_the_typed_height() -> None:
    (bar,) = lettered("I", OWN, 30.0)
    box = bounds(bar)
    assert box[:, 1] == pytest.approx([0, 30], abs=0.1)
    assert bar.closed
    two = lettered("II", OWN, 30.0)
    first, second = (bounds(path)[0, 0] for path in two)
    (wide,) = lettered("I", OWN, 60.0)
    assert np.ptp(bounds(wide)[:, 0]) == pytest.approx(2 * np.ptp(box[:, 0]))
    assert second - first > np.ptp(box[:, 0])


def test_holes_are_outlines_that_run_the_other_way() -> None:
    outer, *holes = sorted(lettered("B", OWN, 30.0), key=lambda p: -abs(area(p)))
    assert len(holes) == 2
    assert all(area(hole) * area(outer) < 0 for hole in holes)
    assert len(lettered("o o", OWN, 10.0)) == 4


def test_what_cannot_be_written_is_said(tmp_path: Path) -> None:
    for text, words in (("\U0001f40c", "has no letter"), ("  ", "Type a text"), (" " * 9, "Type")):
        with pytest.raises(OutlineError, match=words):
            lettered(text, OWN, 10.0)
    with pytest.raises(OutlineError, match="height"):
        lettered("a", OWN, 0.0)
    (tmp_path / "x.ttf").write_bytes(b"none")
    with pytest.raises(OutlineError, match=r"x\.ttf is no font"):
        lettered("a", tmp_path / "x.ttf", 10.0)
