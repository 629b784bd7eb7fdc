"""What is written at the views of a sheet, and what follows from it for their names."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest
from PIL import Image

from dimetron.demo import can, odo
from dimetron.demo.plan import Clutter, SheetPlan
from dimetron.demo.plates import Hand, Piece, Plate, drawn_plate
from dimetron.demo.sheet import drawn_sheet
from dimetron.geometry.views import Projection, View
from dimetron.imaging.skew import Skew
from dimetron.imaging.split.level import LevelSheet, levelled
from dimetron.imaging.split.regions import Boxes
from dimetron.imaging.split.views import FoundView, Split
from dimetron.imaging.wording import lines, model
from dimetron.imaging.wording.lines import Writing, lines_of_print
from dimetron.registration.onsheet import views
from dimetron.registration.onsheet.captions import captions, meant, without_caption
from dimetron.registration.onsheet.views import sheet_views

F, K, R, L, T, B = View.FRONT, View.BACK, View.RIGHT, View.LEFT, View.TOP, View.BOTTOM
NONE: set[View] = set()


@pytest.mark.parametrize(
    ("text", "views"),
    [
        ("FRONT", {F}),
        ("Front view 1:5", {F}),
        ("fr0nt elevatlon", {F}),
        ("right side", {R}),
        ("Back side", {K}),
        ("SIDE ELEVATION", {L, R}),
        ("view from above", {T}),
        ("plan", {T}),
        ("Seitenansicht von links", {L}),
        ("Rückansicht", {K}),
        ("vue de dessous", {B}),
        ("alzado frontal", {F}),
        ("left and right", NONE),
        ("Enamel white inside, green outside of the front", NONE),
        ("Lantern Hollow workshop", NONE),
        ("Section A-A", NONE),
        ("412", NONE),
        ("", NONE),
    ],
)
def test_a_caption_means_views(text: str, views: set[View]) -> None:
    assert meant(text) == views


def lettered(light: bool, deg: float = 0.0) -> Image.Image:
    """Two boxes with plotter lettering below each, and a long note."""
    ground, ink = ((40, 60, 110), (240, 240, 240)) if light else ((250, 248, 240), (50, 50, 60))
    pixels = np.full((1000, 1400, 3), ground, np.uint8)
    for x, words in ((150, "SIDE VIEW"), (800, "rear")):
        cv2.rectangle(pixels, (x, 200), (x + 420, 600), ink, 3)
        at = (x + 210 - 9 * len(words), 650)
        cv2.putText(pixels, words, at, cv2.FONT_HERSHEY_SIMPLEX, 1.0, ink, 2, cv2.LINE_AA)
    note = "front and back are alike but for the seam"
    cv2.putText(pixels, note, (300, 900), cv2.FONT_HERSHEY_SIMPLEX, 0.8, ink, 1, cv2.LINE_AA)
    return Image.fromarray(pixels).rotate(deg, Image.Resampling.BICUBIC, fillcolor=ground)


def read(image: Image.Image, level: LevelSheet, boxes: list[Boxes]) -> dict[int, set[View]]:
    return {i: set(c.views) for i, c in captions(Writing(image, level), boxes).items()}


@pytest.mark.parametrize(("light", "deg"), [(False, 0.0), (True, 0.0), (False, 2.0)])
def test_captions_of_other_lettering_are_read(light: bool, deg: float) -> None:
    image = lettered(light, deg)
    level = levelled(image, deg)
    boxes = [np.array([150.0, 200, 570, 600]), np.array([800.0, 200, 1220, 600])]
    s = level.ink.shape[1] / image.width
    assert read(image, level, [box * s for box in boxes]) == {0: {L, R}, 1: {K}}


def test_lines_are_read_whole_and_from_the_picture_itself() -> None:
    image = lettered(light=False).resize((4200, 3000))
    level = levelled(image, 0.0)
    s = level.ink.shape[1] / 1400
    where = lines_of_print(level.ink, [np.array([140.0, 190, 580, 610]) * s])
    texts = {line.text.lower() for line in Writing(image, level).read(where)}
    assert {"side view", "rear", "front and back are alike but for the seam"} <= texts


def test_captions_above_their_views_are_told_from_those_below() -> None:
    # Above the first and between the two: by the nearest alone "plan" could be of either.
    pixels = np.full((1200, 700, 3), 250, np.uint8)
    for y, words in ((150, "FRONT"), (650, "PLAN")):
        cv2.rectangle(pixels, (150, y), (550, y + 400), (40, 40, 40), 3)
        cv2.putText(pixels, words, (300, y - 30), cv2.FONT_HERSHEY_DUPLEX, 1, (40, 40, 40), 2)
    image = Image.fromarray(pixels)
    level = levelled(image, 0.0)
    s = level.ink.shape[0] / 1200
    boxes = [np.array([150.0, y, 550, y + 400]) * s for y in (150, 650)]
    assert read(image, level, boxes) == {0: {F}, 1: {T}}


def test_a_caption_is_of_the_nearest_thing_only() -> None:
    pixels = np.full((1200, 800, 3), 250, np.uint8)
    cv2.rectangle(pixels, (150, 150), (650, 600), (40, 40, 40), 3)
    cv2.rectangle(pixels, (150, 620), (650, 680), (40, 40, 40), 3)
    cv2.putText(pixels, "SIDE", (350, 715), cv2.FONT_HERSHEY_DUPLEX, 0.9, (40, 40, 40), 2)
    image = Image.fromarray(pixels)
    level = levelled(image, 0.0)
    s = level.ink.shape[0] / 1200
    boxes = [np.array(box) * s for box in ((150.0, 150, 650, 600), (150.0, 620, 650, 680))]
    assert read(image, level, boxes) == {1: {L, R}}


def test_what_is_not_surely_read_is_not_read(monkeypatch: pytest.MonkeyPatch) -> None:
    image = lettered(light=False)
    level = levelled(image, 0.0)
    box = lines_of_print(level.ink, [])[:1]

    class Guessing:
        asked, sure = 0, 0.3

        def read(self, line: object) -> tuple[str, float]:
            Guessing.asked += 1
            return "front", Guessing.sure

    monkeypatch.setattr(lines, "recogniser", Guessing)
    writing = Writing(image, level)
    assert not writing.read(box)
    # It is not asked twice for one line.
    assert not writing.read(box) and Guessing.asked == 1
    Guessing.sure = 0.9
    assert [line.text for line in Writing(image, level).read(box)] == ["front"]


def test_a_single_wrong_caption_is_doubted_and_the_arrangement_believed() -> None:
    plan = SheetPlan((F, R, T), 0.3, "Odo", Projection.FIRST_ANGLE, skew_deg=0.0, gap_mm=24.0,
                     clutter=Clutter(captions=False))  # fmt: skip
    drawn = drawn_sheet(plan, odo.solid())
    assert sheet_views(drawn.picture).arranged
    pixels = np.array(drawn.picture.convert("RGB"))
    x, y = drawn.corners[F].mean(axis=0)[0], drawn.corners[F][:, 1].max()
    at = round(x) - 60, round(y) + 45
    cv2.putText(pixels, "PLAN", at, cv2.FONT_HERSHEY_DUPLEX, 1.3, (50, 50, 60), 3)
    split = sheet_views(Image.fromarray(pixels))
    assert split.arranged
    (front,) = (v for v in split.found if not v.sure)
    assert front.view is F and "another view" in front.doubt


@pytest.mark.parametrize("framed", [False, True])
def test_in_a_frame_an_arrangement_found_as_worn_counts_more(
    monkeypatch: pytest.MonkeyPatch, framed: bool
) -> None:
    pixels = np.full((700, 1000), 255, np.uint8)
    if framed:
        cv2.rectangle(pixels, (20, 20), (980, 680), 0, 4)
    cv2.rectangle(pixels, (200, 200), (500, 500), 0, 3)
    corners = np.zeros((4, 2))
    found = tuple(FoundView(view, corners) for view in (F, R))
    answers = [Split(Skew(0.0, True), Projection.THIRD_ANGLE, found, k) for k in (False, True)]
    monkeypatch.setattr(views, "_views", lambda *_: answers.pop(0))
    assert sheet_views(Image.fromarray(pixels), skew_deg=0.0).arranged is framed


def sheet(captioned: bool, *views: View, title_block: bool = False) -> Image.Image:
    """The can on a sheet in first-angle: the right side stands left of the front."""
    clutter = Clutter(captions=captioned, title_block=title_block)
    plan = SheetPlan(views, 0.3, "Can", Projection.FIRST_ANGLE, gap_mm=24.0, clutter=clutter)
    return drawn_sheet(plan, can.solid()).picture


@pytest.mark.parametrize("projection", Projection)
def test_the_title_block_tells_the_projection(projection: Projection) -> None:
    plan = SheetPlan((F, R, L), 0.3, "Can", projection, clutter=Clutter(captions=False))
    split = sheet_views(drawn_sheet(plan, can.solid()).picture)
    assert split.projection is projection
    assert {v.view for v in split.views} == {F, R, L}


def test_captions_tell_the_projection() -> None:
    bare, told = (
        sheet_views(sheet(captioned, F, R, L, title_block=captioned)) for captioned in (False, True)
    )
    assert bare.projection is Projection.THIRD_ANGLE
    assert told.projection is Projection.FIRST_ANGLE
    own, other = ({v.view: v for v in split.views} for split in (bare, told))
    assert own[L].corners == pytest.approx(other[R].corners, abs=2)
    said = sheet_views(sheet(True, F, R, L), Projection.THIRD_ANGLE)
    assert said.projection is Projection.THIRD_ANGLE


@pytest.mark.parametrize("views", [(F, R), (F, L, K)])
def test_captions_name_where_the_arrangement_cannot(views: tuple[View, ...]) -> None:
    told = sheet_views(sheet(True, *views))
    assert told.projection is Projection.FIRST_ANGLE
    at = {v.view: float(v.corners[0, 0]) for v in told.views}
    assert set(at) == set(views)
    assert at[R] < at[F] if R in views else at[F] < at[L] < at[K]


def plate(*captioned: str) -> Plate:
    """The can from both ends, above one another: which is the front, shape cannot tell."""
    hand = Hand((246, 244, 238), (40, 40, 46), 2.0)
    pieces = (Piece(F, (420.0, 260.0), 1.5), Piece(K, (420.0, 850.0), 1.5),
              Piece(R, (1000.0, 480.0), 1.5))  # fmt: skip
    pieces = tuple(replace(p, caption=c) for p, c in zip(pieces, captioned, strict=True))
    return Plate((1400, 1150), hand, pieces)


@pytest.mark.parametrize("swapped", [False, True])
def test_captions_name_what_shape_leaves_open(swapped: bool) -> None:
    words = ("rear", "front", "side") if swapped else ("front", "rear", "side")
    drawn = drawn_plate(plate(*words), can.solid())
    by_view = {v.view: v for v in sheet_views(drawn.picture).found}
    upper = by_view[K if swapped else F].corners
    assert upper == pytest.approx(drawn.corners[0], abs=4)


def test_captions_that_the_shapes_belie_are_doubted() -> None:
    wrong, odd = (
        sheet_views(drawn_plate(plate(*words), can.solid()).picture)
        for words in (("front", "rear", "plan"), ("front", "side", "plan"))
    )
    assert not any(view.sure for view in (*wrong.found, *odd.found))
    assert any("name of another view" in view.doubt for view in odd.found)


def test_a_caption_is_no_part_of_its_view() -> None:
    pixels = np.full((900, 1200), 255, np.uint8)
    cv2.rectangle(pixels, (200, 200), (900, 600), 0, 4)
    cv2.putText(pixels, "FRONT", (450, 640), cv2.FONT_HERSHEY_SIMPLEX, 1.0, 0, 2)
    level = levelled(Image.fromarray(pixels), 0.0)
    s = level.ink.shape[1] / 1200
    box, caption = np.array([198.0, 198, 903, 645]) * s, np.array([445.0, 612, 560, 645]) * s
    assert without_caption(level.ink, box, caption) == pytest.approx(
        np.array([198.0, 198, 903, 603]) * s, abs=2
    )
    assert without_caption(level.ink, box, caption + 200 * s) is box


def test_without_the_model_sheets_are_named_by_shape(monkeypatch: pytest.MonkeyPatch) -> None:
    model.recogniser.cache_clear()
    monkeypatch.setattr(model, "_PACKAGE", "no_such_package_here")
    drawn = drawn_plate(plate("front", "rear", "side"), can.solid())
    assert len(sheet_views(drawn.picture).found) == 3
    model.recogniser.cache_clear()
