from __future__ import annotations

import numpy as np
import pytest
from PIL import Image

from dimetron.imaging.pyramid import build
from dimetron.outlines.fit import fitted
from dimetron.outlines.follow import run_along, ways_from
from dimetron.outlines.onink import laid_on, off_ink
from dimetron.outlines.path import Floats, OutlineError, Path, mapped, path_of
from dimetron.outlines.shapes import rectangle
from dimetron.outlines.silhouette import silhouette
from dimetron.outlines.trace import distances
from tests.outlines.drawn import AREAS, LINES, along, apart, drawn, polygon, wavy

PICTURE = build(drawn(LINES))
FILLED = build(drawn(areas=AREAS))


def _followed(picture: object, a: Floats, b: Floats) -> Path | None:
    ways = ways_from(picture, a, b, 8.0)  # type: ignore[arg-type]
    way = None if ways is None else ways.to(b, 8.0)
    if way is None:
        return None
    run = run_along(picture, way, a, b)  # type: ignore[arg-type]
    return fitted(run.points, 0.5, run.corners)


@pytest.mark.parametrize(("line", "a", "b"), [(0, 0, 2), (2, 1, 3), (4, 0, 1)])
def test_the_way_between_two_clicks_runs_along_the_drawn_line(line: int, a: int, b: int) -> None:
    true = LINES[line]
    found = _followed(PICTURE, true.points[a], true.points[b])
    assert found is not None
    off = distances(true, along(found))
    # Where another line crosses at a narrow angle the two run together.
    assert np.percentile(off, 90) < 0.7
    assert off.max() < 1.5
    assert found.points[[0, -1]] == pytest.approx(true.points[[a, b]])
    assert len(found) <= 6


def test_it_turns_at_the_corners_of_the_drawing() -> None:
    true = LINES[3]
    found = _followed(PICTURE, true.points[0], true.points[2])
    assert found is not None
    assert found.points == pytest.approx(true.points[:3], abs=1.0)
    edge = _followed(FILLED, AREAS[3][0].points[0], AREAS[3][0].points[2])
    assert edge is not None
    assert edge.points == pytest.approx(true.points[:3], abs=1.0)


def test_it_crosses_a_gap_and_goes_nowhere_without_a_line() -> None:
    gap = [
        polygon((100, 100), (300, 110), closed=False),
        polygon((308, 110.4), (500, 120), closed=False),
    ]
    picture = build(drawn(gap))
    found = _followed(picture, gap[0].points[0], gap[1].points[1])
    assert found is not None
    assert len(found) == 2
    assert ways_from(picture, np.array([100.0, 400]), np.array([300.0, 400]), 8.0) is None
    # All the way round where the straight way is short leads somewhere else.
    turn = np.linspace(0.15, 2 * np.pi - 0.15, 60)
    bow = path_of(np.stack([np.cos(turn), np.sin(turn)], axis=1) * 200 + (400, 300))
    ring = build(drawn([bow]))
    ways = ways_from(ring, bow.points[0], bow.points[-1], 8.0)
    assert ways is not None
    assert ways.to(bow.points[2], 8.0) is not None
    assert ways.to(bow.points[-1], 8.0) is None
    ways = ways_from(picture, gap[0].points[0], gap[1].points[1], 8.0)
    assert ways is not None
    assert ways.to(np.array([300.0, 400.0]), 8.0) is None
    assert not ways.covers(np.array([9000.0, 9000.0]))


def test_far_ways_are_read_coarsely_and_laid_finely() -> None:
    large = wavy((1500, 1200), 1000, 2)
    image = drawn([large], pen=3, size=(3000, 2400))
    found = _followed(build(image), large.points[0], large.points[2])
    assert found is not None
    assert distances(large, along(found)).max() < 1.0


def test_an_outline_says_how_far_it_lies_off_the_ink() -> None:
    true = LINES[0]
    on = off_ink(PICTURE, true)
    assert on.told
    assert on.mean < 0.2
    beside = off_ink(PICTURE, mapped(true, np.eye(2), (4.0, 0.0)))
    assert 2 < beside.mean < 3
    assert beside.most == pytest.approx(4.0, abs=0.4)
    away = off_ink(PICTURE, mapped(true, np.eye(2), (0.0, 900.0)))
    assert not away.told


@pytest.mark.parametrize(("picture", "true"), [(PICTURE, LINES[0]), (FILLED, AREAS[4][0])])
def test_what_lies_beside_is_laid_on_the_ink(picture: object, true: Path) -> None:
    beside = mapped(true, 1.01 * np.eye(2), (-2.0, 3.0))
    found = laid_on(picture, beside, 0.5)  # type: ignore[arg-type]
    assert distances(true, along(found)).mean() < 0.3
    assert distances(true, along(found)).max() < 1.2
    assert len(found) <= 2 * len(true)


def test_only_a_piece_can_be_laid_on_and_corners_stay() -> None:
    true = LINES[1]
    beside = mapped(true, np.eye(2), (3.0, 3.0))
    found = laid_on(PICTURE, beside, 0.5)
    assert found.corner.sum() == 4
    only = np.array([True, False, False, False])
    part = laid_on(PICTURE, beside, 0.5, only=only)
    assert distances(part, beside.points[2:3]).max() < 0.3
    with pytest.raises(OutlineError, match="No drawn line"):
        laid_on(PICTURE, mapped(true, np.eye(2), (0.0, 900.0)), 0.5)


def test_the_outermost_outline_is_the_middle_of_its_line() -> None:
    body = wavy((400, 300), 220, 3)
    within = [polygon((330, 250), (470, 250), (470, 350), (330, 350))]
    (found,) = silhouette(build(drawn([body, *within], pen=5)))
    assert np.concatenate(apart([body], [found])).mean() < 0.2
    gap = polygon(
        (300, 120), (640, 120), (640, 470), (150, 470), (150, 120), (296, 120), closed=False
    )
    (closed,) = silhouette(build(drawn([gap])))
    assert len(closed) < 10
    # A line that leads inward from it, and one that follows it for a while, do not pull it in.
    frame = rectangle((150, 120), (640, 470))
    inward = [
        polygon((150, 300), (640, 300), closed=False),
        polygon((400, 120), (400, 470), closed=False),
    ]
    (kept,) = silhouette(build(drawn([frame, *inward], pen=6)))
    assert np.concatenate(apart([frame], [kept])).max() < 0.8
    # Nor does one that leads outward stand out of it; and thick lines are lines.
    outward = [polygon((400, 470), (400, 540), closed=False)]
    for pen in (3, 9):
        (plain,) = silhouette(build(drawn([frame, *outward], pen=pen)))
        off = np.concatenate(apart([frame], [plain]))
        assert off.mean() < 0.5 and off.max() < 3 + pen
    with pytest.raises(OutlineError, match="Nothing is drawn"):
        silhouette(build(Image.new("L", (300, 300), 255)))
