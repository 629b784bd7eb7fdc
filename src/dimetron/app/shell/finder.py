"""Find a command: type a few letters, choose with the arrows, Enter runs it."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from dimetron.app.work.commands import Command, Commands


def matches(command: Command, typed: str) -> bool:
    """Every typed word begins or stands within the title, the group or the hint."""
    text = f"{command.title} {command.group} {command.hint}".lower()
    return all(word in text for word in typed.lower().split())


class Finder(QDialog):
    def __init__(self, commands: Commands, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self._commands = commands
        self.setMinimumWidth(430)
        self.line = QLineEdit()
        self.line.setPlaceholderText("Type part of a command’s name")
        self.line.setAccessibleName("Find a command")
        self.list = QListWidget()
        self.list.setMinimumHeight(300)
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        box = QVBoxLayout(self)
        box.setContentsMargins(8, 8, 8, 8)
        box.addWidget(self.line)
        box.addWidget(self.list)
        self.line.textChanged.connect(self._fill)
        self.line.installEventFilter(self)
        self.line.returnPressed.connect(self._run)
        self.list.itemClicked.connect(lambda _: self._run())
        self._fill("")

    def _fill(self, typed: str) -> None:
        self._commands.refresh()
        self.list.clear()
        starts = [c for c in self._commands if c.title.lower().startswith(typed.lower())]
        rest = [c for c in self._commands if c not in starts and matches(c, typed)]
        for command in [*starts, *rest]:
            keys = command.action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)
            item = QListWidgetItem(f"{command.title}    {keys}" if keys else command.title)
            item.setToolTip(command.hint)
            item.setData(Qt.ItemDataRole.UserRole, command.id)
            if not command.action.isEnabled():
                item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(item)
        self.list.setCurrentRow(0)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Arrows move in the list while one types."""
        if watched is self.line and isinstance(event, QKeyEvent):
            down = event.type() == QEvent.Type.KeyPress
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            if down and step is not None:
                row = self.list.currentRow() + step
                self.list.setCurrentRow(max(0, min(self.list.count() - 1, row)))
                return True
        return super().eventFilter(watched, event)

    def _run(self) -> None:
        item = self.list.currentItem()
        if item is not None and item.flags() & Qt.ItemFlag.ItemIsEnabled:
            self.accept()
            self._commands.run(item.data(Qt.ItemDataRole.UserRole))
