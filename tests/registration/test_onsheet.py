"""Views found and named wherever they stand on a sheet, whatever it is drawn with."""

from __future__ import annotations

import io
import json
from dataclasses import replace
from functools import cache
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageDraw

from dimetron.cli import main
from dimetron.demo import beetle, can, odo, project, snail
from dimetron.demo.plates import DrawnPlate, Hand, Piece, Plate, drawn_plate
from dimetron.document import preparing
from dimetron.document.edits import with_sheet
from dimetron.document.model import Document, Source
from dimetron.document.preparing import FoundView
from dimetron.geometry.views import View
from dimetron.imaging.frame import Crop
from dimetron.imaging.split.views import Split
from dimetron.registration.onsheet.views import sheet_views

F, R, L, T = View.FRONT, View.RIGHT, View.LEFT, View.TOP
HANDS = {
    "dark": Hand((246, 244, 238), (40, 40, 46), 2.0),
    "light": Hand((30, 32, 36), (205, 210, 200), 2.5),
    "red": Hand((250, 248, 240), (196, 44, 38), 1.6),
    "lined": Hand((246, 244, 238), (40, 40, 46), 2.0, ((110, 60, 40), (220, 140, 100))),
    "filled": Hand((240, 240, 236), (0, 0, 0), 0.0, ((40, 70, 60),)),
    "shaded": snail.PLATE.hand,
}  # fmt: skip


def odo_plate(hand: Hand, sizes: tuple[float, ...] = (1.0, 1.0, 1.0)) -> Plate:
    """The lizard's side above, its plan on its side below, its front beside that."""
    side, plan, front = (2.0 * size for size in sizes)
    return Plate(
        (1120, 1000),
        hand,
        (
            Piece(R, (390.0, 260.0), side),
            Piece(T, (390.0, 720.0), plan, turns=3),
            Piece(F, (900.0, 640.0), front),
        ),
        fall=0.05,
    )


@cache
def drawn(name: str) -> DrawnPlate:
    return drawn_plate(odo_plate(HANDS[name]), odo.solid())


def found(picture: Image.Image) -> Split:
    return sheet_views(picture)


def assert_found(split: Split, plate: Plate, truth: DrawnPlate, off_px: float) -> None:
    by_view = {view.view: view for view in split.found}
    assert set(by_view) == {piece.view for piece in plate.pieces}
    for piece, corners in zip(plate.pieces, truth.corners, strict=True):
        view = by_view[piece.view]
        assert view.turns == piece.turns
        assert view.corners == pytest.approx(corners, abs=off_px)


@pytest.mark.parametrize("name", HANDS)
def test_views_are_named_and_turned_by_what_they_show(name: str) -> None:
    plate = odo_plate(HANDS[name])
    assert_found(found(drawn(name).picture), plate, drawn(name), 4)


def test_the_beetle_is_read_for_sure() -> None:
    truth = drawn_plate(beetle.PLATE, beetle.solid())
    split = found(truth.picture)
    assert_found(split, beetle.PLATE, truth, 3)
    assert len(split.views) == 4


def test_the_snail_is_read_though_nothing_of_it_is_a_line() -> None:
    truth = drawn_plate(snail.PLATE, snail.solid())
    assert_found(found(truth.picture), snail.PLATE, truth, 3)


@pytest.mark.parametrize("name", ["dark", "lined"])
def test_views_of_several_scales_are_told(name: str) -> None:
    plate = odo_plate(HANDS[name], (1.0, 1.0, 1.3))
    split = found(drawn_plate(plate, odo.solid()).picture)
    sizes = {view.view: view.size for view in split.found}
    assert sizes[R] == sizes[T] == 1.0
    assert sizes[F] == pytest.approx(1 / 1.3, rel=0.02)


def test_views_in_a_row_are_not_named_by_their_place_alone() -> None:
    """Level with one another as standards have it, but in another order."""
    plate = Plate(
        (1500, 520),
        HANDS["dark"],
        (
            Piece(T, (340.0, 260.0), 1.9, turns=3),
            Piece(F, (770.0, 260.0), 1.9),
            Piece(R, (1190.0, 260.0), 1.9),
        ),
    )
    truth = drawn_plate(plate, odo.solid())
    assert_found(found(truth.picture), plate, truth, 4)


def test_a_view_that_is_drawn_twice_is_taken_once() -> None:
    plate = Plate(
        (1300, 1000),
        HANDS["dark"],
        (
            Piece(R, (330.0, 200.0), 1.9),
            Piece(R, (330.0, 620.0), 1.9),
            Piece(T, (950.0, 200.0), 1.9, turns=3),
            Piece(F, (900.0, 640.0), 1.9),
        ),
    )
    split = found(drawn_plate(plate, odo.solid()).picture)
    assert len(split.found) == 4
    assert [v.view for v in split.views].count(R) <= 1


def test_holes_in_line_are_parts_and_no_views() -> None:
    picture = Image.new("RGB", (1000, 800), (246, 244, 238))
    pen = ImageDraw.Draw(picture)
    plates = [(60, 60, 480, 360), (540, 60, 960, 360), (60, 420, 480, 720)]
    for x0, y0, x1, y1 in plates:
        pen.rectangle((x0, y0, x1, y1), outline=(40, 40, 46), width=3)
        for x in (x0 + 90, x1 - 90):
            pen.ellipse((x - 45, y0 + 60, x + 45, y0 + 150), outline=(40, 40, 46), width=3)
    boxes = [(*view.corners[0], *view.corners[2]) for view in found(picture).found]
    assert len(boxes) == 3
    for plate in plates:
        assert any(box == pytest.approx(plate, abs=4) for box in boxes)


def test_what_stands_alone_is_left_to_the_person() -> None:
    plate = Plate((900, 700), HANDS["filled"], (Piece(R, (450.0, 350.0), 2.4),))
    (only,) = found(drawn_plate(plate, odo.solid()).picture).found
    assert only.view is None and not only.sure and only.doubt
    assert found(Image.new("RGB", (400, 300), (200, 60, 40))).found == ()


def on_sheet(views: list[FoundView]) -> Document:
    doc, sheet = with_sheet(Document(), Source("s", "plate.png", "png", (1000, 800), "", b""))
    return preparing.with_found_views(doc, sheet, views)


def test_a_view_on_its_side_is_set_upright_and_another_size_is_kept() -> None:
    doc = on_sheet(
        [
            FoundView(Crop(500, 100, 300, 200), R),
            FoundView(Crop(100, 400, 300, 150), T, turns=3),
            # Nearly over the plan's middle, which says nothing of one that lies on its side.
            FoundView(Crop(209, 100, 75, 100), F, size=2.0),
        ]
    )
    side, plan, front = doc.drawings
    assert doc.size_px(plan) == (150, 300) and doc.size_px(side) == (300, 200)
    doc = preparing.with_sheet_scale(doc, side.sheet, 0.5)
    doc = preparing.place_all(doc, side.sheet)
    side, plan, front = doc.drawings
    scales = [d.placement.mm_per_px for d in (side, plan, front)]
    assert scales == pytest.approx([0.5, 0.5, 1.0])
    assert front.body and not side.body
    # What stood level with nothing stands on the ground, and a plan about the middle.
    assert front.placement.to_plane((37.5, 100.0)) == pytest.approx((0, 0))
    assert plan.placement.to_plane((75.0, 150.0)) == pytest.approx((0, 0))


def test_a_size_typed_for_a_view_of_another_scale_counts_in_its_own() -> None:
    doc = on_sheet(
        [FoundView(Crop(0, 0, 300, 200), R), FoundView(Crop(400, 0, 100, 100), F, size=2.0)]
    )
    doc = preparing.sized(doc, doc.drawings[1].id, 100.0, 0)
    assert [d.placement.mm_per_px for d in doc.drawings] == pytest.approx([0.5, 1.0])


def test_split_writes_turned_views_upright(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    plate, truth = odo_plate(HANDS["light"]), drawn("light")
    truth.picture.save(tmp_path / "plate.png")
    assert (
        main(["split", str(tmp_path / "plate.png"), "--out", str(tmp_path / "out"), "--json"]) == 0
    )
    told = {v["view"]: v for v in json.loads(capsys.readouterr().out)["views"]}
    assert set(told) == {"front", "right", "top"}
    for piece, corners in zip(plate.pieces, truth.corners, strict=True):
        view = told[piece.view.value]
        assert np.array(view["corners_px"]) == pytest.approx(corners, abs=4)
        with Image.open(tmp_path / "out" / view["file"]) as picture:
            across, down = (np.hypot(*(corners[k] - corners[0])) for k in (1, 3))
            assert picture.size == pytest.approx((across, down), abs=6)


def test_mirrored_names_are_not_given_to_a_whole_set() -> None:
    """A can seen from its left, not its right: the names say which."""
    plate = Plate(
        (1300, 1000),
        HANDS["dark"],
        (
            Piece(L, (420.0, 300.0), 1.3),
            Piece(T, (420.0, 760.0), 1.3, turns=1),
            Piece(F, (1050.0, 300.0), 1.3),
        ),
    )
    truth = drawn_plate(plate, can.solid())
    assert {v.view for v in found(truth.picture).found} == {L, T, F}


@pytest.mark.parametrize("name", ["odo-sheet", "can-sheet"])
def test_a_sheet_laid_out_by_the_standard_is_named_by_its_places(name: str) -> None:
    """Even where one view was drawn the wrong way round, and notes stand beside them."""
    (data,) = project.pictures(name).values()
    split = found(Image.open(io.BytesIO(data)).convert("RGB"))
    assert split.arranged
    assert {view.view for view in split.views} == {F, R, T}


def test_notes_are_no_view() -> None:
    pixels = np.array(drawn("dark").picture)
    pen = ImageDraw.Draw(picture := Image.fromarray(pixels))
    for row in range(5):
        pen.text((730, 20 + 30 * row), "enamel inside, brass", fill=(40, 40, 46), font_size=16)
        # Underlined words hang together.
        pen.line((730, 40 + 30 * row, 845, 40 + 30 * row), fill=(40, 40, 46), width=2)
    assert len(found(picture).found) == 3


def test_a_loose_detail_is_no_view_of_the_object() -> None:
    picture = drawn("dark").picture.copy()
    pen = ImageDraw.Draw(picture)
    pen.ellipse((1020, 60, 1084, 124), outline=(40, 40, 46), width=2)
    pen.line((1030, 92, 1074, 92), fill=(40, 40, 46), width=2)
    split = found(picture)
    (detail,) = (view for view in split.found if view.view is None)
    assert detail.corners[0] == pytest.approx((1020, 60), abs=4) and "detail" in detail.doubt
    rest = tuple(view for view in split.found if view.view is not None)
    assert_found(replace(split, found=rest), odo_plate(HANDS["dark"]), drawn("dark"), 4)
