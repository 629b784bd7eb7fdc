"""Takes the screenshots of docs/screenshots from the demo, through the real window."""

from __future__ import annotations

import io
import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from dimetron.app.shell.window import Window

FOLDER = Path(__file__).parent / "screenshots"


def main() -> int:
    with tempfile.TemporaryDirectory() as home:
        for name in ("CONFIG", "STATE"):
            os.environ[f"XDG_{name}_HOME"] = str(Path(home) / name)
        return _take()


def _take() -> int:
    from PySide6.QtCore import QEvent, QPoint, QPointF
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from dimetron.app.shell.window import Window
    from dimetron.app.start import application
    from dimetron.app.work.settings import Settings
    from dimetron.demo import shelf

    application()
    window = Window(Settings())
    window.resize(1280, 800)
    window.show()
    QTest.qWaitForWindowExposed(window)
    board, session = window.board, window.session

    def wait(until: Callable[[], bool]) -> None:
        end = time.monotonic() + 60
        while not until() and time.monotonic() < end:
            QTest.qWait(5)
            time.sleep(0.005)

    def shoot(name: str, unpointed: bool = False) -> None:
        window.notices.clear()
        if unpointed:
            QApplication.sendEvent(board, QEvent(QEvent.Type.Leave))
        end = time.monotonic() + 0.9
        while time.monotonic() < end or window.pictures.busy or window.registration.busy:
            QTest.qWait(5)
            # Qt's own waiting keeps the interpreter's lock, which workers need.
            time.sleep(0.005)
        # What the last answer changed is laid out with the next turns of the event loop.
        seen = None
        for _ in range(30):
            QTest.qWait(150)
            (window.sheet_view if window.navigation.preparing else board).repaint()
            before, seen = seen, window.grab().toImage()
            if seen == before:
                break
        seen.save(str(FOLDER / f"{name}.png"))
        print(name, file=sys.stderr)

    def at(slot: str, world: tuple[float, float, float]) -> QPoint:
        rect = board.rects()[slot]
        x, y = board.sight.camera(slot, rect).project(world)
        return QPointF(rect.x + float(x), rect.y + float(y)).toPoint()

    FOLDER.mkdir(parents=True, exist_ok=True)
    window.open_demo()
    wait(lambda: len(window.pictures.pyramids) == 3)
    board.fit_all()
    QTest.mouseMove(board, at("elevation", (40.0, 0.0, 150.0)))
    shoot("board-day")

    _trace(window, wait, shoot, at)
    session.open(shelf.project("watering-can"), None)
    window.files.opened.emit()
    wait(lambda: len(window.pictures.pyramids) == 3)
    front = session.document.drawings[0].id
    board.fit_all()

    _model(window, wait, shoot, at)
    session.mark_saved(session.committed, Path("shots.dimetron"))
    session.open(shelf.project("watering-can"), None)
    window.files.opened.emit()
    wait(lambda: len(window.pictures.pyramids) == 3)
    front = session.document.drawings[0].id
    board.fit_all()

    window.navigation.take("arrange")
    session.choose((front,))
    window.switch_theme()
    shoot("board-night")
    window.switch_theme()
    session.choose(())
    session.mark_saved(session.committed, Path("shots.dimetron"))
    _place(window, wait, shoot, at)
    _prepare(window, wait, shoot)
    window.close()
    return 0


def _model(window: Window, wait: Callable, shoot: Callable, at: Callable) -> None:
    """A cylinder whose rows meet the ink, its smooth surface, a bevel, what is not sound, and the
    finished can."""
    import numpy as np
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest

    from dimetron.app.tools.shape import change_kind
    from dimetron.demo import shelf
    from dimetron.document.model import Smoothing, with_item
    from dimetron.mesh.operation import by_name
    from dimetron.mesh.select import Kind, Selection
    from dimetron.mesh.select_words import turns
    from dimetron.mesh.starter import starters

    session, board = window.session, window.board
    body = session.document.meshes[0].id
    cylinder = starters()["cylinder"]
    low, high = np.array([-70.0, -70.0, 5.0]), np.array([70.0, 70.0, 188.0])
    mesh = cylinder.filling(low, high, 2, cylinder.settings(sides=16, rows=8))
    session.commit(with_item(session.committed, body, mesh=mesh), "Add a cylinder")
    session.choose((body,))
    window.navigation.take("to-the-ink")
    heights = np.linspace(5, 188, 9)
    for slot in ("elevation", "side"):
        for z in heights[:-2] if slot == "side" else heights:
            spot = at(slot, (20.0, 20.0, float(z)))
            QTest.mouseMove(board, spot)
            QTest.qWait(40)
            QTest.mouseClick(board, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, spot)
    QTest.mouseMove(board, at("side", (20.0, 20.0, float(heights[-2]))))
    shoot("to-the-ink")
    for z in heights[-2:]:
        spot = at("side", (20.0, 20.0, float(z)))
        QTest.mouseMove(board, spot)
        QTest.qWait(40)
        QTest.mouseClick(board, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, spot)
    fitted = session.committed.mesh(body).mesh
    smooth = Smoothing(2, 3, "both")
    doc = with_item(session.committed, body, mesh=fitted, smooth=smooth, even=("x",))
    session.commit(doc, "Smooth")
    window.navigation.take("shape")
    change_kind(window.workbench, Kind.EDGE)
    t = fitted.topology
    level = np.isclose(fitted.positions[t.edges][:, :, 2], heights[5], atol=1.0).all(axis=1)
    session.select(Kind.EDGE, np.flatnonzero(level).astype(np.int32))
    shoot("smooth", unpointed=True)
    session.commit(with_item(session.committed, body, smooth=Smoothing()), "As it is")
    top = np.isclose(fitted.positions[t.edges][:, :, 2], fitted.bounds[1, 2], atol=0.5).all(axis=1)
    rim = top & (turns(fitted) > 60)
    session.select(Kind.EDGE, np.flatnonzero(rim).astype(np.int32))
    window.navigation.take("bevel")
    window.operating.do(by_name("bevel"), by_name("bevel").made(width=9.0, segments=3))
    shoot("bevel", unpointed=True)
    holed = session.committed.mesh(body).mesh
    gone = Selection(Kind.FACE, np.array([5, 6, 40, 41, 42], np.int32))
    holed = by_name("flip")(by_name("delete")(holed, gone).mesh, gone).mesh
    session.commit(with_item(session.committed, body, mesh=holed), "Holes")
    window.navigation.take("health")
    window.tools["health"].actions()[0].run()
    shoot("health", unpointed=True)
    session.mark_saved(session.committed, Path("shots.dimetron"))
    session.open(shelf.project("modelled-can"), None)
    window.files.opened.emit()
    wait(lambda: len(window.pictures.pyramids) == 3)
    board.fit_all()
    window.navigation.take("shape")
    shoot("modelled", unpointed=True)


def _trace(window: Window, wait: Callable, shoot: Callable, at: Callable) -> None:
    """Following the spout, the points of the can's profile, and Odo from three outlines."""
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest

    from dimetron.demo import shelf

    session, board = window.session, window.board

    def lay(name: str) -> None:
        session.mark_saved(session.committed, Path("shots.dimetron"))
        session.open(shelf.project(name), None)
        window.files.opened.emit()
        wait(lambda: len(window.pictures.pyramids) == 3)
        board.fit_all()

    lay("traced-can")
    window.navigation.take("follow-ink")
    for number, place in enumerate(((-222, 213), (-170, 130), (-100, 46))):
        spot = at("side", (0.0, *map(float, place)))
        QTest.mouseMove(board, spot)
        if number < 2:
            QTest.mouseClick(board, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, spot)
    shoot("trace")
    window.board.tool.abandon()
    window.board.tool.abandon()
    lay("traced-odo")
    window.navigation.take("make-solid")
    session.choose((session.document.meshes[0].id,))
    shoot("block", unpointed=True)
    session.choose(())


def _place(window: Window, wait: Callable, shoot: Callable, at: Callable) -> None:
    """An auxiliary view along the spout, loose pictures."""
    from dataclasses import replace

    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest

    from dimetron.app.board import snapshots
    from dimetron.app.shell.bring_in import Wish
    from dimetron.demo import can, shelf
    from dimetron.demo.photo import taken
    from dimetron.document import groups
    from dimetron.document.model import with_item
    from dimetron.document.parts import Floating
    from dimetron.render.scene import Shading
    from dimetron.render.taken import Taken

    session, board = window.session, window.board

    def click(slot: str, point: tuple[float, float, float]) -> None:
        spot = at(slot, point)
        QTest.mouseMove(board, spot)
        QTest.mouseClick(board, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, spot)

    session.mark_saved(session.committed, Path("shots.dimetron"))
    session.open(shelf.project("watering-can"), None)
    window.files.opened.emit()
    wait(lambda: len(window.pictures.pyramids) == 3)
    body = session.document.meshes[0].id
    whole = with_item(session.committed, body, mesh=can.solid())
    session.commit(whole, "The whole can")
    board.fit_all()

    # A plane along the spout, seen squarely.
    window.commands.run("hold-all")
    window.commands.run("tool.auxiliary")
    click("side", (0.0, -70.0, 60.0))
    click("side", (0.0, -235.0, 215.0))
    board.fit_all()
    shoot("auxiliary", unpointed=True)

    window.navigation.take("arrange")
    # A photo and a taken view as loose pictures, in a group.
    session.commit(whole, "The whole can")
    QTest.mouseMove(board, at("space", (0.0, 0.0, 100.0)))
    snapshots.take(session, board, Taken.SHADED)
    taken_id = session.document.drawings[-1].id
    from dimetron.document.loosening import loosened

    session.commit(loosened(session.committed, taken_id), "Loose")
    store = io.BytesIO()
    taken().picture.save(store, "PNG")
    window.bringer.bring([Wish("workshop clock.png", None, data=store.getvalue(), loose=True)])
    wait(lambda: len(session.document.loose) == 2 and not window.pictures.busy)
    a, b = (p.id for p in session.document.loose)
    doc, _ = groups.grouped(session.committed, (a, b), "moods")
    doc = with_item(doc, b, floating=Floating("side", (250.0, 20.0), (220.0, 190.0)))
    doc = replace(doc, looks=())
    session.commit(doc, "Group")
    session.choose((a,))
    board.look(board.sight.with_shading("space", Shading.SOLID))
    shoot("loose", unpointed=True)
    session.mark_saved(session.committed, Path("shots.dimetron"))
    _register(window, wait, shoot)
    _check(window, wait, shoot)
    _propose(window, wait, shoot)


def _propose(window: Window, wait: Callable, shoot: Callable) -> None:
    """Odo's sheet, whose side is drawn the wrong way round, and what the drawings' ink proposes."""
    from dimetron.demo import shelf

    session = window.session
    session.open(shelf.project("odo-sheet"), None)
    window.files.opened.emit()
    wait(lambda: window.desk.page is not None)
    window.commands.run("find-views")
    wait(lambda: len(session.document.drawings) == 3 and not window.pictures.busy)
    window.commands.run("place-all")
    window.navigation.take("propose")
    window.board.fit_all()
    wait(lambda: not window.pictures.busy)
    tool = window.tools["propose"]
    next(act for act in tool.actions() if act.name == "compare").run()
    wait(lambda: session.document is not session.committed)
    shoot("by-the-ink", unpointed=True)


def _register(window: Window, wait: Callable, shoot: Callable) -> None:
    """The can with five landmarks, one of them marked at a wrong place in the side view."""
    import numpy as np

    from dimetron.demo import shelf
    from dimetron.document import registering
    from dimetron.registration.problem import Length

    session = window.session
    session.open(shelf.project("watering-can"), None)
    window.files.opened.emit()
    wait(lambda: len(window.pictures.pyramids) == 3)
    doc = session.committed
    points = {
        "spout tip": (0.0, -255.0, 222.0),
        "rim": (77.0, 0.0, 189.0),
        "handle": (0.0, 150.0, 150.0),
        "foot": (-85.0, 0.0, 5.0),
        "band": (80.0, 0.0, 50.0),
    }
    for name, at in points.items():
        for drawing in doc.drawings:
            px = drawing.placement.to_px(drawing.view.to_plane(np.array(at)))
            wrong = np.array([14.0, -30.0]) * (name == "rim" and drawing.view.key == "right")
            x, y = np.round(px + wrong)
            doc = registering.marked(doc, name, drawing.id, (float(x), float(y)))
    doc = registering.with_length(doc, Length("spout tip", "handle", 405.0, 1))
    session.commit(doc, "Mark landmarks")
    window.commands.run("tool.mark")
    window._choose_landmark("rim")
    window.commands.run("ledger")
    window.board.fit_all()
    shoot("register", unpointed=True)
    window.commands.run("ledger")
    session.mark_saved(session.committed, Path("shots.dimetron"))


def _prepare(window: Window, wait: Callable, shoot: Callable) -> None:
    """The can's sheet with its views, one of them lifted, the snail cut from its bench, and
    the clock's photo made flat."""
    from dataclasses import replace

    import numpy as np

    from dimetron.demo import shelf
    from dimetron.demo.photo import BULGE, taken
    from dimetron.document import preparing
    from dimetron.imaging.frame import Circle, Flattening

    session, desk = window.session, window.desk

    def lay(name: str) -> None:
        session.mark_saved(session.committed, Path("shots.dimetron"))
        session.open(shelf.project(name), None)
        window.files.opened.emit()
        wait(lambda: desk.page is not None)

    lay("can-sheet")
    window.commands.run("find-views")
    wait(lambda: len(session.document.drawings) == 3 and not window.pictures.busy)
    session.choose((session.document.drawings[1].id,))
    shoot("prepare")

    lay("snail-photo")
    window.navigation.take_at_sheet("figure")
    wait(lambda: window.sheet_view.tool.reading is not None)
    shoot("figure")
    lay("clock-photo")
    photo = taken()
    turn = np.linspace(0, 2 * np.pi, 9)[:-1]
    rim = photo.px(np.stack([120 * np.cos(turn), 150 + 120 * np.sin(turn)], axis=1))
    centre = photo.px(np.array([0.0, 150.0]))
    pairs = tuple((float(x), float(y)) for x, y in rim)
    circle = Circle(pairs, (float(centre[0]), float(centre[1])), 240.0)
    sheet = session.document.sheets[0].id
    how = replace(Flattening(BULGE), known=circle)
    session.commit(preparing.flattened(session.committed, sheet, how), "Flatten")
    window.navigation.take_at_sheet("flatten")
    shoot("flatten")
    session.mark_saved(session.committed, Path("shots.dimetron"))


def _check(window: Window, wait: Callable, shoot: Callable) -> None:
    """The finished can held against its drawings: whiskers, colours, and the ledger's page; the
    report of it, and what a receiving end says."""
    import pypdfium2

    from dimetron.demo import shelf
    from dimetron.formats.report.pages import report_of

    session, fitting = window.session, window.fitting
    session.open(shelf.project("modelled-can"), None)
    window.files.opened.emit()
    wait(lambda: len(window.pictures.pyramids) == 3)
    window.commands.run("station.check")
    fitting.colour(True)
    wait(lambda: not fitting.reading and fitting.tints is not None)
    window.commands.run("ledger")
    window.ledger.turn_to("fit")
    window.board.fit_all()
    shoot("check", unpointed=True)
    window.commands.run("ledger")
    fitting.colour(False)
    fitting.show(False)
    page = pypdfium2.PdfDocument(report_of(session.document, "watering can"))[2]
    page.render(scale=1.2).to_pil().save(FOLDER / "report.png", optimize=True)
    print("report", file=sys.stderr)
    window.route.open("hand-off")
    handing = window.hand_off.handing
    handing.choose(handing.way.restored({"kind": "glb", "unit": "mm"}))
    handing.try_out()
    wait(lambda: not handing.busy)
    shoot("hand-off", unpointed=True)
    session.mark_saved(session.committed, Path("shots.dimetron"))


if __name__ == "__main__":
    sys.exit(main())
