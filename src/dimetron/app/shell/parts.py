"""What the window's commands are about."""

from __future__ import annotations

from typing import Protocol

from dimetron.app.board.parts import BoardParts
from dimetron.app.kit.theme import Theme
from dimetron.app.route.hand_off import HandOff
from dimetron.app.route.route import Route
from dimetron.app.sheet.desk import Desk
from dimetron.app.sheet.tool import SheetTool
from dimetron.app.shell.arrivals import Arrivals
from dimetron.app.shell.browser import Browser
from dimetron.app.shell.files import Files
from dimetron.app.shell.navigation import Navigation
from dimetron.app.shell.workbench import Workbench
from dimetron.app.work.fitting import Fitting
from dimetron.app.work.operating import Operating


class Parts(BoardParts, Protocol):
    """What the window holds, as far as commands ask for it."""

    arrivals: Arrivals
    browser: Browser
    desk: Desk
    files: Files
    fitting: Fitting
    hand_off: HandOff
    navigation: Navigation
    operating: Operating
    route: Route
    sheet_tools: dict[str, SheetTool]
    theme: Theme
    workbench: Workbench

    @property
    def ledger_shown(self) -> bool: ...
    def close(self) -> bool: ...
    def find_command(self) -> None: ...
    def open_demo(self) -> None: ...
    def show_keys(self) -> None: ...
    def switch_theme(self) -> None: ...
    def toggle_ledger(self) -> None: ...
