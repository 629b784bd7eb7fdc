"""The main window: header, route, board, tray, notices and title block, and what ties them."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from dataclasses import replace
from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QGuiApplication, QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QVBoxLayout,
    QWidget,
)

from dimetron.app.board.loupe import Loupe
from dimetron.app.board.pane_controls import PaneControls
from dimetron.app.board.shown import seen_on
from dimetron.app.board.widget import Board
from dimetron.app.kit import theme
from dimetron.app.kit.instrument import Instrument
from dimetron.app.loose.frames import LooseFrames
from dimetron.app.route.hand_off import HandOff
from dimetron.app.route.route import Route
from dimetron.app.sheet.desk import Desk
from dimetron.app.sheet.tool import SheetEvent
from dimetron.app.sheet.view import SheetView
from dimetron.app.shell.arrivals import Arrivals
from dimetron.app.shell.bring_in import Bringer
from dimetron.app.shell.browser import Browser
from dimetron.app.shell.files import Files
from dimetron.app.shell.finder import Finder
from dimetron.app.shell.header import Header
from dimetron.app.shell.keys_page import KeysPage
from dimetron.app.shell.menu import GROUPS, define
from dimetron.app.shell.mesh_bringer import MeshBringer
from dimetron.app.shell.navigation import Navigation
from dimetron.app.shell.notices import NoticeBar
from dimetron.app.shell.outline_bringer import OutlineBringer
from dimetron.app.shell.title_block import TitleBlock
from dimetron.app.shell.workbench import Workbench
from dimetron.app.stations.order import board_tools, sheet_tools
from dimetron.app.tools.base import BoardEvent, Tool
from dimetron.app.tools.mark import MarkLandmarks
from dimetron.app.tray.tray import Tray
from dimetron.app.work.commands import Commands, with_shortcut
from dimetron.app.work.fitting import Fitting
from dimetron.app.work.operating import Operating
from dimetron.app.work.pictures import Pictures
from dimetron.app.work.registering import Registration
from dimetron.app.work.session import Session
from dimetron.app.work.settings import Settings
from dimetron.app.work.worker import Worker
from dimetron.geometry.units import format_length
from dimetron.geometry.views import AXIS_NAMES
from dimetron.mesh.operation import by_name

if TYPE_CHECKING:
    from dimetron.app.ledger.ledger import Ledger
    from dimetron.imaging.scanner import Scanner

#: How thin walls may be, as it was typed last.
_WALL_KEY = "health/wall"


class Window(QMainWindow):
    def __init__(self, settings: Settings | None = None, opengl_problem: str = "") -> None:
        super().__init__()
        self.settings = settings or Settings()
        self.theme = theme.THEMES.get(self.settings.text("look/theme", "day"), theme.THEMES["day"])
        # Before there are widgets: afterwards each would be dressed anew.
        self._dress()
        self.session = Session(self)
        walls = self.settings.number(_WALL_KEY, self.session.looking_over.wall_mm)
        with contextlib.suppress(ValueError):
            self.session.looking_over.set_wall(walls)
        self.pictures = Pictures(self)
        self.board = Board(self.session, self.pictures)
        self.registration = Registration(self.session)
        self.operating = Operating(self.session)
        self.fitting = Fitting(self.session, self.pictures, self.settings)
        self.board.fitting = self.fitting
        self.workbench = Workbench(
            self.session,
            self.board,
            self.settings,
            self.pictures,
            self.registration,
            self.operating,
            self.fitting,
        )
        self.tools = {c.name: c(self.workbench) for c in board_tools()}
        self.desk = Desk(self.session, self.pictures, self.settings, _scanner, self)
        self.sheet_view = SheetView(self.desk)
        self.browser = Browser(self.settings)
        self.route: Route
        self._desk_busy = self._leaving = self._handing_on = False
        self.sheet_tools = {c.name: c(self.desk) for c in sheet_tools()}
        middle = self._no_board(opengl_problem) if opengl_problem else self.board
        self.notices = NoticeBar(middle)
        self.commands = Commands(self, self.settings, self.session.warn)
        self.files = Files(self.session, self, self.busy, self.notices.ask)
        self.bringer = Bringer(self.session, self.pictures, self._busy_until, self)
        self.mesh_bringer = MeshBringer(self.session, self.settings, self._busy_until, self)
        self.outline_bringer = OutlineBringer(self.session, self.settings, self._busy_until, self)
        self.arrivals = Arrivals(
            self,
            self.session,
            self.board,
            self.files,
            self.bringer,
            self.mesh_bringer,
            self.outline_bringer,
            self.settings,
            lambda: self.route.open_id == "prepare",
        )
        seen = partial(seen_on, self.board, self.session, self.pictures)
        self.hand_off = HandOff(self.session, self.settings, seen)
        self.navigation = Navigation(
            self.session,
            self.settings,
            self.board,
            self.tools,
            self.sheet_view,
            self.sheet_tools,
            self.browser,
            self.notices,
            middle,
        )
        define(self)
        self.route = Route(self, self.commands, self.operating, self.settings, self.theme, "place")
        self.navigation.follow(self.route)
        self.tray = Tray(self.session, self.pictures, self.theme)
        self.tray.mismatch = self.registration.mismatch
        self.title_block = TitleBlock()
        self.loose_frames = LooseFrames(self.session, self.pictures, self.board, self.settings)
        self.loupe = Loupe(self.board)
        #: The tool that the route shows.
        self._in_hand: Instrument | None = None
        self.pane_controls = PaneControls(self.board, self.arrivals.choose, self.open_demo)
        self._lay_out()
        self._connect()
        self._restore()
        self.apply_theme()
        self.navigation.take("arrange")
        self.refresh()

    # Building.

    def _lay_out(self) -> None:
        body = QWidget()
        body.setObjectName("body")
        row = self._row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.route)
        row.addWidget(self.navigation.middle, 1)
        row.addWidget(self.sheet_view, 1)
        self.sheet_view.hide()
        row.addWidget(self.browser, 1)
        self.browser.hide()
        row.addWidget(self.tray)
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.header = Header(self.commands, GROUPS)
        self.menu, self.project_name = self.header.menu, self.header.project_name
        self.finder_button = self.header.finder
        self.finder_button.clicked.connect(self.find_command)
        column.addWidget(self.header)
        column.addLayout(row, 1)
        column.addWidget(self.title_block)
        self._column = column
        self.setCentralWidget(body)
        self.setAcceptDrops(True)
        self.resize(1280, 800)

    def give_up_board(self, words: str) -> None:
        """The board cannot draw on this machine: its place takes a sentence that says why."""
        if self.navigation.middle is self.board:
            middle = self._no_board(words)
            self._row.replaceWidget(self.board, middle)
            self.navigation.stand_in(middle)

    def _no_board(self, words: str) -> QWidget:
        label = QLabel(words)
        label.setWordWrap(True)
        label.setAlignment(Qt.AlignmentFlag.AlignCenter)
        label.setObjectName("noBoard")
        return label

    def _connect(self) -> None:
        session, board = self.session, self.board
        session.changed.connect(self._on_changed)
        session.replacing.connect(self.pictures.leave)
        session.changing.connect(self._refresh_tool)
        session.chosen_changed.connect(self.refresh)
        session.noticed.connect(self.notices.say)
        session.asked.connect(lambda words, answers: self.notices.say(words, actions=answers))
        session.changed.connect(self.notices.answered)
        session.chosen_changed.connect(self.notices.answered)
        self.pictures.noted.connect(session.warn)
        self.files.opened.connect(self._on_opened)
        board.pointed.connect(self._show_pointer)
        board.looked.connect(self._on_looked)
        board.tool_changed.connect(self._refresh_tool)
        board.typed.connect(self.route.begin)
        sheet_view = self.sheet_view
        sheet_view.pointed.connect(self._show_sheet_pointer)
        sheet_view.tool_changed.connect(self._refresh_tool)
        sheet_view.typed.connect(self.route.begin)
        sheet_view.looked.connect(self._show_title_block)
        sheet_view.dropped.connect(self.arrivals.drop_on_desk)
        self.desk.refreshed.connect(self._refresh_tool)
        self.desk.turned.connect(self._refresh_tool)
        self.desk.busy.connect(self._busy_at_desk)
        self.operating.stepped.connect(self.refresh)
        session.looking_over.ready.connect(self._refresh_tool)
        for signal in (self.fitting.ready, self.fitting.switched):
            signal.connect(self._on_fitted)
        self.operating.busy.connect(lambda words: self._busy_until(words, self.operating.abandon))
        comparer = self.workbench.comparer
        comparer.busy.connect(lambda words: self._busy_until(words, comparer.stop))
        self.browser.wanted.connect(self._bring_from_browser)
        self.browser.closed.connect(lambda: self.navigation.browse(False))
        self.bringer.sheet_came.connect(self.desk.lay)
        self.pictures.ready.connect(lambda _: self.refresh() if self.navigation.preparing else None)
        # Not from within the board's own set-up, which this takes away.
        board.broken.connect(self.give_up_board, Qt.ConnectionType.QueuedConnection)
        board.installEventFilter(self)
        self.workbench.refreshed.connect(self._refresh_tool)
        self.navigation.went.connect(self._refresh_tool)
        for panel in (self.route.panel, self.route.slip.panel):
            panel.acted.connect(self.navigation.to_the_middle)
        self.commands.rebound.connect(self.refresh)
        self.registration.solved.connect(self._on_solved)
        self.tray.float_wanted.connect(self.loose_frames.toggle_floating)
        self.tray.window_wanted.connect(lambda i: self.loose_frames.open_window(i, self.theme))
        self.tray.pictures_dropped.connect(self.arrivals.bring_loose)
        self.title_block.unit_chosen.connect(lambda u: self.commands.run(f"unit.{u.value}"))
        self.title_block.snap_toggled.connect(self.workbench.toggle_snap)
        self.title_block.projection_clicked.connect(lambda: self.commands.run("projection"))
        app = QGuiApplication.instance()
        if isinstance(app, QGuiApplication):
            app.applicationStateChanged.connect(self._on_application_state)

    def _restore(self) -> None:
        geometry = self.settings.raw("window/geometry")
        if geometry is not None:
            self.restoreGeometry(geometry)
        sight = self.board.sight
        perspective = self.settings.flag("look/perspective", False)
        orbit = replace(sight.orbit, perspective=perspective)
        self.board.look(replace(sight, orbit=orbit))
        self.board.show_grid = self.settings.flag("look/grid", True)

    # Following changes.

    def _on_changed(self) -> None:
        doc = self.session.document
        self.pictures.follow(doc)
        if doc.projection is not self.board.layout_.projection:
            self.board.look(layout=self.board.layout_.arranged(doc.projection))
        self.refresh()

    def _on_solved(self) -> None:
        self.tray.refresh()
        if self.ledger_shown:
            self.ledger.refresh()
        self.refresh()

    def _on_fitted(self) -> None:
        self.board.update()
        if self.ledger_shown:
            self.ledger.refresh()
        self.refresh()

    def _on_opened(self) -> None:
        doc = self.session.document
        self.board.begin(self.board.sight.orbit.perspective)
        # Work goes on where it stands: at the sheet as long as nothing stands in space.
        if doc.sheets and doc.board_empty:
            self.navigation.open_station("prepare")
        elif self.navigation.preparing and not doc.sheets:
            self.navigation.open_station("place")

    def _on_looked(self) -> None:
        self.pane_controls.refresh(self.session.document.board_empty)
        self.loose_frames.refresh(self.theme)
        self._show_title_block()

    def _on_application_state(self, state: Qt.ApplicationState) -> None:
        if state is Qt.ApplicationState.ApplicationInactive:
            self.files.keep()

    def refresh(self) -> None:
        """Everything but the board's own drawing."""
        self.commands.refresh()
        mark = " •" if self.session.dirty else ""
        held = "  ·  read-only" if self.files.read_only else ""
        self.project_name.setText(self.session.title + held + mark)
        self.setWindowTitle(f"{self.session.title}{mark} – Dimetron")
        self._name_history()
        keys = self.commands["find"].action.shortcut()
        text = keys.toString(QKeySequence.SequenceFormat.NativeText)
        self.finder_button.setText(f"Find a command   {text}")
        self.finder_button.setToolTip(
            with_shortcut("List and run any command", self.commands["find"].action)
        )
        self.pane_controls.refresh(self.session.document.board_empty and not self.bringer.active)
        self.loose_frames.refresh(self.theme)
        self._refresh_tool()
        self._show_title_block()

    def _name_history(self) -> None:
        history = self.session.history
        for id_, word, label in (
            ("undo", "Undo", history.undo_label),
            ("redo", "Redo", history.redo_label),
        ):
            action = self.commands[id_].action
            action.setText(f"{word}: {label}" if label else word)

    def _refresh_tool(self) -> None:
        tool = self.navigation.instrument
        if tool is not self._in_hand:
            self._in_hand = tool
            self.notices.answered()
        self.route.refresh(tool)
        self.title_block.words.setText(tool.words() if tool is not None else "")
        if isinstance(tool, MarkLandmarks) and self.ledger_shown:
            self.ledger.choose(tool.current)
        if not isinstance(tool, Tool) or tool.aimed is None:
            self.loupe.hide()
        self.navigation.area.update()

    def _show_title_block(self) -> None:
        doc = self.session.unmoved
        self.title_block.show_state(
            self.theme,
            doc.unit,
            self.workbench.snaps,
            doc.projection,
            self._seen_mm_per_px(),
            self.registration.overall_mm(),
            self.fitting.largest_mm,
        )

    def _seen_mm_per_px(self) -> float:
        """Real size of a screen pixel, on the board or the sheet; 0 if it is not known."""
        if not self.navigation.preparing:
            return self.board.sight.mm_per_px
        return (self.desk.mm_per_px or 0.0) / self.sheet_view.scale

    def _show_pointer(self, event: BoardEvent | None) -> None:
        tool = self.board.tool
        aimed = tool.aimed if tool is not None else None
        self.loupe.follow(event, aimed, self.session, self.pictures)
        if event is None:
            self.title_block.pointer.setText("")
            return
        if tool is not None:
            self.title_block.words.setText(tool.words())
        unit = self.session.unmoved.unit
        axes = event.view.axes if event.view is not None else ()
        parts = [f"{AXIS_NAMES[a]} {format_length(float(event.point[a]), unit)}" for a in axes]
        self.title_block.pointer.setText("     ".join(parts) if parts else "3D")

    def _show_sheet_pointer(self, event: SheetEvent | None) -> None:
        if event is None:
            self.title_block.pointer.setText("")
            return
        if self.sheet_view.tool is not None:
            self.title_block.words.setText(self.sheet_view.tool.words())
        x, y = (self.desk.length(v) for v in event.at)
        self.title_block.pointer.setText(f"across {x}     down {y}")

    def _busy_at_desk(self, words: str) -> None:
        if words and self._desk_busy and self.notices.isVisible():
            # Only the figures change; the Stop button stays under the pointer.
            self.notices.words.setText(words)
        elif words:
            self.notices.say(words, actions=(("Stop", self.desk.stop),), busy=True)
        else:
            self.notices.clear()
        self._desk_busy = bool(words)

    # Commands' work that belongs to the window.

    def _bring_from_browser(self, paths: list[Path]) -> None:
        self.navigation.browse(False)
        self.arrivals.drop_on_desk(paths)

    def open_demo(self, name: str = "", after: Callable[[], None] = lambda: None) -> None:
        """Make the demo project on a worker and open it; after: what is done then."""
        from dimetron.demo import shelf

        self.files.open_made("Drawing the demo…", lambda: shelf.project(name or None), after)

    @cached_property
    def ledger(self) -> Ledger:
        """Made when it is first asked for."""
        from dimetron.app.ledger.ledger import Ledger

        ledger = Ledger(self.session, self.registration, self.fitting, self.theme)
        ledger.hide()
        self._column.insertWidget(self._column.indexOf(self.title_block), ledger)
        ledger.chosen.connect(self._choose_landmark)
        ledger.wanted.connect(self._mend)
        return ledger

    def _mend(self, name: str, numbers: dict[str, object]) -> None:
        operation = by_name(name)
        self.operating.do(operation, operation.made(**numbers))

    @property
    def ledger_shown(self) -> bool:
        """Whether it is unfolded."""
        return "ledger" in self.__dict__ and not self.ledger.isHidden()

    def toggle_ledger(self) -> None:
        self.ledger.setVisible(self.ledger.isHidden())
        self.ledger.refresh()
        self.refresh()

    def _choose_landmark(self, name: str) -> None:
        """A row of the ledger and its marks in the panes light up together."""
        tool = self.tools["mark"]
        assert isinstance(tool, MarkLandmarks)
        tool.current = name
        self._refresh_tool()

    def find_command(self) -> None:
        finder = Finder(self.commands, self)
        corner = self.finder_button.mapToGlobal(self.finder_button.rect().bottomRight())
        finder.move(corner.x() - finder.minimumWidth(), corner.y() + 2)
        finder.show()
        finder.line.setFocus()

    def show_keys(self) -> None:
        KeysPage(self.commands, self).exec()

    def busy(self, words: str) -> None:
        """Say what long work is going on; an empty text ends it."""
        if words:
            self.notices.say(words, busy=True)
        else:
            self.notices.clear()

    def _busy_until(self, words: str, stop: Callable[[], None]) -> None:
        """Say what long work is going on that can be stopped; an empty text ends it."""
        if words:
            self.notices.say(words, actions=(("Stop", stop),), busy=True)
        else:
            self.notices.clear()
            self.refresh()

    def switch_theme(self) -> None:
        name = "night" if self.theme.name == "day" else "day"
        self.theme = theme.THEMES[name]
        self.settings.set("look/theme", name)
        self.apply_theme()

    def _dress(self) -> None:
        app = QApplication.instance()
        if isinstance(app, QApplication):
            theme.apply(app, self.theme)

    def apply_theme(self) -> None:
        self._dress()
        self.board.palette_ = self.theme.palette
        self.sheet_view.theme = self.theme
        self.route.set_theme(self.theme)
        self.tray.set_theme(self.theme)
        if "ledger" in self.__dict__:
            self.ledger.set_theme(self.theme)
        self.loupe.theme = self.theme
        self.refresh()

    # Qt's events.

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.board and event.type() == QEvent.Type.Resize:
            # After the board itself has taken its new size.
            QTimer.singleShot(0, self._after_resize)
        return super().eventFilter(watched, event)

    def _after_resize(self) -> None:
        self.loupe.hide()
        self.board.fit_if_waiting()
        self.loose_frames.refresh(self.theme)
        self.pane_controls.refresh(self.session.document.board_empty and not self.bringer.active)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """With no field in hand, keys belong to the sheet or the board."""
        if self.focusWidget() in (None, self) and not self._handing_on:
            # What it does not want it hands back to the window.
            self._handing_on = True
            try:
                self.navigation.to_the_middle()
                QApplication.sendEvent(self.navigation.in_hand, event)
            finally:
                self._handing_on = False
        else:
            super().keyPressEvent(event)

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.session.dirty and not self._leaving:
            event.ignore()
            self.files.leave(self._leave)
            return
        event.accept()
        self.hide()
        self.files.close()
        self._end_work()
        self.session.spool.close()
        self.loose_frames.close()

    def _end_work(self) -> None:
        """What is being made is stopped where it can be, and waited for where not."""
        self.settings.set_raw("window/geometry", self.saveGeometry())
        self.settings.set(_WALL_KEY, f"{self.session.looking_over.wall_mm:g}")
        makers = self.bringer, self.mesh_bringer, self.outline_bringer, self.pictures, self.desk
        for maker in (*makers, self.workbench.comparer):
            maker.stop()
        for worker in self.findChildren(Worker):
            worker.end()

    def _leave(self) -> None:
        """Close the window, whatever is not saved."""
        self._leaving = True
        QTimer.singleShot(0, self.close)

    def end(self) -> None:
        """End without a question, as the system asks for; unsaved work is kept."""
        self.files.end()
        self._end_work()
        QApplication.exit(0)


def _scanner() -> Scanner:
    """The one of the demo's workshop, until there are drivers for others."""
    from dimetron.demo.scanner import WorkshopScanner

    return WorkshopScanner()
