"""Going about in the window: which station is open, which tool is in hand, and what is looked at
in the middle: the sheet, a folder's pictures, or the board."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from dimetron.app.board.widget import Board
from dimetron.app.kit.instrument import Instrument
from dimetron.app.kit.work_area import WorkArea
from dimetron.app.route.route import Route
from dimetron.app.sheet.desk import Desk
from dimetron.app.sheet.tool import SheetTool
from dimetron.app.sheet.view import SheetView
from dimetron.app.shell.browser import Browser
from dimetron.app.shell.notices import NoticeBar
from dimetron.app.stations.order import station, station_of, stations
from dimetron.app.stations.spec import StationSpec
from dimetron.app.tools.base import Tool
from dimetron.app.tools.slots import SPACE
from dimetron.app.work import actions
from dimetron.app.work.session import Session
from dimetron.app.work.settings import Settings
from dimetron.document.model import Drawing
from dimetron.render.scene import Shading


class Navigation(QObject):
    """``went``: another tool is in hand, or another station is open."""

    went = Signal()

    def __init__(
        self,
        session: Session,
        settings: Settings,
        board: Board,
        tools: Mapping[str, Tool],
        sheet_view: SheetView,
        sheet_tools: Mapping[str, SheetTool],
        browser: Browser,
        notices: NoticeBar,
        middle: QWidget,
    ) -> None:
        super().__init__(session)
        self._session = session
        self._settings = settings
        self._route: Route | None = None
        self._board = board
        self._tools = tools
        self._sheet_view = sheet_view
        self._sheet_tools = sheet_tools
        self._browser = browser
        self._notices = notices
        #: What stands where the board does: a sentence, where it cannot be drawn.
        self.middle = middle

    def follow(self, route: Route) -> None:
        """Go where the route is opened, and open it where one goes."""
        self._route = route
        route.station_opened.connect(self.go_to)

    @property
    def station(self) -> StationSpec:
        """The open one."""
        return stations()[0] if self._route is None else station(self._route.open_id)

    @property
    def _desk(self) -> Desk:
        return self._sheet_view.desk

    @property
    def preparing(self) -> bool:
        """Whether the sheet is shown instead of the board."""
        return self.station.at_sheet

    @property
    def instrument(self) -> Instrument | None:
        """The tool in hand, at the sheet or at the board."""
        return self.area.tool

    @property
    def area(self) -> WorkArea:
        """Where the tool in hand works: the sheet or the board."""
        return self._sheet_view if self.preparing else self._board

    @property
    def in_hand(self) -> QWidget:
        """What is worked on: the sheet, a folder's pictures, or the board."""
        if not self._browser.isHidden():
            return self._browser.list
        return self._sheet_view if self.preparing else self.middle

    def to_the_middle(self) -> None:
        """Keys go to what is worked on."""
        self.in_hand.setFocus()

    def take(self, name: str) -> None:
        """Take a tool in hand and open its station."""
        tool = self._tools[name]
        self._open(station_of(name))
        self._board.take(tool)
        tool.taken_up()
        self._board.setFocus()

    def take_at_sheet(self, name: str) -> None:
        """Take a sheet tool in hand and open Prepare."""
        self._open(station_of(name))
        self._board.take(None)
        self._sheet_view.take(self._sheet_tools[name])
        self._sheet_view.setFocus()
        self.went.emit()

    def _open(self, spec: StationSpec) -> None:
        if self._route is not None:
            self._route.open_id = spec.name
        self._show_middle()

    def open_station(self, name: str) -> None:
        """Open a station of the route, if it is not open."""
        if self._route is not None:
            self._route.open(name)

    def go_to(self, name: str) -> None:
        """A station was opened: take up what one has in hand there."""
        spec = station(name)
        if spec.at_sheet:
            held = self._sheet_view.tool
            self.take_at_sheet(held.name if held is not None else spec.plain)
        elif spec.plain:
            self.take(spec.plain)
        else:
            self._show_middle()
            self._board.take(None)
        self.went.emit()

    def _show_middle(self) -> None:
        """The sheet in Prepare, else the board."""
        preparing = self.preparing
        if not self._browser.isHidden():
            self._browser.hide()
            self._sheet_view.setVisible(preparing)
        if self._sheet_view.isHidden() == preparing:
            self._sheet_view.setVisible(preparing)
            self.middle.setVisible(not preparing)
            self._notices.lie_over(self._sheet_view if preparing else self.middle)
            if not preparing:
                self._sheet_view.take(None)

    def stand_in(self, middle: QWidget) -> None:
        """Another widget in the board's place."""
        self._board.hide()
        self.middle = middle
        if self.preparing:
            middle.hide()
        else:
            self._notices.lie_over(middle)
            middle.show()

    def browse(self, on: bool) -> None:
        """Show a folder's pictures in place of the sheet, or the sheet again."""
        if on and not self.preparing:
            self.open_station("prepare")
        self._browser.setVisible(on)
        self._sheet_view.setVisible(not on)
        self._notices.lie_over(self._browser if on else self._sheet_view)
        if on:
            self._browser.open()
            self._browser.list.setFocus()
        else:
            self._sheet_view.setFocus()

    def escape(self) -> None:
        """Abandon what is under way; else drop the selection; else back to the plain tool."""
        if self.area.drop_gesture():
            return
        if self.preparing:
            self._escape_at_sheet()
            return
        plain = self.station.plain
        if plain and self._board.tool is not self._tools[plain]:
            self.take(plain)
        elif self._session.chosen:
            actions.select_none(self._session)

    def _escape_at_sheet(self) -> None:
        if isinstance(self._desk.item, Drawing):
            self._desk.lay(self._desk.item.sheet)
        elif self._session.chosen:
            actions.select_none(self._session)

    # Looking.

    def fit_all(self) -> None:
        """Everything in all panes, or the whole sheet."""
        self.area.fit_all()

    def fit_chosen(self) -> None:
        """What is chosen, as large as it goes."""
        self.area.fit_chosen()

    def zoom(self, factor: float) -> None:
        """So many times as large, at the pointer."""
        self.area.zoom(factor)

    def toggle_grid(self) -> None:
        """The grid and its numbers, or not; remembered."""
        self._board.show_grid = not self._board.show_grid
        self._settings.set("look/grid", self._board.show_grid)
        self._board.update()

    def toggle_perspective(self) -> None:
        """Perspective or parallel in 3D; remembered."""
        self._board.toggle_perspective()
        self._settings.set("look/perspective", self._board.sight.orbit.perspective)

    def next_shading(self) -> None:
        """Step the pane under the pointer, or the 3D one, through the ways to shade."""
        board = self._board
        slot = board.pointed_slot or SPACE
        order = list(Shading)
        now = order.index(board.sight.shading[slot])
        board.look(board.sight.with_shading(slot, order[(now + 1) % len(order)]))
