from __future__ import annotations

import cv2
import numpy as np
import pytest
from PIL import Image, ImageOps

from dimetron.imaging.medium import medium_of
from dimetron.imaging.pyramid import build
from dimetron.imaging.strands import strands_of
from dimetron.imaging.thin import thinned
from dimetron.outlines.itself import OUTERMOST, traced_by_itself
from dimetron.outlines.path import OutlineError, sampled
from dimetron.outlines.shapes import rectangle
from dimetron.outlines.trace import Traced, distances, trace
from tests.outlines.drawn import AREAS, LINES, apart, corners_kept, drawn, polygon


def _traced(image: Image.Image, line: str = "auto", miss: float = 0.5) -> tuple[Traced, ...]:
    return trace(image, medium_of(image), line, miss)


@pytest.mark.parametrize("pen", [2, 3, 5, 9])
def test_the_middles_of_drawn_lines_are_found(pen: float) -> None:
    found = _traced(drawn(LINES, pen=pen, seed=int(pen)))
    paths = [t.path for t in found]
    off, missing = apart(LINES, paths)
    assert off.mean() < 0.3
    assert missing.mean() < 0.3
    assert np.percentile(off, 99) < 1.5
    assert np.percentile(missing, 99) < 1.5
    assert corners_kept(LINES, paths) >= 0.9
    assert sum(map(len, paths)) <= 1.5 * sum(map(len, LINES))
    assert len(found) <= len(LINES) + 1
    assert all(t.area is None for t in found)


def test_the_edges_of_areas_and_of_their_holes_are_found() -> None:
    true = [path for area in AREAS for path in area]
    found = _traced(drawn(areas=AREAS))
    paths = [t.path for t in found]
    off, missing = apart(true, paths)
    assert max(off.mean(), missing.mean()) < 0.25
    assert max(off.max(), missing.max()) < 1.0
    assert corners_kept(true, paths) == 1.0
    assert len(found) == len(true)
    assert len({t.area for t in found}) == len(AREAS)


def test_lines_and_areas_on_one_picture_are_told_apart() -> None:
    image = Image.new("RGB", (1600, 600))
    image.paste(drawn(LINES), (0, 0))
    image.paste(drawn(areas=AREAS), (800, 0))
    found = _traced(image)
    assert sum(t.area is not None for t in found) == sum(map(len, AREAS))
    assert sum(t.area is None for t in found) in range(len(LINES), len(LINES) + 2)


def test_light_lines_on_dark_are_lines_too() -> None:
    found = _traced(ImageOps.invert(drawn(LINES, pen=4)))
    assert np.concatenate(apart(LINES, [t.path for t in found])).mean() < 0.3


def test_a_part_is_traced_as_it_is_in_the_whole_and_no_further() -> None:
    image = drawn(LINES)
    whole = _traced(image)
    left = np.array([[52.0, 30.0], [400, 30], [400, 600], [52, 600]])
    part = trace(image, medium_of(image), within=left)
    ends = np.concatenate([sampled(t.path, 0.05) for t in part])
    assert ends[:, 0].max() < 401
    every = np.concatenate([sampled(t.path, 0.05) for t in whole])
    inner = ends[ends[:, 0] < 395]
    assert np.min([distances(t.path, inner) for t in whole], axis=0).max() < 3.0
    wanted = every[(every[:, 0] < 390) & (every[:, 0] > 62) & (every[:, 1] > 40)]
    assert np.min([distances(t.path, wanted) for t in part], axis=0).max() < 3.0
    with pytest.raises(OutlineError, match="too small"):
        trace(image, medium_of(image), within=left + 5000)
    with pytest.raises(OutlineError, match="Nothing is drawn"):
        trace(image, medium_of(image), within=np.array([[2.0, 2], [30, 2], [30, 30], [2, 30]]))


def test_the_outermost_outline_of_a_part() -> None:
    left, right = rectangle((100, 100), (300, 400)), rectangle((420, 150), (640, 470))
    pyramid = build(drawn([left, right], pen=4))
    ring = np.array([[400.0, 100], [700, 100], [700, 520], [400, 520]])
    (found,) = traced_by_itself(pyramid, OUTERMOST, 0.5, within=ring)
    assert np.concatenate(apart([right], [found.path])).max() < 1.0


def test_a_coarser_miss_takes_fewer_points_and_is_kept() -> None:
    image = drawn(LINES)
    fine, coarse = _traced(image, miss=0.3), _traced(image, miss=2.0)
    assert sum(len(t.path) for t in coarse) < sum(len(t.path) for t in fine)
    assert max(t.most for t in coarse) <= 2.05
    assert max(t.most for t in fine) <= 0.35


def test_the_edge_of_a_line_can_be_asked_for() -> None:
    ring = polygon((100, 100), (500, 120), (400, 400))
    (outer, inner) = _traced(drawn([ring], pen=9), line="edge")
    assert outer.area == inner.area == 0
    off, _ = apart([ring], [outer.path])
    assert np.median(off) == pytest.approx(4.5, abs=0.4)


def test_an_empty_picture_and_a_miss_of_nothing_are_refused() -> None:
    blank = Image.new("L", (300, 200), 255)
    with pytest.raises(OutlineError, match="Nothing is drawn"):
        _traced(blank)
    with pytest.raises(OutlineError, match="too small"):
        _traced(blank, miss=0.0)


def test_hard_steps_of_two_colours_are_smooth_outlines() -> None:
    image = drawn(LINES, pen=5, grain=0).convert("L").point(lambda v: 255 * (v > 150))
    paths = [t.path for t in _traced(image)]
    assert np.concatenate(apart(LINES, paths)).mean() < 0.35
    assert sum(map(len, paths)) <= 2 * sum(map(len, LINES))


def test_tracing_can_be_stopped() -> None:
    def stop(share: float) -> None:
        raise InterruptedError

    image = drawn(LINES)
    with pytest.raises(InterruptedError):
        trace(image, medium_of(image), progress=stop)


def test_thin_lines_hang_together_as_what_they_are_of() -> None:
    rng = np.random.default_rng(4)
    mask = np.zeros((150, 201), bool)
    mask[1:-1, 1:-1] = cv2.GaussianBlur(rng.random((148, 199)), (0, 0), 4) > 0.5
    lines = thinned(mask)
    assert not (lines & ~mask).any()
    for ground in (False, True):
        counts = [
            cv2.connectedComponents((m ^ ground).astype(np.uint8), connectivity=4 if ground else 8)
            for m in (mask, lines)
        ]
        assert counts[0][0] == counts[1][0]
    square = lines[:-1, :-1] & lines[1:, :-1] & lines[:-1, 1:] & lines[1:, 1:]
    assert square.sum() < 5


def test_strands_are_in_order_and_meet_at_knots() -> None:
    lines = np.zeros((40, 60), bool)
    lines[20, 5:55] = lines[5:36, 30] = True
    found = strands_of(lines)
    assert len(found.strands) == 4
    assert found.knots == pytest.approx(np.array([[30, 20]]), abs=1)
    for strand in found.strands:
        steps = np.abs(np.diff(strand.pixels, axis=0)).max(axis=1)
        assert (steps == 1).all()
        assert sorted(strand.ends) == [-1, 0]
    ring = np.zeros((40, 60), bool)
    ring[10, 10:31] = ring[30, 10:31] = ring[10:31, 10] = ring[10:31, 30] = True
    (strand,) = strands_of(ring).strands
    assert strand.ring
    assert len(strand.pixels) == 80


def test_a_faint_line_beside_strong_ones_is_not_traced_in_crumbs() -> None:
    strong, faint = drawn(LINES), drawn([polygon((20, 560), (780, 570), closed=False)], grain=0)
    pale = np.asarray(faint, float) * 0.13 + 238 * 0.87
    both = np.minimum(np.asarray(strong, float), pale + np.asarray(strong, float) * 0)
    noisy = both + np.random.default_rng(3).normal(0, 3, both.shape)
    found = _traced(Image.fromarray(np.clip(noisy, 0, 255).astype(np.uint8)))
    assert len(found) <= len(LINES) + 2
