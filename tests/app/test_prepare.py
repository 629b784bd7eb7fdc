"""Prepare through the window: splitting, straightening, flattening, tone, size, bringing in."""

from __future__ import annotations

import io
from functools import cache
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from dimetron.app.sheet.marks import Line
from dimetron.demo import can, photo
from dimetron.demo.photo import BULGE
from dimetron.demo.plan import SheetPlan
from dimetron.demo.sheet import DrawnSheet, drawn_sheet, sheet_file
from dimetron.document import edits
from dimetron.geometry.views import View
from dimetron.imaging.frame import Crop
from tests.app.conftest import LEFT, NONE, Person, over, turn
from tests.imaging.test_lens import SIZE
from tests.imaging.test_lens import taken as photographed

taken = cache(photo.taken)
PLAN = SheetPlan((View.FRONT, View.RIGHT, View.TOP), 0.26, "Watering can", dpi=110)


@pytest.fixture(scope="module")
def sheet() -> DrawnSheet:
    return drawn_sheet(PLAN, can.solid())


@pytest.fixture
def at_sheet(person: Person, sheet: DrawnSheet) -> Person:
    person.lay(sheet_file(sheet, "can.png", PLAN.dpi), "can.png")
    return person


def pixels(person: Person) -> np.ndarray:
    """The view as painted, (h, w, 3)."""
    image = person.view.grab().toImage().convertToFormat(QImage.Format.Format_RGB888)
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), -1)
    return rows[:, : image.width() * 3].reshape(image.height(), image.width(), 3).astype(int)


# Splitting.


def test_a_sheet_without_drawings_opens_in_prepare(at_sheet: Person) -> None:
    assert at_sheet.window.navigation.preparing
    assert at_sheet.view.isVisible()
    assert not at_sheet.board.isVisible()
    at_sheet.window.navigation.open_station("place")
    assert at_sheet.board.isVisible()


def test_the_views_are_found_levelled_and_named(at_sheet: Person, sheet: DrawnSheet) -> None:
    at_sheet.found()
    doc = at_sheet.doc
    assert {d.view for d in doc.drawings} == set(PLAN.views)
    assert all(d.named and not d.unsure and not d.placed for d in doc.drawings)
    angle = doc.sheets[0].flattening.straightening.angle_deg
    assert angle == pytest.approx(-PLAN.skew_deg, abs=0.05)
    for drawing in doc.drawings:
        w, h = doc.size_px(drawing)
        true = sheet.corners[drawing.view]
        assert (w, h) == pytest.approx(np.linalg.norm(np.diff(true[:3], axis=0), axis=1), abs=10)
    assert "Found front, right, top" in at_sheet.notice()
    at_sheet.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier, at_sheet.window)
    assert at_sheet.doc.drawings == ()
    assert at_sheet.doc.sheets[0].fresh


def test_place_all_stands_the_views_in_space_to_scale(at_sheet: Person) -> None:
    at_sheet.found()
    at_sheet.act("place-all")
    box = edits.bounds(at_sheet.doc)
    assert box is not None
    # The sheet's scale is 0.26 of the can, and its resolution was in the file.
    assert box[1, 1] - box[0, 1] == pytest.approx(can.LENGTH_MM * 0.26, rel=0.02)
    assert box[0, 2] == pytest.approx(0, abs=0.6)
    assert box[:, 0].sum() == pytest.approx(0, abs=0.6)
    at_sheet.window.navigation.open_station("place")
    at_sheet.rest()
    grey = at_sheet.picture().mean(axis=2)
    assert (grey < 110).sum() > 500


def test_a_rectangle_is_drawn_named_moved_resized_and_deleted(at_sheet: Person) -> None:
    at_sheet.pull(at_sheet.on(300, 300), at_sheet.on(700, 900))
    drawing = at_sheet.doc.drawings[0]
    assert not drawing.named
    crop = drawing.crop
    assert crop is not None
    assert (crop.left, crop.top, crop.width, crop.height) == pytest.approx(
        (300, 300, 400, 600), abs=5
    )
    at_sheet.listed("This rectangle shows", "left")
    assert at_sheet.doc.drawings[0].view is View.LEFT
    at_sheet.pull(at_sheet.on(500, 600), at_sheet.on(560, 640))
    moved = at_sheet.doc.drawings[0].crop
    assert (moved.left - crop.left, moved.top - crop.top) == pytest.approx((60, 40), abs=6)
    at_sheet.pull(
        at_sheet.on(moved.right, moved.bottom), at_sheet.on(moved.right + 80, moved.bottom)
    )
    wider = at_sheet.doc.drawings[0].crop
    assert wider.width - moved.width == pytest.approx(80, abs=6)
    at_sheet.key(Qt.Key.Key_Right, widget=at_sheet.view)
    assert at_sheet.doc.drawings[0].crop.left == pytest.approx(wider.left + 1)
    at_sheet.key(Qt.Key.Key_Delete, widget=at_sheet.view)
    assert at_sheet.doc.drawings == ()


def test_escape_abandons_a_rectangle_under_way(at_sheet: Person) -> None:
    before = at_sheet.doc
    at_sheet.pull(
        at_sheet.on(300, 300),
        at_sheet.on(700, 900),
        lambda: at_sheet.key(Qt.Key.Key_Escape, widget=at_sheet.view),
    )
    assert at_sheet.doc is before


def test_level_views_keep_level_when_an_edge_is_dragged(at_sheet: Person) -> None:
    at_sheet.found()
    front, right = at_sheet.drawing(View.FRONT), at_sheet.drawing(View.RIGHT)
    at_sheet.session.choose((front.id,))
    middle = front.crop.left + front.crop.width / 2
    at_sheet.pull(at_sheet.on(middle, front.crop.top), at_sheet.on(middle, front.crop.top - 30))
    now = at_sheet.drawing(View.FRONT).crop.top
    assert now == pytest.approx(front.crop.top - 30, abs=6)
    assert at_sheet.drawing(View.RIGHT).crop.top == pytest.approx(now)
    assert at_sheet.drawing(View.RIGHT).crop.bottom == right.crop.bottom
    at_sheet.switch("Keep views level")
    at_sheet.pull(at_sheet.on(middle, now), at_sheet.on(middle, now + 30))
    assert at_sheet.drawing(View.RIGHT).crop.top == pytest.approx(now)


def test_tighten_finds_the_ink_again(at_sheet: Person) -> None:
    at_sheet.found()
    front = at_sheet.drawing(View.FRONT)
    c = front.crop
    at_sheet.session.choose((front.id,))
    at_sheet.switch("Keep views level")
    at_sheet.pull(at_sheet.on(c.right, c.top + c.height / 2), at_sheet.on(c.right + 40, c.top + 50))
    assert at_sheet.drawing(View.FRONT).crop.right > c.right + 8
    at_sheet.act("tighten")
    at_sheet.wait(lambda: at_sheet.drawing(View.FRONT).crop.right < c.right + 6)
    assert at_sheet.drawing(View.FRONT).crop.right == pytest.approx(c.right, abs=5)


def test_what_tighten_takes_as_ink_is_shown_before_with_what_it_leaves_out(person: Person) -> None:
    pixels = np.full((400, 600), 250, np.uint8)
    pixels[100:300, 200:204] = pixels[100:104, 200:400] = 20
    # A wing in pale pencil, far beyond the rest.
    pixels[200, 60:180] = 238
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    person.window.navigation.open_station("prepare")
    person.lay(out.getvalue(), "glider.png")
    person.window.navigation.take_at_sheet("cut")
    person.pull(person.on(30, 40), person.on(500, 350))
    tool = person.window.sheet_tools["cut"]

    def frames(role: str) -> list[list[float]]:
        lines = [m for m in tool.marks() if isinstance(m, Line) and m.role == role and not m.wash]
        return [[*m.points[0], *m.points[2]] for m in lines]

    person.wait(lambda: bool(frames("warning")))
    assert np.allclose(frames("selection"), [[200, 100, 400, 300]], atol=1)
    assert np.allclose(frames("warning"), [[60, 200, 180, 201]], atol=1)
    assert "framed in red" in tool.told()
    person.act("tighten")
    person.wait(lambda: person.doc.drawings[0].crop.left > 190)
    tight = person.doc.drawings[0].crop
    person.wait(lambda: tool._tight.look(tight) is not None)
    assert "framed in red" not in tool.told()
    assert not frames("selection") and not frames("warning")


def test_a_typed_width_gives_the_sheet_its_scale(at_sheet: Person) -> None:
    at_sheet.found()
    right = at_sheet.drawing(View.RIGHT)
    at_sheet.session.choose((right.id,))
    turn()
    at_sheet.type_into(at_sheet.field("Width"), "41.2 cm")
    at_sheet.act("place-all")
    w, _ = at_sheet.drawing(View.TOP).placement.size_mm(
        at_sheet.doc.size_px(at_sheet.drawing(View.TOP))
    )
    front = at_sheet.drawing(View.FRONT)
    assert front.placement.size_mm(at_sheet.doc.size_px(front))[0] == pytest.approx(w, rel=0.03)
    assert edits.extent(at_sheet.doc, right.id, 1) == pytest.approx(412.0)


def test_a_placed_drawing_keeps_its_place_when_it_is_cropped_anew(at_sheet: Person) -> None:
    at_sheet.found()
    at_sheet.act("place-all")
    before = at_sheet.drawing(View.RIGHT)
    frame = at_sheet.doc.frame(before)
    points = frame.to_source(np.array([[10.0, 10], [200, 100]]))
    there = before.placement.to_plane(frame.to_frame(points))
    at_sheet.session.choose((before.id,))
    c = before.crop
    at_sheet.pull(at_sheet.on(c.left, c.top), at_sheet.on(c.left - 60, c.top - 40))
    after = at_sheet.drawing(View.RIGHT)
    assert after.crop.width > c.width + 40
    now = after.placement.to_plane(at_sheet.doc.frame(after).to_frame(points))
    np.testing.assert_allclose(now, there, atol=1e-6)


def test_a_blank_sheet_says_what_to_do(person: Person) -> None:
    out = io.BytesIO()
    Image.new("RGB", (400, 300), "white").save(out, "PNG")
    person.lay(out.getvalue(), "blank.png")
    person.act("find")
    person.wait(lambda: "No views" in person.notice())
    assert "drag a rectangle" in person.notice()
    assert person.doc.drawings == ()


def test_stopping_the_search_keeps_the_sheet_as_it_was(at_sheet: Person) -> None:
    before = at_sheet.doc
    at_sheet.act("find")
    at_sheet.window.desk.stop()
    at_sheet.wait(lambda: not at_sheet.window.desk.working)
    turn()
    assert at_sheet.doc is before


# Straightening.


def test_a_line_along_the_frame_levels_the_sheet(at_sheet: Person, sheet: DrawnSheet) -> None:
    at_sheet.window.navigation.take_at_sheet("straighten")
    corners = sheet.corners[View.RIGHT]
    at_sheet.pull(at_sheet.on(*corners[3]), at_sheet.on(*corners[2]))
    angle = at_sheet.doc.sheets[0].flattening.straightening.angle_deg
    assert angle == pytest.approx(-PLAN.skew_deg, abs=0.25)


def test_level_it_turn_type_and_mirror(at_sheet: Person) -> None:
    def how():  # type: ignore[no-untyped-def]
        return at_sheet.doc.sheets[0].flattening.straightening

    at_sheet.window.navigation.take_at_sheet("straighten")
    at_sheet.act("level")
    at_sheet.wait(lambda: how().angle_deg != 0)
    assert how().angle_deg == pytest.approx(-PLAN.skew_deg, abs=0.05)
    size = at_sheet.view.frame_.size_px
    at_sheet.act("left")
    assert how().turns == 1
    assert at_sheet.view.frame_.size_px == size[::-1]
    at_sheet.act("mirror")
    at_sheet.act("left")
    # Seen mirrored, left is the other way round underneath.
    assert (how().turns, how().mirrored) == (0, True)
    at_sheet.type_into(at_sheet.field("Turn"), "2.5")
    assert how().angle_deg == 2.5
    at_sheet.type_into(at_sheet.field("Turn"), "80")
    assert how().angle_deg == 2.5


def test_one_drawing_is_mirrored_by_itself(at_sheet: Person) -> None:
    at_sheet.found()
    front = at_sheet.drawing(View.FRONT)
    at_sheet.session.choose((front.id,))
    middle = at_sheet.on(
        front.crop.left + front.crop.width / 2, front.crop.top + front.crop.height / 2
    )
    QTest.mouseDClick(at_sheet.view, LEFT, NONE, middle)
    assert at_sheet.window.desk.item.id == front.id
    at_sheet.window.navigation.take_at_sheet("straighten")
    at_sheet.act("mirror")
    assert at_sheet.drawing(View.FRONT).straightening.mirrored
    assert not at_sheet.doc.sheets[0].flattening.straightening.mirrored
    at_sheet.key(Qt.Key.Key_Escape, widget=at_sheet.view)
    assert at_sheet.window.desk.item.id == at_sheet.doc.sheets[0].id


# Flattening.


@pytest.fixture
def at_photo(person: Person) -> Person:
    out = io.BytesIO()
    taken().picture.save(out, "JPEG", quality=90)
    person.lay(out.getvalue(), "clock.jpg")
    person.window.navigation.take_at_sheet("flatten")
    return person


def touch(person: Person, mm: tuple[float, float]) -> None:
    """Click where a point of the clock's front plane is seen."""
    person.view.repaint()
    at = person.view.frame_.to_frame(taken().px(np.array(mm)))
    person.tap(person.on(float(at[0]), float(at[1])))


def test_a_photo_is_flattened_by_four_corners_and_checked(at_photo: Person) -> None:
    at_photo.type_into(at_photo.field("Lens bulge"), str(BULGE))
    for corner in ((-100, 250), (100, 250), (100, 50), (-100, 50)):
        touch(at_photo, corner)
    at_photo.option("measured")
    at_photo.type_into(at_photo.field("Width"), "200")
    at_photo.type_into(at_photo.field("Height"), "200")
    at_photo.act("apply")
    assert at_photo.window.desk.mm_per_px is not None
    touch(at_photo, (-150, 150))
    touch(at_photo, (150, 150))
    turn()
    at_photo.type_into(at_photo.field("Its true length"), "300")
    told = at_photo.window.sheet_tools["flatten"].told()
    assert "worst error" in told
    # Clicks land on whole view pixels, each more than one of the photo's.
    assert float(told.split("worst error ")[1].split(" %")[0]) < 1.0


def test_the_ratio_of_a_rectangle_follows_from_the_cameras_lens(person: Person) -> None:
    exif = Image.Exif()
    exif.get_ifd(0x8769)[0xA405] = 43
    out = io.BytesIO()
    Image.new("RGB", SIZE, (200, 200, 190)).save(out, "JPEG", exif=exif)
    person.lay(out.getvalue(), "plate.jpg")
    person.window.navigation.take_at_sheet("flatten")
    for x, y in photographed(1.5, 43 / 43.27, 0.3, 0.5, 0.1):
        person.view.repaint()
        at = person.view.frame_.to_frame(np.array([x, y]))
        person.tap(person.on(float(at[0]), float(at[1])))
    tool = person.window.sheet_tools["flatten"]
    assert "camera’s lens" in tool.told()
    width = next(field for field in tool.fields() if field.name == "Width")
    assert width.value == pytest.approx(1.5, abs=0.03)
    # What is typed is not proposed any more.
    person.type_into(person.field("Width"), "1.4")
    assert not tool.told()
    person.act("apply")
    known = person.doc.sheets[0].flattening.known
    assert known.sides == (1.4, 1.0)  # type: ignore[union-attr]


def test_a_circle_and_its_centre_flatten_a_photo(at_photo: Person) -> None:
    at_photo.type_into(at_photo.field("Lens bulge"), str(BULGE))
    at_photo.option("circle")
    touch(at_photo, (0, 150))
    for a in np.linspace(0, 2 * np.pi, 8)[:-1]:
        touch(at_photo, (120 * np.cos(a), 150 + 120 * np.sin(a)))
    at_photo.type_into(at_photo.field("Diameter"), "240")
    at_photo.act("apply")
    desk = at_photo.window.desk
    ends = desk.frame.to_frame(taken().px(np.array([[-150.0, 150], [150, 150]])))
    assert np.hypot(*(ends[1] - ends[0])) * desk.mm_per_px == pytest.approx(300, rel=0.015)


def test_crossed_corners_say_so_and_nothing_is_lost(at_photo: Person) -> None:
    for corner in ((-100, 250), (100, 50), (100, 250), (-100, 50)):
        touch(at_photo, corner)
    before = at_photo.doc
    at_photo.act("apply")
    assert "crossed" in at_photo.notice()
    assert at_photo.doc is before
    at_photo.key(Qt.Key.Key_Escape, widget=at_photo.view)
    at_photo.act("clear")


def test_straight_lines_correct_the_lens(at_photo: Person) -> None:
    at_photo.option("lines")
    for x in np.linspace(-190, 190, 7):
        touch(at_photo, (float(x), 330.0))
    at_photo.key(Qt.Key.Key_Return, widget=at_photo.view)
    assert at_photo.doc.sheets[0].flattening.bulge == pytest.approx(BULGE, abs=0.03)


# Tone.


def test_lifting_the_paper_clears_it_and_before_shows_it_again(at_sheet: Person) -> None:
    at_sheet.window.navigation.take_at_sheet("tone")
    at_sheet.view.repaint()
    corner = at_sheet.on(150, 150)
    paper = pixels(at_sheet)[corner.y() - 20 : corner.y() + 20, corner.x() - 20 : corner.x() + 20]
    assert paper[..., 2].mean() < paper[..., 0].mean() - 8
    at_sheet.switch("Lift the paper")
    assert at_sheet.doc.sheets[0].tone.lift
    lifted = pixels(at_sheet)[corner.y() - 20 : corner.y() + 20, corner.x() - 20 : corner.x() + 20]
    assert abs(lifted[..., 2].mean() - lifted[..., 0].mean()) < 8
    QTest.keyPress(at_sheet.view, Qt.Key.Key_U)
    before = pixels(at_sheet)[corner.y() - 20 : corner.y() + 20, corner.x() - 20 : corner.x() + 20]
    np.testing.assert_array_equal(before, paper)
    QTest.keyRelease(at_sheet.view, Qt.Key.Key_U)
    assert not at_sheet.view.before


def test_a_slider_shows_its_tone_while_dragged_and_makes_one_step(at_sheet: Person) -> None:
    at_sheet.window.navigation.take_at_sheet("tone")
    turn()
    slid = at_sheet.window.route.panel._slid[1]
    steps = at_sheet.session.history
    slid.slider.setSliderDown(True)
    for value in (240, 300, 360):
        slid.slider.setValue(value)
    assert at_sheet.doc.sheets[0].tone.contrast == pytest.approx(0.8)
    assert at_sheet.session.history is steps
    slid.slider.setSliderDown(False)
    assert at_sheet.session.committed.sheets[0].tone.contrast == pytest.approx(0.8)
    assert at_sheet.session.history.undo_label == "Contrast"
    at_sheet.session.undo()
    assert at_sheet.doc.sheets[0].tone.plain


def test_paper_and_ink_are_picked_on_the_sheet(at_sheet: Person) -> None:
    at_sheet.window.navigation.take_at_sheet("tone")
    at_sheet.act("paper")
    at_sheet.tap(at_sheet.on(150, 150))
    paper = at_sheet.doc.sheets[0].tone.paper
    assert paper is not None
    assert np.abs(np.array(paper) - PLAN.paper).max() < 12
    out = pixels(at_sheet)
    at = at_sheet.on(150, 150)
    assert out[at.y() - 9 : at.y() + 9, at.x() - 9 : at.x() + 9].mean() > 250
    at_sheet.act("reset")
    assert at_sheet.doc.sheets[0].tone.plain


def test_a_drawing_of_its_own_tone_comes_to_the_board_with_it(at_sheet: Person) -> None:
    at_sheet.found()
    at_sheet.act("place-all")
    front = at_sheet.drawing(View.FRONT)
    at_sheet.window.desk.lay(front.id)
    at_sheet.window.navigation.take_at_sheet("tone")
    at_sheet.switch("Lift the paper")
    at_sheet.rest()
    picture = at_sheet.window.pictures.pyramids[at_sheet.doc.recipe(at_sheet.drawing(View.FRONT))]
    assert picture.levels[0].mode == "RGBA"
    alpha = np.asarray(picture.levels[0])[..., 3]
    assert np.mean(alpha == 0) > 0.7
    assert at_sheet.drawing(View.RIGHT).tone is None


# Size.


def test_measuring_between_two_points_and_typing_the_truth(
    at_sheet: Person, sheet: DrawnSheet
) -> None:
    at_sheet.window.navigation.take_at_sheet("size")
    corners = sheet.corners[View.RIGHT]
    at_sheet.pull(at_sheet.on(*corners[0]), at_sheet.on(*corners[1]))
    turn()
    measured = at_sheet.field("True length").value
    assert measured == pytest.approx(can.LENGTH_MM * 0.26, rel=0.02)
    at_sheet.type_into(at_sheet.field("True length"), "412")
    scale = at_sheet.window.desk.mm_per_px
    assert scale == pytest.approx(25.4 / PLAN.dpi / 0.26, rel=0.02)
    at_sheet.type_into(at_sheet.field("Dots per inch"), "300")
    assert at_sheet.window.desk.mm_per_px == pytest.approx(25.4 / 300)
    at_sheet.type_into(at_sheet.field("Resample"), "50")
    assert at_sheet.window.desk.mm_per_px == pytest.approx(25.4 / 150)
    at_sheet.type_into(at_sheet.field("Dots per inch"), "0")
    assert at_sheet.window.desk.mm_per_px == pytest.approx(25.4 / 150)


# Bringing in.


def dropped(person: Person, paths: list[Path]) -> None:
    person.drop(paths, QPoint(50, 50), person.view)


def test_pdf_pages_are_chosen_and_a_page_with_drawings_stays(
    person: Person, tmp_path: Path
) -> None:
    pages = [Image.new("RGB", (300, 200), c) for c in ("white", "grey", "black")]
    pages[0].save(tmp_path / "three.pdf", save_all=True, append_images=pages[1:], resolution=100)
    person.window.navigation.open_station("prepare")
    dropped(person, [tmp_path / "three.pdf"])
    person.wait(lambda: len(person.doc.sheets) == 1)
    person.window.navigation.take_at_sheet("size")
    turn()
    person.type_into(person.field("Page"), "3")
    person.wait(lambda: person.doc.sheets[0].page.number == 2)
    person.type_into(person.field("Drawn at"), "50")
    person.wait(lambda: person.doc.sheets[0].size_px == (150, 100))
    person.window.navigation.take_at_sheet("cut")
    person.rest()
    person.pull(person.on(20, 20), person.on(80, 80))
    person.window.navigation.take_at_sheet("size")
    turn()
    person.type_into(person.field("Page"), "1")
    person.wait(lambda: len(person.doc.sheets) == 2)
    assert [s.page.number for s in person.doc.sheets] == [2, 0]
    person.type_into(person.field("Page"), "9")
    person.wait(lambda: "3 pages" in person.notice())


def test_what_cannot_be_read_says_so_and_the_rest_comes_in(person: Person, tmp_path: Path) -> None:
    (tmp_path / "broken.pdf").write_bytes(b"%PDF-1.4 nothing")
    (tmp_path / "a.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="30mm">'
        "<script>x</script><circle cx='50' cy='50' r='30'/></svg>"
    )
    person.window.navigation.open_station("prepare")
    dropped(person, [tmp_path / "broken.pdf"])
    person.wait(lambda: "damaged" in person.notice())
    dropped(person, [tmp_path / "a.svg"])
    person.wait(lambda: len(person.doc.sheets) == 1)
    person.wait(lambda: "left out" in person.notice())
    assert person.doc.sheets[0].mm_per_px == pytest.approx(25.4 / 300)


def test_a_scan_is_stopped_and_another_becomes_a_sheet(
    person: Person, sheet: DrawnSheet, monkeypatch: pytest.MonkeyPatch
) -> None:
    laid = np.asarray(sheet.picture), PLAN.dpi
    monkeypatch.setattr("dimetron.demo.scanner._original", lambda name: laid)
    person.window.navigation.open_station("prepare")
    person.window.navigation.take_at_sheet("scan")
    turn()
    person.listed("Resolution", "100")
    person.listed("Paper", "A4")
    tool = person.window.sheet_tools["scan"]
    person.act("scan")
    person.wait(lambda: tool.glass() is not None)
    person.act("stop")
    person.wait(lambda: "stopped" in person.notice())
    assert person.doc.sheets == ()
    person.act("scan")
    person.wait(lambda: len(person.doc.sheets) == 1)
    sheet = person.doc.sheets[0]
    assert sheet.size_px == (827, 1169)
    assert sheet.mm_per_px == pytest.approx(0.254)


def test_a_folder_is_browsed_and_pictures_brought_in(
    person: Person, tmp_path: Path, three: list[Path]
) -> None:
    (tmp_path / "notes.txt").write_text("not a picture")
    (tmp_path / "bad.png").write_bytes(b"no")
    (tmp_path / "inner").mkdir()
    person.window.settings.set("folders/pictures", str(tmp_path))
    person.window.navigation.browse(True)
    browser = person.window.browser
    person.wait(lambda: not browser._worker.busy)
    turn()
    names = [browser.list.item(i).text() for i in range(browser.list.count())]
    assert names == ["inner/", "bad.png (no preview)", "one.png", "three.png", "two.jpg"]
    assert browser.list.item(2).icon().availableSizes()
    for i in (2, 4):
        browser.list.item(i).setSelected(True)
    QTest.mouseClick(browser.bring, LEFT)
    person.wait(lambda: len(person.doc.sheets) == 2)
    assert person.view.isVisible()


def test_many_sheets_are_stepped_through_and_removed(person: Person, three: list[Path]) -> None:
    person.window.navigation.open_station("prepare")
    dropped(person, three)
    person.wait(lambda: len(person.doc.sheets) == 3)
    desk = person.window.desk
    assert desk.sheet.name == "three.png"
    person.key(Qt.Key.Key_PageDown, widget=person.view)
    assert desk.sheet.name == "one.png"
    person.window.commands.run("remove-sheet")
    assert [s.name for s in person.doc.sheets] == ["two.jpg", "three.png"]


def test_wheel_and_drag_move_the_sheet(at_sheet: Person) -> None:
    view = at_sheet.view
    at = QPoint(300, 300)
    under = view._frame_point(QPointF(at))
    view.zoom(2.0, QPointF(at))
    assert view._frame_point(QPointF(at)) == pytest.approx(under)
    QTest.mousePress(view, Qt.MouseButton.MiddleButton, NONE, at)
    over(view, at + QPoint(40, 20), Qt.MouseButton.MiddleButton)
    QTest.mouseRelease(view, Qt.MouseButton.MiddleButton, NONE, at + QPoint(40, 20))
    assert view._frame_point(QPointF(at + QPoint(40, 20))) == pytest.approx(under)


def test_a_large_crop_beyond_the_sheet_does_no_harm(at_sheet: Person) -> None:
    from dimetron.document import preparing

    doc, id_ = preparing.cut(at_sheet.doc, at_sheet.doc.sheets[0].id, Crop(-500, -400, 900, 800))
    at_sheet.session.commit(preparing.with_view(doc, id_, View.FRONT), "x")
    at_sheet.rest()
    assert at_sheet.doc.recipe(at_sheet.doc.drawings[0]) in at_sheet.window.pictures.pyramids


def test_one_pixel_is_a_sheet_too(person: Person) -> None:
    out = io.BytesIO()
    Image.new("RGB", (1, 1), "grey").save(out, "PNG")
    person.lay(out.getvalue(), "dot.png")
    person.act("find")
    person.wait(lambda: "No views" in person.notice())
    person.window.navigation.take_at_sheet("tone")
    person.switch("Lift the paper")
    person.view.repaint()
    assert person.doc.sheets[0].tone.lift


def test_a_pasted_picture_becomes_a_sheet(person: Person) -> None:
    person.window.navigation.open_station("prepare")
    image = QImage(40, 30, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    QApplication.clipboard().setImage(image)
    person.window.commands.run("paste")
    person.wait(lambda: len(person.doc.sheets) == 1)
    assert person.doc.drawings == ()


def test_undo_takes_the_flattening_back_in_the_tool_too(at_photo: Person) -> None:
    for corner in ((-100, 250), (100, 250), (100, 50), (-100, 50)):
        touch(at_photo, corner)
    at_photo.act("apply")
    assert at_photo.doc.sheets[0].flattening.known is not None
    at_photo.session.undo()
    tool = at_photo.window.sheet_tools["flatten"]
    assert tool.frame() is not None
    assert at_photo.window.navigation.preparing
    touch(at_photo, (-100, 250))
    assert len(tool.marks()) > 0
