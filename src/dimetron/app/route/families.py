"""Many tools in a small place: a row of families, of which one is open, as compact buttons.
A single family needs no row."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QKeySequence, QResizeEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from dimetron.app.kit.elided import ElidedLabel
from dimetron.app.kit.iconset import icon
from dimetron.app.kit.theme import Theme
from dimetron.app.work.commands import Command
from dimetron.mesh.operation import Family

#: Families in a row, and buttons.
_ACROSS, _COLUMNS = 6, 2

#: A family's tools, and what it does at once.
Rows = Sequence[Sequence[Command]]


class CompactButton(QPushButton):
    """A command in half a row: its title, and its key if there is room."""

    def __init__(self, command: Command) -> None:
        super().__init__()
        self.command = command
        self.setProperty("compact", True)
        self.setCheckable(True)
        self.setAccessibleName(command.title)
        self.setMinimumWidth(10)
        self._keys = QLabel()
        self._keys.setProperty("class", "small soft")
        self._keys.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 6, 0)
        row.addStretch(1)
        row.addWidget(self._keys)
        self.clicked.connect(lambda _=False: command.action.trigger())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit(self.command.action.shortcut().toString(QKeySequence.SequenceFormat.NativeText))

    def _fit(self, keys: str) -> None:
        """Its key stands beside its title where both have room."""
        taken = self.fontMetrics().horizontalAdvance(self.command.title) + 26
        room = self.width() - taken > self._keys.fontMetrics().horizontalAdvance(keys)
        self._keys.setText(keys if room else "")

    def refresh(self, held: bool) -> None:
        keys = self.command.action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)
        self.setText(self.command.title)
        self._fit(keys)
        self.setToolTip(self.command.action.toolTip())
        self.setEnabled(self.command.action.isEnabled())
        self.setChecked(held)


class Families(QWidget):
    """``opened`` tells the name of the family that was opened."""

    opened = Signal(str)

    def __init__(self, families: Sequence[tuple[Family, Rows]], begin: str) -> None:
        """families: each with its tools, and what it does at once."""
        super().__init__()
        self._families = {family.name: family for family, _ in families}
        self._group = QButtonGroup(self)
        self._heads: dict[str, QToolButton] = {}
        self._pages: dict[str, QWidget] = {}
        self.buttons: list[CompactButton] = []
        # What is told goes before the title where there is not room for both.
        self._title = ElidedLabel()
        self._title.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self._title.setProperty("class", "familyTitle")
        self._told = ElidedLabel()
        self._told.setProperty("class", "small soft")
        heads = QGridLayout()
        heads.setSpacing(3)
        for number, (family, rows) in enumerate(families):
            heads.addWidget(self._head(family), number // _ACROSS, number % _ACROSS)
            self._pages[family.name] = self._page(family, rows)
        heads.setColumnStretch(_ACROSS, 1)
        titles = QHBoxLayout()
        titles.addWidget(self._title, 1)
        titles.addWidget(self._told)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        if len(families) > 1:
            column.addLayout(heads)
            column.addLayout(titles)
        else:
            for part in (*self._heads.values(), self._title, self._told):
                part.setParent(self)
                part.hide()
        for page in self._pages.values():
            column.addWidget(page)
        self.open(begin if begin in self._pages else next(iter(self._pages)))

    def _head(self, family: Family) -> QToolButton:
        head = QToolButton()
        head.setProperty("family", True)
        head.setCheckable(True)
        head.setFixedSize(28, 28)
        head.setIconSize(QSize(17, 17))
        head.setAccessibleName(family.title)
        head.setToolTip(family.title)
        head.clicked.connect(lambda _=False: self.open(family.name))
        self._group.addButton(head)
        self._heads[family.name] = head
        return head

    def _page(self, family: Family, rows: Rows) -> QWidget:
        """Where a family has short names they stand closer, below its tools."""
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        if family.columns == _COLUMNS:
            rows = [[command for part in rows for command in part]]
        for number, commands in enumerate(rows):
            column.addLayout(self._grid(commands, family.columns if number else _COLUMNS))
        return page

    def _grid(self, commands: Sequence[Command], columns: int) -> QGridLayout:
        grid = QGridLayout()
        grid.setSpacing(3)
        for number, command in enumerate(commands):
            button = CompactButton(command)
            self.buttons.append(button)
            grid.addWidget(button, number // columns, number % columns)
        for column in range(columns):
            grid.setColumnStretch(column, 1)
        return grid

    def shows(self, held: Sequence[str]) -> bool:
        """Whether the button of one of these commands is on the page that is open."""
        page = self._pages[self.open_name]
        return any(b.command.id in held for b in page.findChildren(CompactButton))

    @property
    def open_name(self) -> str:
        """The family that is open."""
        return next(n for n, page in self._pages.items() if not page.isHidden())

    def open(self, name: str) -> None:
        """Show the buttons of a family."""
        for other, page in self._pages.items():
            page.setVisible(other == name)
        self._heads[name].setChecked(True)
        self._title.setText(self._families[name].title)
        self.opened.emit(name)

    def show_with(self, command: str) -> None:
        """Open the family that a command stands in, if it does in one."""
        for name, page in self._pages.items():
            inside = page.findChildren(CompactButton)
            if page.isHidden() and any(b.command.id == command for b in inside):
                self.open(name)

    def refresh(self, theme: Theme, held: tuple[str, ...], told: str) -> None:
        """held: the commands of the tool in hand; told: how much is selected."""
        for name, head in self._heads.items() if len(self._heads) > 1 else ():
            head.setIcon(icon(self._families[name].icon, theme.chrome.ink, 17))
        for button in self.buttons:
            button.refresh(button.command.id in held)
        self._told.setText(told)
