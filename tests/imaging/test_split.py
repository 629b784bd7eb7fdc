"""Splitting sheets whose truth is known, and what is not a sheet of views."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest
from PIL import Image, ImageDraw

from dimetron.demo import can, odo
from dimetron.demo.plan import Clutter, SheetPlan
from dimetron.demo.sheet import DrawnSheet, drawn_sheet
from dimetron.geometry.views import Projection, View
from dimetron.imaging.skew import skew
from dimetron.imaging.split.views import Split, split_views

F, R, L, T = View.FRONT, View.RIGHT, View.LEFT, View.TOP


@cache
def sheet(name: str) -> tuple[SheetPlan, DrawnSheet]:
    plans = {
        "can": SheetPlan((F, R, T), 0.26, "Watering can", dpi=120, clutter=Clutter(zones=True)),
        "touching": SheetPlan(
            (F, R, T), 0.26, "Watering can", dpi=120, skew_deg=-1.7, gap_mm=22,
            clutter=Clutter(extension_gap_mm=0.0, arrow="tick", leaders=2, dimensions=3),
        ),
        "odo": SheetPlan(
            (F, L, T), 0.36, "Odo", Projection.FIRST_ANGLE, dpi=120, skew_deg=2.2, shading=0.4,
            strength=0.55, line_mm=0.6, noise=2.0,
        ),
    }  # fmt: skip
    plan = plans[name]
    return plan, drawn_sheet(plan, odo.solid() if name == "odo" else can.solid())


def overlap(plan: SheetPlan, true: np.ndarray, found: np.ndarray) -> float:
    """Intersection over union of two boxes, both turned level first."""
    a = np.radians(plan.skew_deg)
    level = np.array([[np.cos(a), np.sin(a)], [-np.sin(a), np.cos(a)]])
    p, q = true @ level, found @ level
    sides = np.minimum(p.max(0), q.max(0)) - np.maximum(p.min(0), q.min(0))
    shared = float(np.prod(np.maximum(sides, 0)))
    return shared / (float(np.prod(np.ptp(p, axis=0)) + np.prod(np.ptp(q, axis=0))) - shared)


@pytest.mark.parametrize("name", ["can", "touching", "odo"])
def test_views_are_found_and_named(name: str) -> None:
    plan, drawn = sheet(name)
    split = split_views(drawn.picture, plan.projection)
    assert {v.view for v in split.views} == set(plan.views)
    for view in split.views:
        assert view.view is not None
        assert overlap(plan, drawn.corners[view.view], view.corners) > 0.95
    assert abs(split.skew.deg - plan.skew_deg) < 0.05


@pytest.mark.parametrize("name", ["can", "odo"])
def test_the_projection_is_told_from_where_the_top_view_stands(name: str) -> None:
    plan, drawn = sheet(name)
    assert split_views(drawn.picture).projection is plan.projection


def test_skew_is_found_in_a_part_without_a_frame() -> None:
    plan, drawn = sheet("can")
    w, h = drawn.picture.size
    part = drawn.picture.crop((w // 5, h // 8, w * 4 // 5, h * 3 // 4))
    assert abs(skew(part).deg - plan.skew_deg) < 0.2


def boxes(*at: tuple[int, int, int, int]) -> Image.Image:
    picture = Image.new("L", (1200, 900), 245)
    pen = ImageDraw.Draw(picture)
    for box in at:
        pen.rectangle(box, outline=40, width=4)
        pen.ellipse((box[0] + 20, box[1] + 20, box[2] - 20, box[3] - 20), outline=40, width=4)
    return picture


def names(split: Split) -> set[View | None]:
    return {v.view for v in split.views}


def test_one_view_is_the_front_one() -> None:
    assert names(split_views(boxes((300, 200, 800, 700)))) == {F}


def test_views_that_are_not_level_are_left_to_the_person() -> None:
    split = split_views(boxes((100, 100, 400, 400), (600, 260, 900, 600), (200, 600, 420, 840)))
    assert not [v for v in split.views if v.view is not F]
    assert all(v.doubt for v in split.found if not v.sure)


def test_views_that_nearly_touch_are_kept_apart() -> None:
    split = split_views(boxes((200, 400, 500, 800), (516, 400, 900, 800), (200, 100, 500, 384)))
    assert len(split.found) == 3


def test_overlapping_views_are_not_proposed_as_two() -> None:
    split = split_views(boxes((200, 300, 600, 700), (500, 400, 900, 800)))
    assert len(split.found) == 1


def test_ten_views_name_no_more_than_there_are_names() -> None:
    at = [
        (60 + 220 * c, 60 + 420 * r, 230 + 220 * c, 380 + 420 * r) for c in range(5) for r in (0, 1)
    ]
    split = split_views(boxes(*at))
    assert len(split.found) == 10
    views = [v.view for v in split.found if v.view is not None]
    assert len(views) == len(set(views)) <= 6


@pytest.mark.parametrize(
    "picture",
    [
        Image.new("RGB", (800, 600), "white"),
        Image.new("L", (800, 600), 0),
        Image.new("L", (1, 1), 128),
        Image.new("RGBA", (3, 700), (0, 0, 0, 0)),
        Image.effect_noise((900, 700), 60),
    ],
    ids=["blank", "black", "pixel", "sliver", "noise"],
)
def test_what_shows_nothing_gives_no_views(picture: Image.Image) -> None:
    assert split_views(picture).views == ()
