"""Eleven typical tasks, done through the real window from pictures to a measured set-up, with every
action counted: a click, a drag, a key, a value typed with Enter, files dropped. The page
``docs/tasks.md`` says how many each takes; here it is held against what they take."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QToolButton, QWidget

from dimetron.demo import can
from dimetron.demo.lines import visible_lines
from dimetron.demo.pencil import Scan, drawn
from dimetron.demo.plan import SheetPlan
from dimetron.demo.sheet import DrawnSheet, drawn_sheet, sheet_file
from dimetron.document.model import Drawing
from dimetron.geometry.views import View
from tests.app.conftest import Hand, turn

PAGE = Path(__file__).parents[2] / "docs" / "tasks.md"
LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
ALT = Qt.KeyboardModifier.AltModifier
F, R, T, B = View.FRONT, View.RIGHT, View.TOP, View.BACK
PANES = {F: "elevation", R: "side", T: "plan", B: "elevation"}
LOW, HIGH = (np.array(end) for end in can.solid().bounds)
HEIGHT = float(HIGH[2] - LOW[2])
#: The can's drawings, each at a zoom of its own.
LEVEL = {
    F: Scan(F, "front.png", (560, 760), (280.0, 710.0), 0.43, seed=1),
    R: Scan(R, "side.png", (900, 680), (540.0, 620.0), 0.5, seed=2),
    T: Scan(T, "plan.png", (480, 920), (240.0, 360.0), 0.52, seed=3),
    B: Scan(B, "back.png", (600, 800), (300.0, 750.0), 0.41, seed=4),
}
#: The same, laid askew on the scanner.
ASKEW = {
    v: Scan(v, s.file, s.size_px, s.origin_px, s.mm_per_px, turned, seed=s.seed)
    for (v, s), turned in zip(LEVEL.items(), (1.4, -0.9, 0.0, 0.7), strict=True)
}


@cache
def picture(scan: Scan) -> bytes:
    out = io.BytesIO()
    drawn(scan, visible_lines(can.solid(), scan.view)).save(out, "PNG")
    return out.getvalue()


@cache
def sheet() -> DrawnSheet:
    return drawn_sheet(SheetPlan((F, R, T, B), 0.22, "Watering can", dpi=130), can.solid())


class Worker(Hand):
    """A person whose every action counts."""

    count = 0

    def click(self, at: QPoint, keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        self.count += 1
        super().click(at, keys)

    def key(
        self,
        key: Qt.Key,
        keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
        widget: QWidget | None = None,
    ) -> None:
        self.count += 1
        super().key(key, keys, widget)
        turn()

    def type_into(self, field: QWidget, text: str) -> None:
        """One to type, and one to click into what does not have the keyboard yet."""
        self.count += 1 if field.hasFocus() else 2
        super().type_into(field, text)
        turn()

    def option(self, value: str) -> None:
        self.count += 1
        super().option(value)
        turn()

    def act(self, name: str) -> QWidget:
        self.count += 1
        button = super().act(name)
        turn()
        return button

    def press(self, button: QWidget) -> None:
        self.count += 1
        QTest.mouseClick(button, LEFT)
        turn()

    def choose(self, button: QToolButton, entry: str) -> None:
        """Unfold a menu and take an entry."""
        self.count += 2
        menu = button.menu()
        menu.aboutToShow.emit()
        next(a for a in menu.actions() if a.text() == entry).trigger()
        turn()

    def say(self, words: str, command: str) -> None:
        """Find a command by its words and run it."""
        self.count += 2
        assert words.lower() in self.window.commands[command].action.text().lower()
        self.window.commands.run(command)
        turn()

    def bring(self, folder: Path, *scans: Scan) -> None:
        """Drop pictures on the board at once; their names say what they show."""
        self.count += 1
        paths = []
        for scan in scans:
            paths.append(folder / scan.file)
            paths[-1].write_bytes(picture(scan))
        before = len(self.doc.drawings)
        rect = self.board.rects()[PANES[scans[0].view]]
        self.drop(paths, QPoint(round(rect.x + rect.w / 2), round(rect.y + rect.h / 2)))
        self.rest(len(scans) + before)

    def rest(self, drawings: int = 0) -> None:
        self.wait(
            lambda: (
                len(self.doc.drawings) >= drawings
                and not (self.window.bringer.active or self.window.pictures.busy)
                and not (self.window.desk.working or self.window.registration.busy)
            )
        )
        self.settle()
        # Everything is in sight as it comes.
        turn()

    def drawing(self, view: View) -> Drawing:
        return next(d for d in self.doc.drawings if d.view == view)

    def spot(self, scan: Scan, point: tuple[float, float, float], slot: str = "") -> QPoint:
        """Where a drawing that was brought in shows a point of the object, to a screen pixel: the
        magnifier shows what a click would catch."""
        px = scan.true_placement.to_px(scan.view.to_plane(np.array(point)))
        drawing = self.drawing(scan.view)
        at = drawing.view.to_world(drawing.placement.to_plane(px))
        return self.at(slot or PANES[scan.view], tuple(at))

    def truly(self, scans: dict[View, Scan] = LEVEL) -> None:
        """Measure the overall length and say how much it truly is: all becomes as large."""
        self.key(Qt.Key.Key_D)
        self.option("across")
        self.click(self.spot(scans[R], NOSE))
        self.click(self.spot(scans[R], TAIL))
        self.type_into(self.field("Truly"), "412")
        self.rest()

    def registered(self, folder: Path, scans: dict[View, Scan]) -> None:
        """Bring drawings in, lay them by their ink, and give them their true size."""
        self.bring(folder, *scans.values())
        self.by_the_ink()
        self.truly(scans)

    def by_the_ink(self) -> None:
        self.key(Qt.Key.Key_M, CTRL | SHIFT)
        self.act("compare")
        self.wait(lambda: bool(self.window.tools["propose"].told()))
        self.key(Qt.Key.Key_Return)
        self.rest()


@pytest.fixture
def worker(hand: Hand) -> Iterator[Worker]:
    hand.__class__ = Worker
    assert isinstance(hand, Worker)
    hand.window.navigation.open_station("place")
    hand.settle()
    return hand


def misses(worker: Worker, scans: dict[View, Scan]) -> float:
    """By how many mm the ends of the object lie off where they are, in the worst drawing, but for
    where the whole object stands."""
    off, shown = [], []
    for scan in scans.values():
        frame = scan.view.directions
        ends = scan.view.to_plane(np.array([LOW, HIGH]))
        got = worker.drawing(scan.view).placement.to_plane(scan.true_placement.to_px(ends))
        off.append(scan.view.to_world(got - ends))
        shown.append([np.abs([frame.right, frame.up]).max(axis=0) > 0.5] * 2)
    errors = np.where(shown, off, np.nan)
    return float(np.nanmax(np.abs(errors - np.nanmedian(errors, axis=(0, 1)))))


def told() -> dict[str, tuple[int, int]]:
    """What the page says: by the name of a task, what is usual and what it takes here."""
    rows = re.findall(r"^\| \d+ \| (.+?) \| (\d+) \| (\d+) \|", PAGE.read_text(), re.MULTILINE)
    return {name: (int(usual), int(ours)) for name, usual, ours in rows}


def done(worker: Worker, task: str) -> None:
    usual, ours = told()[task]
    assert worker.count == ours, f"{task} takes {worker.count}"
    assert 2 * worker.count <= usual


def test_together_they_take_a_third() -> None:
    page = told()
    assert len(page) == 11
    usual, ours = (sum(column) for column in zip(*page.values(), strict=True))
    assert 3 * ours <= usual
    assert f"| together | {usual} | {ours} |" in PAGE.read_text()


#: Points of the can that are easily found in its drawings.
FOOT, TOP_OF_HANDLE = (0.0, 0.0, float(LOW[2])), (0.0, 0.0, float(HIGH[2]))


def extreme(view: View, axis: int, end: int) -> tuple[float, float, float]:
    """The point of the object that reaches farthest in a view, as it is drawn there."""
    lines = np.concatenate([view.to_world(run) for run in visible_lines(can.solid(), view)])
    at = lines[np.argmax(lines[:, axis] * end)]
    return float(at[0]), float(at[1]), float(at[2])


NOSE, TAIL = extreme(R, 1, -1), extreme(R, 1, 1)
UPPER, LOWER = extreme(R, 2, 1), extreme(R, 2, -1)


def on_sheet(view: View, point: tuple[float, float, float]) -> np.ndarray:
    """Where the sheet shows a point of the object, in its pixels."""
    lines = np.concatenate(visible_lines(can.solid(), view))
    low, high = lines.min(axis=0), lines.max(axis=0)
    across, up = (view.to_plane(np.array(point)) - low) / (high - low)
    left_top, right_top, _, left_bottom = sheet().corners[view]
    return np.asarray(left_bottom + across * (right_top - left_top) + up * (left_top - left_bottom))


def test_four_planes_from_one_sheet(worker: Worker, tmp_path: Path) -> None:
    path = tmp_path / "can.png"
    path.write_bytes(sheet_file(sheet(), "can.png", 130))
    desk, view = worker.window.desk, worker.window.sheet_view
    worker.key(Qt.Key.Key_1, ALT)
    worker.count += 1
    worker.drop([path], QPoint(200, 200), view)
    worker.wait(lambda: desk.page is not None)
    worker.rest()
    worker.key(Qt.Key.Key_F, CTRL, view)
    worker.rest(4)
    worker.key(Qt.Key.Key_P, CTRL, view)
    worker.rest(4)
    worker.key(Qt.Key.Key_2, ALT, view)
    worker.rest()
    side = worker.drawing(R)
    worker.key(Qt.Key.Key_K)
    worker.option("across")
    for point in (NOSE, TAIL):
        px = worker.doc.frame(side).to_frame(on_sheet(R, point))
        at = R.to_world(side.placement.to_plane(px))
        worker.click(worker.at("side", tuple(at)))
    worker.type_into(worker.field("Real length"), "412")
    worker.rest()
    sizes = [d.placement.mm_per_px for d in worker.doc.drawings]
    assert sizes == pytest.approx([25.4 / 130 / 0.22] * 4, rel=0.006)
    assert {d.view for d in worker.doc.drawings} == {F, R, T, B}
    done(worker, "Four planes from one sheet")


def test_guide_lines_crossing(worker: Worker, tmp_path: Path) -> None:
    """Where the guide lines cross comes onto the origin in three drawings, one length is given."""
    scans = {v: LEVEL[v] for v in (F, R, T)}
    worker.registered(tmp_path, scans)
    worker.key(Qt.Key.Key_P)
    worker.option("origin")
    for view in (F, R, T):
        foot = scans[view].view.to_plane(np.array(FOOT))
        px = scans[view].true_placement.to_px(foot)
        at = view.to_world(worker.drawing(view).placement.to_plane(px))
        worker.click(worker.at(PANES[view], tuple(at)), CTRL)
    assert misses(worker, scans) < 3.0
    done(worker, "Guide lines crossing")


def test_tip_on_zero_with_a_length(worker: Worker, tmp_path: Path) -> None:
    worker.bring(tmp_path, LEVEL[R])
    worker.key(Qt.Key.Key_K)
    worker.option("across")
    worker.click(worker.spot(LEVEL[R], NOSE))
    worker.click(worker.spot(LEVEL[R], TAIL))
    worker.type_into(worker.field("Real length"), "412")
    worker.rest()
    worker.key(Qt.Key.Key_P)
    worker.option("origin")
    worker.click(worker.spot(LEVEL[R], NOSE))
    placement = worker.drawing(R).placement
    assert placement.mm_per_px == pytest.approx(LEVEL[R].mm_per_px, rel=0.003)
    tip = LEVEL[R].true_placement.to_px(R.to_plane(np.array(NOSE)))
    assert np.abs(placement.to_plane(tip)).max() < 1.5
    done(worker, "Tip on zero with a length")


def test_four_views_with_a_block_of_known_height(worker: Worker, tmp_path: Path) -> None:
    worker.registered(tmp_path, LEVEL)
    worker.say("Add a size box", "reference.box")
    (block,) = worker.doc.references
    card = worker.window.tray.cards[block.id]
    worker.type_into(card.size_edits[2], f"{HEIGHT:.2f}")
    assert worker.doc.references[0].size[2] == pytest.approx(HEIGHT, abs=0.01)
    assert misses(worker, LEVEL) < 3.0
    done(worker, "Four views with a block of known height")


def test_blueprints_level(worker: Worker, tmp_path: Path) -> None:
    """Three prints that lie askew come level, to one scale and to one another."""
    scans = {v: ASKEW[v] for v in (F, R, T)}
    worker.registered(tmp_path, scans)
    for view, scan in scans.items():
        turned = worker.drawing(view).placement.rotation_deg
        assert turned == pytest.approx(-scan.rotation_deg, abs=0.3)
    assert misses(worker, scans) < 3.0
    done(worker, "Blueprints level")


def test_two_panes_with_reference(worker: Worker, tmp_path: Path) -> None:
    """Front and side in two panes, to one scale, beside a figure of known height."""
    scans = {v: LEVEL[v] for v in (F, R)}
    worker.registered(tmp_path, scans)
    worker.say("Add a figure", "reference.figure")
    (figure,) = worker.doc.references
    worker.type_into(worker.window.tray.cards[figure.id].size_edits[2], "1.75 m")
    worker.say("front and side", "panes.front-side")
    assert set(worker.board.layout_.slots) == {"elevation", "side"}
    assert worker.doc.references[0].size[2] == pytest.approx(1750)
    assert misses(worker, scans) < 3.0
    done(worker, "Two panes with reference")


def test_straighten_and_real_length(worker: Worker, tmp_path: Path) -> None:
    """One scan that lies askew, made level on the sheet and given its real length."""
    view = worker.window.sheet_view
    worker.bring(tmp_path, ASKEW[R])
    worker.key(Qt.Key.Key_L, CTRL)
    worker.rest(1)
    worker.key(Qt.Key.Key_2, ALT, view)
    worker.rest()
    worker.key(Qt.Key.Key_K)
    worker.option("across")
    box = worker.window.workbench.ink(worker.drawing(R))
    height = worker.doc.size_px(worker.drawing(R))[1] / 2
    for x in (box[0] + 2, box[2] - 2):
        at = R.to_world(worker.drawing(R).placement.to_plane((x, height)))
        worker.click(worker.at("side", tuple(at)))
    worker.type_into(worker.field("Real length"), "412")
    placement = worker.drawing(R).placement
    assert placement.mm_per_px == pytest.approx(LEVEL[R].mm_per_px, rel=0.01)
    done(worker, "Straighten and real length")


def test_crops_and_nose_on_zero(worker: Worker, tmp_path: Path) -> None:
    """Each picture is cut to its ink; the nose comes onto zero where it shows."""
    scans = {v: LEVEL[v] for v in (R, T)}
    worker.registered(tmp_path, scans)
    worker.key(Qt.Key.Key_P)
    worker.option("origin")
    for view in (R, T):
        worker.point(worker.at(PANES[view], (0.0, 0.0, 0.0)))
        worker.key(Qt.Key.Key_O)
        worker.key(Qt.Key.Key_Home)
        worker.settle()
        # In the plan the magnifier shows the centreline's crossing caught instead: Ctrl.
        worker.click(worker.spot(LEVEL[view], NOSE), CTRL if view is T else NONE)
        worker.key(Qt.Key.Key_O)
    worker.key(Qt.Key.Key_1, ALT)
    for view in (R, T):
        drawing = worker.drawing(view)
        worker.press(worker.window.tray.cards[drawing.id].thumb)
        worker.rest()
        worker.act("tighten")
        worker.rest()
        worker.wait(lambda view=view: worker.drawing(view).crop is not None)
    for view, scan in scans.items():
        drawing = worker.drawing(view)
        crop = drawing.crop
        tip = np.array(scan.true_placement.to_px(view.to_plane(np.array(NOSE))))
        at = drawing.placement.to_plane(tip - [crop.left, crop.top])
        assert abs(at[view.axes.index(1)]) < 1.2
        assert drawing.placement.mm_per_px == pytest.approx(scan.mm_per_px, rel=0.006)
    done(worker, "Crops and nose on zero")


def test_slanted_parts_with_measured_lengths(worker: Worker, tmp_path: Path) -> None:
    """The spout seen squarely, its length measured in the side view and in its own."""
    worker.bring(tmp_path, LEVEL[R])
    worker.truly()
    ends = [(0.0, -100.0, 70.0), (0.0, -214.0, 219.0)]
    worker.key(Qt.Key.Key_A, SHIFT)
    for end in ends:
        worker.click(worker.spot(LEVEL[R], end), CTRL)
    (view,) = worker.doc.auxiliaries
    assert view.hinge is not None and abs(view.hinge.angle_deg) == 90
    slot = next(s for s, v in worker.board.sight.views.items() if v == view)
    assert slot != "side"
    worker.key(Qt.Key.Key_D)
    worker.option("straight")
    for end in ends:
        worker.click(worker.spot(LEVEL[R], end), CTRL)
    measured = worker.window.tools["measure"].words()
    true = float(np.linalg.norm(np.subtract(*ends)))
    number = float(re.findall(r"Distance ([\d.]+) mm", measured)[0])
    assert number == pytest.approx(true, rel=0.02)
    done(worker, "Slanted parts with measured lengths")


def test_planes_with_saved_looks(worker: Worker, tmp_path: Path) -> None:
    """Three planes; a look each for the front, the side and the plan alone, and one for all."""
    scans = {v: LEVEL[v] for v in (F, R, T)}
    worker.registered(tmp_path, scans)
    worker.key(Qt.Key.Key_4, CTRL | SHIFT)
    for number, view in ((Qt.Key.Key_1, F), (Qt.Key.Key_2, R), (Qt.Key.Key_3, T)):
        worker.point(worker.at(PANES[view], (0.0, 0.0, 0.0)))
        worker.key(Qt.Key.Key_O)
        worker.key(number, CTRL | SHIFT)
        worker.key(Qt.Key.Key_O)
    worker.key(Qt.Key.Key_2, CTRL)
    assert set(worker.board.rects()) == {"side"}
    worker.key(Qt.Key.Key_4, CTRL)
    assert len(worker.board.rects()) == 4
    assert len(worker.doc.looks) == 4
    assert misses(worker, scans) < 3.0
    done(worker, "Planes with saved looks")


def test_three_views_on_ground_with_nose_and_tail(worker: Worker, tmp_path: Path) -> None:
    scans = {v: LEVEL[v] for v in (F, R, T)}
    worker.registered(tmp_path, scans)
    worker.key(Qt.Key.Key_M, CTRL)
    for point in (NOSE, TAIL):
        for view in (R, T):
            worker.click(worker.spot(scans[view], point), CTRL if view is T else NONE)
        worker.key(Qt.Key.Key_Return)
    worker.act("register")
    worker.rest()
    assert len(worker.doc.landmarks) == 2
    foot = LEVEL[R].true_placement.to_px(R.to_plane(np.array(LOWER)))
    assert abs(worker.drawing(R).placement.to_plane(foot)[1]) < 2.0
    assert misses(worker, scans) < 3.0
    done(worker, "Three views on ground with nose and tail")
