"""The ledger: what is known of the object and how far it misses, as tables."""

from __future__ import annotations

from functools import cache

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from dimetron.app.kit.buttons import plain_button
from dimetron.app.kit.fields import Named, length_edit
from dimetron.app.kit.theme import Theme
from dimetron.app.ledger.foot import MarksFoot
from dimetron.app.ledger.page import LedgerPage
from dimetron.app.ledger.table import LedgerTable
from dimetron.app.work.fitting import Fitting
from dimetron.app.work.registering import Registration
from dimetron.app.work.session import Session
from dimetron.standing import modules_in, values_in

_HEIGHT = 196
#: So much is said above the table at once.
_SAID = 3


@cache
def pages() -> tuple[LedgerPage, ...]:
    """Every page there is, in order."""
    found = {
        page.name: page
        for module in modules_in(f"{__name__.rpartition('.')[0]}.pages")
        for page in values_in(module, LedgerPage)
    }
    return tuple(sorted(found.values(), key=lambda page: page.order))


class Ledger(QWidget):
    """``chosen``: the name of a landmark that is to light up; ``wanted``: an operation that is to
    be done to what is selected, by its name, and its numbers."""

    chosen = Signal(str)
    wanted = Signal(str, object)

    def __init__(
        self, session: Session, registration: Registration, fitting: Fitting, theme: Theme
    ) -> None:
        super().__init__()
        self.setObjectName("ledger")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(_HEIGHT)
        self.session, self.registration, self.fitting = session, registration, fitting
        self.tables = {page.name: self._table(page, theme) for page in pages()}
        self._shown = pages()[0]
        self._stack = QStackedWidget()
        for table in self.tables.values():
            self._stack.addWidget(table)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(self._head_row())
        column.addWidget(self._stack, 1)
        column.addLayout(self._foot_row())
        session.changed.connect(self.refresh)
        session.looking_over.ready.connect(self.refresh)

    # What pages ask for.

    @property
    def row(self) -> str | None:
        """The key of the row gone to on the page that is shown; None if none is."""
        return self.tables[self.page].current_key

    def light(self, landmark: str) -> None:
        """Light up a landmark's marks in the panes."""
        self.chosen.emit(landmark)

    def mend(self, operation: str, numbers: dict[str, object]) -> None:
        """Do an operation to what is selected."""
        self.wanted.emit(operation, numbers)

    # Building.

    def _table(self, page: LedgerPage, theme: Theme) -> LedgerTable:
        table = LedgerTable(page.title, page.columns, page.typed, theme, lambda _: page.hint)
        for column, wide in page.widths:
            table.setColumnWidth(column, wide)
        table.typed.connect(lambda key, column, text: self._typed(page, key, column, text))
        table.chosen.connect(lambda key: page.go_to(self, key) if page.go_to else None)
        return table

    def _head_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setContentsMargins(8, 3, 8, 3)
        row.setSpacing(0)
        self._tabs = QButtonGroup(self)
        for number, page in enumerate(pages()):
            button = QToolButton()
            button.setText(page.title)
            button.setCheckable(True)
            button.setChecked(number == 0)
            button.setToolTip(f"Show the page {page.title}")
            button.clicked.connect(lambda _=False, name=page.name: self.turn_to(name))
            self._tabs.addButton(button, number)
            row.addWidget(button)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.words.setProperty("class", "small")
        self.words.setContentsMargins(12, 0, 2, 0)
        row.addWidget(self.words, 1)
        return row

    def _foot_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setContentsMargins(8, 4, 8, 4)
        self.foot = MarksFoot(self.session)
        row.addWidget(self.foot, 1)
        self._typed_values = QHBoxLayout()
        self._fields: list[Named] = []
        row.addLayout(self._typed_values)
        self._rest = QWidget()
        row.addWidget(self._rest, 1)
        self._acts = QHBoxLayout()
        self._buttons: list[QPushButton] = []
        row.addLayout(self._acts)
        self.drop = plain_button("Remove", "Remove the row gone to", self.remove_row)
        self.copy = plain_button("Copy table", "Copy all rows, for a spreadsheet", self._copy)
        for button in (self.drop, self.copy):
            row.addWidget(button)
        return row

    # Showing.

    @property
    def page(self) -> str:
        """The name of the page that is shown."""
        return self._shown.name

    def turn_to(self, name: str) -> None:
        """Show a page by its name."""
        number = next(i for i, page in enumerate(pages()) if page.name == name)
        self._shown = pages()[number]
        self._stack.setCurrentIndex(number)
        self._tabs.button(number).setChecked(True)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        for table in self.tables.values():
            table.theme = theme
        self.refresh()

    def refresh(self) -> None:
        """Bring the page that is shown up to date."""
        if self.isHidden():
            return
        page = self._shown
        table = self.tables[page.name]
        table.fill(page.rows(self))
        if page.current is not None:
            table.choose(page.current(self))
        said = page.words(self).split("\n")
        self.words.setToolTip("\n".join(said))
        more = len(said) - _SAID
        if more > 1:
            said = [*said[:_SAID], f"{more} more: hold the pointer here"]
        self.words.setText("  ·  ".join(said))
        self.foot.setVisible(page.marks)
        self._rest.setVisible(not page.marks)
        if page.marks:
            self.foot.refresh()
        self.drop.setVisible(page.remove is not None)
        self._show_acts(page)
        self._show_fields(page)

    def _show_fields(self, page: LedgerPage) -> None:
        wanted = page.fields(self)
        if [named.edit.accessibleName() for named in self._fields] != [f.name for f in wanted]:
            for named in self._fields:
                self._typed_values.removeWidget(named)
                named.deleteLater()
            self._fields = [self._field(page, number) for number in range(len(wanted))]
        for named, field in zip(self._fields, wanted, strict=True):
            named.edit.set_value(field.value)

    def _field(self, page: LedgerPage, number: int) -> Named:
        field = page.fields(self)[number]
        edit = length_edit(lambda: self.session.document.unit)
        edit.setToolTip(field.hint)
        edit.setFixedWidth(80)
        named = Named(field.name, edit, in_row=True)
        edit.entered.connect(lambda value: self._enter(page, number, value))
        self._typed_values.addWidget(named)
        return named

    def _enter(self, page: LedgerPage, number: int, value: float) -> None:
        try:
            page.fields(self)[number].enter(value)
        except ValueError as error:
            self._fields[number].edit.refuse(str(error))
            return
        self.refresh()

    def _show_acts(self, page: LedgerPage) -> None:
        wanted = page.actions(self)
        if [button.property("act") for button in self._buttons] != [act.name for act in wanted]:
            for button in self._buttons:
                self._acts.removeWidget(button)
                button.deleteLater()
            self._buttons = [plain_button(act.title, act.hint, act.run) for act in wanted]
            for button, act in zip(self._buttons, wanted, strict=True):
                button.setProperty("act", act.name)
                self._acts.addWidget(button)
        for button, act in zip(self._buttons, wanted, strict=True):
            button.setEnabled(act.enabled)

    def choose(self, name: str) -> None:
        """Light up the row of a landmark."""
        names = [m.name for m in self.session.document.landmarks]
        self.tables["landmarks"].choose(names.index(name) if name in names else None)

    # What is done.

    def _typed(self, page: LedgerPage, key: str, column: int, text: str) -> None:
        """What cannot be read is said, and the cell shows what it was."""
        if page.type_over is not None:
            try:
                page.type_over(self, key, column, text)
            except ValueError as error:
                self.session.warn(str(error))
            self.refresh()

    def remove_row(self) -> None:
        """Remove what the row gone to is of."""
        if self._shown.remove is not None and self.row is not None:
            self._shown.remove(self, self.row)

    def _copy(self) -> None:
        count = self.tables[self.page].copy()
        self.session.tell(f"Copied {count} rows of {self._shown.title}.")
