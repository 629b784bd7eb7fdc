"""Views are not cut through: strokes that enclose nothing and stick out belong to them, what is
measured and written beside them does not."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import pytest
from PIL import Image, ImageDraw

from dimetron.geometry.views import View
from dimetron.imaging.split.views import FoundView, split_views

Pen = ImageDraw.ImageDraw
Box = tuple[float, float, float, float]
#: Middles and sizes of an egg of 200 × 420 × 160 in third-angle.
FRONT, RIGHT, TOP = (430, 880, 200, 160), (1100, 880, 420, 160), (430, 400, 200, 420)


def sheet(*more: Callable[[Pen], object]) -> Image.Image:
    picture = Image.new("L", (1800, 1270), 250)
    pen = ImageDraw.Draw(picture)
    for x, y, w, h in (FRONT, RIGHT, TOP):
        pen.ellipse((x - w / 2, y - h / 2, x + w / 2, y + h / 2), outline=30, width=4)
    for draw in more:
        draw(pen)
    return picture


def bent(x: float, y: float, dx: float, dy: float) -> Callable[[Pen], object]:
    """A feeler: a single stroke that bends."""
    u = np.linspace(0, 1, 40)
    way = list(zip(x + dx * u, y + dy * u**2.2, strict=True))
    return lambda pen: pen.line(way, fill=30, width=3)


def straight(*way: float, width: int = 4) -> Callable[[Pen], object]:
    return lambda pen: pen.line(way, fill=30, width=width)


def found(picture: Image.Image) -> dict[View | None, FoundView]:
    return {view.view: view for view in split_views(picture).found}


def box(view: FoundView) -> list[float]:
    return [*view.corners[0], *view.corners[2]]


def check(picture: Image.Image, view: View, wanted: Sequence[float], sure: bool = True) -> None:
    seen = found(picture)[view]
    assert box(seen) == pytest.approx(wanted, abs=3)
    assert seen.sure is sure
    assert sure or seen.doubt == "a line runs out of it"


def test_feelers_belong_to_their_view_in_all_three() -> None:
    picture = sheet(
        *(bent(430 + s * 40, 810, s * 90, -90) for s in (-1, 1)),
        bent(900, 860, -90, -142),
        *(bent(430 + s * 40, 590, s * 90, 110) for s in (-1, 1)),
    )
    check(picture, View.FRONT, (300, 720, 560, 960))
    check(picture, View.RIGHT, (810, 718, 1310, 960))
    check(picture, View.TOP, (300, 190, 560, 700))


def test_steep_feelers_are_no_ruled_lines() -> None:
    picture = sheet(*(bent(430 + s * 30, 806, s * 34, -118) for s in (-1, 1)))
    check(picture, View.FRONT, (330, 688, 530, 960))


def test_a_stroke_that_would_draw_its_box_over_another_view_is_left_to_the_person() -> None:
    # Up beside the top view, past its lower end.
    seen = found(sheet(bent(525, 870, 30, -266)))[View.FRONT]
    assert box(seen) == pytest.approx((330, 800, 530, 960), abs=6)
    assert seen.doubt == "a line runs out of it"


def test_a_wavy_tail_belongs_to_it_where_it_runs_level_too() -> None:
    u = np.linspace(0, 1, 60)
    side = [*np.stack([1305 + 140 * u, 900 + 60 * np.sin(3 * u)], axis=1).ravel()]
    plan = [*np.stack([430 + 30 * np.sin(3 * u), 195 - 140 * u], axis=1).ravel()]
    picture = sheet(straight(*side, width=3), straight(*plan, width=3))
    check(picture, View.RIGHT, (890, 800, 1445, 960))
    check(picture, View.TOP, (330, 55, 530, 610))


def test_a_stick_that_might_be_a_measure_is_taken_in_and_left_to_the_person() -> None:
    wings = [straight(430 + s * 99, y, 430 + s * 220, y) for s in (-1, 1) for y in (860, 440)]
    picture = sheet(*wings)
    check(picture, View.FRONT, (210, 800, 650, 960), sure=False)
    check(picture, View.TOP, (210, 190, 650, 610), sure=False)
    assert found(picture)[View.RIGHT].sure


def test_measures_and_leaders_stay_outside() -> None:
    def number(x: float, y: float, text: str) -> Callable[[Pen], object]:
        return lambda pen: pen.text((x, y), text, fill=30, font_size=24)

    picture = sheet(
        # A width over the side view, its extension lines touching it.
        straight(890, 880, 890, 740, width=2), straight(1310, 880, 1310, 740, width=2),
        straight(890, 746, 1310, 746, width=2), number(1080, 715, "420"),
        # A leader to the front view with a shelf that its note stands beside.
        straight(520, 850, 560, 810, 580, 810, width=3), number(586, 796, "R80"),
    )  # fmt: skip
    check(picture, View.RIGHT, (890, 800, 1310, 960))
    check(picture, View.FRONT, (330, 800, 530, 960))
    # A straight one by its note alone, and one with a shelf whose note was not read.
    noted = sheet(straight(512, 862, 566, 808, width=4), number(570, 782, "R80"))
    check(noted, View.FRONT, (330, 800, 530, 960))
    check(sheet(straight(520, 850, 560, 810, 580, 810, width=3)), View.FRONT, (330, 800, 530, 960))


def test_lines_to_measure_from_stay_outside_without_a_number_too() -> None:
    # On along the upper edge of the side view, as far as a heavy one goes.
    check(sheet(straight(1100, 801, 1420, 801)), View.RIGHT, (890, 800, 1310, 960))
    # Thin lines up from both ends with one across, their number left out.
    ways = ((890, 880, 890, 740), (1310, 880, 1310, 740), (890, 746, 1310, 746))
    thin = [
        lambda pen, way=way: pen.line(way, fill=120, width=2)  # type: ignore[misc]
        for way in ways
    ]
    check(sheet(*thin), View.RIGHT, (890, 800, 1310, 960))


def test_what_runs_into_another_view_is_not_taken_in() -> None:
    # A projection line, as heavy as the rest, from the front view up to the top view.
    picture = sheet(straight(380, 805, 380, 600))
    check(picture, View.FRONT, (330, 800, 530, 960))
    check(picture, View.TOP, (330, 190, 530, 610))


def test_what_goes_on_and_on_is_left_to_the_person() -> None:
    picture = sheet(straight(1300, 900, 1700, 640, width=3))
    seen = found(picture)[View.RIGHT]
    assert not seen.sure
    u = np.linspace(0, 1, 60)
    tail = [*np.stack([1305 + 470 * u, 900 + 60 * np.sin(9 * u)], axis=1).ravel()]
    assert not found(sheet(straight(*tail, width=3)))[View.RIGHT].sure
