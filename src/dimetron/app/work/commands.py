"""Every command of the window: its name, what it does in a sentence, and its shortcut."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QWidget

from dimetron.app.work.settings import Settings


@dataclass(slots=True)
class Command:
    """``group`` is the menu or station it belongs to; ``enabled`` None: always."""

    id: str
    title: str
    hint: str
    run: Callable[[], None]
    shortcut: str = ""
    group: str = ""
    enabled: Callable[[], bool] | None = None
    checked: Callable[[], bool] | None = None
    #: Whether its menu draws a line above it.
    apart: bool = False
    icon: str = ""
    action: QAction = field(init=False)


class Commands(QObject):
    """All commands by id, as actions with shortcuts that can be changed and are remembered.
    ``refuse`` is told why nothing came of one."""

    rebound = Signal()

    def __init__(self, window: QWidget, settings: Settings, refuse: Callable[[str], None]) -> None:
        super().__init__(window)
        self._refuse = refuse
        self._window = window
        self._settings = settings
        self._commands: dict[str, Command] = {}

    def add(self, command: Command) -> Command:
        action = QAction(command.title, self._window)
        action.setCheckable(command.checked is not None)
        action.triggered.connect(lambda: self.run(command.id))
        command.action = action
        self._commands[command.id] = command
        stored = self._settings.raw(f"shortcuts/{command.id}")
        self._bind(command, command.shortcut if stored is None else str(stored))
        self._window.addAction(action)
        return command

    def _bind(self, command: Command, shortcut: str) -> None:
        command.action.setShortcut(QKeySequence(shortcut))
        command.action.setToolTip(with_shortcut(command.hint, command.action))

    def rebind(self, id_: str, shortcut: str) -> str | None:
        """Give a command another shortcut; returns the title of the command that loses it."""
        loser = None
        wanted = QKeySequence(shortcut)
        if not wanted.isEmpty():
            for other in self._commands.values():
                if other.id != id_ and other.action.shortcut() == wanted:
                    loser = other.title
                    self._store(other, "")
        self._store(self._commands[id_], shortcut)
        self.rebound.emit()
        return loser

    def restore(self) -> None:
        """All shortcuts as they came."""
        for command in self._commands.values():
            self._settings.remove(f"shortcuts/{command.id}")
            self._bind(command, command.shortcut)
        self.rebound.emit()

    def _store(self, command: Command, shortcut: str) -> None:
        self._settings.set(f"shortcuts/{command.id}", shortcut)
        self._bind(command, shortcut)

    def run(self, id_: str) -> None:
        command = self._commands[id_]
        if command.enabled is None or command.enabled():
            try:
                command.run()
            except ValueError as error:
                # What the core refuses, in its own words.
                self._refuse(str(error))

    def __getitem__(self, id_: str) -> Command:
        return self._commands[id_]

    def __iter__(self) -> Iterator[Command]:
        return iter(self._commands.values())

    def refresh(self) -> None:
        """Bring enabled and checked states up to date."""
        for command in self._commands.values():
            if command.enabled is not None:
                command.action.setEnabled(command.enabled())
            if command.checked is not None:
                command.action.setChecked(command.checked())


def with_shortcut(hint: str, action: QAction) -> str:
    keys = action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)
    return f"{hint}  ({keys})" if keys else hint
