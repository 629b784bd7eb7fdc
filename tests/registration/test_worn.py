"""Views found on sheets that lie in a workshop: on squared paper, folded, in a shadow, worn."""

from __future__ import annotations

from functools import cache

import cv2
import numpy as np
import pytest
from PIL import Image

from dimetron.imaging.figure.kind import Kind
from dimetron.imaging.medium import medium_of
from dimetron.imaging.split.paper import without_paper_lines
from dimetron.registration.onsheet.views import sheet_views
from tests.imaging.test_split import overlap, sheet


def turned(plane: np.ndarray, deg: float) -> np.ndarray:
    h, w = plane.shape
    turn = cv2.getRotationMatrix2D((w / 2, h / 2), deg, 1.0)
    return cv2.warpAffine(plane, turn, (w, h), borderMode=cv2.BORDER_REPLICATE)


def lined(pixels: np.ndarray, deg: float, step: float, columns: bool) -> np.ndarray:
    """On paper with faint blue lines."""
    h, w = pixels.shape[:2]
    lines = np.zeros((h, w), np.float32)
    for at in np.arange(step / 2 - h, 2 * h, step):
        cv2.line(lines, (-w, round(at)), (2 * w, round(at)), 1.0, 1)
    for at in np.arange(step / 2 - w, 2 * w, step) if columns else ():
        cv2.line(lines, (round(at), -h), (round(at), 2 * h), 1.0, 1)
    off = turned(lines, deg)[..., None] * (0.35, 0.24, 0.10)
    return pixels * (1 - off)


def folded(pixels: np.ndarray, deg: float) -> np.ndarray:
    h, w = pixels.shape[:2]
    light = np.ones((h, w), np.float32)
    light[:, w // 2 :] = 0.95
    cv2.line(light, (w // 2, -h), (w // 2 + 4, 2 * h), 0.78, 2)
    cv2.line(light, (-w, int(h * 0.48)), (2 * w, int(h * 0.48)), 0.8, 2)
    return pixels * turned(light, deg)[..., None]


def shadowed(pixels: np.ndarray) -> np.ndarray:
    """A shadow with a soft edge across, from corner to corner."""
    h, w = pixels.shape[:2]
    x, y = np.meshgrid(np.linspace(-1, 1, w), np.linspace(-1, 1, h))
    return pixels * (1 - 0.4 / (1 + np.exp(-22 * (0.6 * x + 0.8 * y - 0.1))))[..., None]


def worn(pixels: np.ndarray) -> np.ndarray:
    """Faded in patches, its lines broken, with specks."""
    h, w = pixels.shape[:2]
    rng = np.random.default_rng(7)
    paper = np.median(pixels.reshape(-1, 3), axis=0)
    kept = cv2.resize(rng.uniform(0.4, 0.95, (8, 11)).astype(np.float32), (w, h))
    for _ in range(160):
        x, y = int(rng.integers(w)), int(rng.integers(h))
        cv2.line(kept, (x, y), (x + int(rng.integers(-14, 14)), y + 6), 0.1, 3)
    out = paper - (paper - pixels) * kept[..., None]
    for _ in range(250):
        at = int(rng.integers(w)), int(rng.integers(h))
        cv2.circle(out, at, 1, (paper * 0.5).tolist(), -1)
    return out


WAYS = {
    "squared": lambda pixels, deg: lined(pixels, deg, 24, True),
    "ruled": lambda pixels, deg: lined(pixels, deg, 38, False),
    "folded": folded,
    "shadowed": lambda pixels, deg: shadowed(pixels),
    "worn": lambda pixels, deg: worn(pixels),
}


@cache
def treated(name: str, how: str) -> Image.Image:
    plan, drawn = sheet(name)
    pixels = np.ascontiguousarray(drawn.picture.convert("RGB"), np.float32)
    out = WAYS[how](pixels, plan.skew_deg)
    return Image.fromarray(np.clip(out, 0, 255).astype(np.uint8))


@pytest.mark.parametrize("how", list(WAYS))
@pytest.mark.parametrize("name", ["can", "odo"])
def test_views_are_found_on_a_sheet_that_was_used(name: str, how: str) -> None:
    plan, drawn = sheet(name)
    picture = treated(name, how)
    assert medium_of(picture).kind is Kind.LINES
    split = sheet_views(picture, plan.projection)
    assert abs(split.skew.deg - plan.skew_deg) < 0.1
    by_view = {v.view: v for v in split.found}
    assert set(by_view) >= set(plan.views)
    # On the lizard's sheet a centreline runs into a caption.
    least = 0.95 if name == "can" else 0.90
    for view in plan.views:
        assert overlap(plan, drawn.corners[view], by_view[view].corners) > least, view


def test_lines_of_the_paper_go_and_what_is_drawn_stays() -> None:
    dark = np.random.default_rng(3).uniform(0, 0.02, (700, 1000)).astype(np.float32)
    for at in range(20, 700, 30):
        dark[at] = 0.2
    for at in range(12, 1000, 30):
        dark[:, at] = 0.2
    # A frame, a box with an edge where the grid runs, and a line across that is no print.
    cv2.rectangle(dark, (25, 25), (975, 675), 0.7, 2)
    cv2.rectangle(dark, (312, 200), (522, 440), 0.8, 3)
    dark[600, 200:800] = 0.2
    found = without_paper_lines(dark)
    assert np.mean(found[50, 60:900] > 0.1) < 0.01
    assert np.mean(found[100:400, 72] > 0.1) < 0.01
    assert (found[25, 60:940] > 0.5).all()
    assert (found[205:435, 312] > 0.5).all()
    assert (found[200, 320:515] > 0.5).all()
    # But for where lines of the paper cross it.
    assert (found[600, 210:790] > 0.1).mean() > 0.8


def test_print_runs_on_where_something_hides_it_and_grain_is_no_print() -> None:
    grain = np.random.default_rng(3).uniform(0, 0.02, (700, 1000)).astype(np.float32)
    dark = grain.copy()
    for at in range(20, 700, 30):
        dark[at] = 0.2
    # Shade along one of the lines hides it in half of the sheet's width.
    dark[338:345, 60:600] = 0.25
    found = without_paper_lines(dark)
    assert np.mean(found[350, 650:980] > 0.1) < 0.01
    noise = np.random.default_rng(5).normal(0.3, 0.2, (700, 900)).clip(0, 1).astype(np.float32)
    assert (without_paper_lines(noise) == noise).all()


def test_a_fold_runs_to_both_edges_and_a_line_that_does_not_is_drawn() -> None:
    dark = np.random.default_rng(4).uniform(0, 0.02, (600, 900)).astype(np.float32)
    dark[300:302] = 0.15
    dark[420:422, 40:860] = 0.15
    dark[100:500, 450] = 0.5
    found = without_paper_lines(dark)
    assert np.mean(found[300:302, :440] > 0.1) < 0.01
    assert (found[420:422, 60:840] > 0.1).all()
    assert (found[110:490, 450] > 0.4).all()
    small = dark[:90, :110]
    assert (without_paper_lines(small) == small).all()
