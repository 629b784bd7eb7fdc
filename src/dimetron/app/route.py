"""The route: stations in working order. The open one unfolds and holds its tools, what can be
typed for the tool in hand, and what is still to do."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QKeySequence, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from dimetron.app.commands import Command
from dimetron.app.iconset import icon
from dimetron.app.instrument import Instrument
from dimetron.app.session import Session
from dimetron.app.theme import FAMILY, Theme
from dimetron.app.tool_panel import ToolPanel

WIDTH = 232


@dataclass(frozen=True, slots=True)
class Station:
    """``tools``: commands that take a tool in hand, by tool name. ``extra``: a panel of its own."""

    id: str
    title: str
    state: Callable[[], str]
    to_do: Callable[[], str]
    tools: tuple[Command, ...]
    actions: tuple[Command, ...] = ()
    extra: QWidget | None = None


class _Number(QWidget):
    """The station's number in a ring; filled for the open one."""

    def __init__(self, number: int) -> None:
        super().__init__()
        self._number = number
        self.open = False
        self.theme: Theme | None = None
        self.setFixedSize(24, 24)

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.theme is None:
            return
        chrome = self.theme.chrome
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(chrome.accent if self.open else chrome.hairline), 1.4))
        painter.setBrush(QColor(chrome.accent if self.open else chrome.film))
        painter.drawEllipse(QRectF(1.5, 1.5, 21, 21))
        font = QFont(FAMILY)
        font.setPixelSize(13)
        font.setWeight(QFont.Weight.DemiBold if self.open else QFont.Weight.Normal)
        painter.setFont(font)
        painter.setPen(QColor(chrome.on_accent if self.open else chrome.soft_ink))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, str(self._number))


class StationBox(QFrame):
    """One station: its line, and when open its tools."""

    opened = Signal(str)

    def __init__(self, station: Station, number: int) -> None:
        super().__init__()
        self.station = station
        self._number = _Number(number)
        self._name = QLabel(station.title)
        self._state = QLabel()
        self._state.setProperty("class", "small soft")
        self._state.setWordWrap(True)
        self._line = QPushButton()
        self._line.setProperty("station", True)
        self._line.setAccessibleName(station.title)
        self._line.setToolTip(f"Go to {station.title}")
        self._line.clicked.connect(lambda: self.opened.emit(station.id))
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addWidget(self._name)
        words.addWidget(self._state)
        row = QHBoxLayout(self._line)
        row.setContentsMargins(10, 8, 8, 8)
        row.setSpacing(9)
        row.addWidget(self._number, 0, Qt.AlignmentFlag.AlignTop)
        row.addLayout(words, 1)
        for part in (self._number, self._name, self._state):
            part.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self._line.setMinimumHeight(52)
        self.body = QWidget()
        self.inside = QVBoxLayout(self.body)
        self.inside.setContentsMargins(43, 0, 12, 12)
        self.inside.setSpacing(5)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self._line)
        box.addWidget(self.body)

    def show_state(self, theme: Theme, is_open: bool) -> None:
        self._number.open, self._number.theme = is_open, theme
        self._number.update()
        self._state.setText(self.station.state())
        self.body.setVisible(is_open)
        name = "openStation" if is_open else "closedStation"
        if self.objectName() != name:
            self.setObjectName(name)
            self._name.setProperty("class", "stationOpen" if is_open else "stationName")
            for part in (self, self._name):
                part.style().unpolish(part)
                part.style().polish(part)


class Route(QWidget):
    station_opened = Signal(str)

    def __init__(
        self, session: Session, stations: Sequence[Station], theme: Theme, begin: str
    ) -> None:
        super().__init__()
        self.setObjectName("route")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(WIDTH)
        self._session = session
        self._theme = theme
        self._stations = tuple(stations)
        self.open_id = begin
        self._boxes = {s.id: StationBox(s, i + 1) for i, s in enumerate(stations)}
        self._tool_panel = ToolPanel(session)
        self._buttons: list[tuple[Command, QPushButton, str]] = []
        self._to_do: dict[str, QLabel] = {}
        inner = QWidget()
        inner.setObjectName("stations")
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 6, 0, 6)
        column.setSpacing(2)
        for box in self._boxes.values():
            self._fill(box)
            box.opened.connect(self.open)
            column.addWidget(box)
        column.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(inner)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(scroll)
        self.refresh(None)

    @property
    def panel(self) -> ToolPanel:
        return self._tool_panel

    def _fill(self, box: StationBox) -> None:
        station = box.station
        for command in station.tools:
            box.inside.addWidget(self._button(command, station.id, True))
        for command in station.actions:
            box.inside.addWidget(self._button(command, station.id, False))
        if station.extra is not None:
            box.inside.addWidget(station.extra)
        to_do = QLabel()
        to_do.setProperty("class", "small wrong")
        to_do.setWordWrap(True)
        self._to_do[station.id] = to_do
        box.inside.addWidget(to_do)

    def _button(self, command: Command, station: str, tool: bool) -> QPushButton:
        button = QPushButton()
        button.setProperty("tool", True)
        button.setCheckable(tool)
        button.setAccessibleName(command.title)
        button.setIconSize(QSize(17, 17))
        button.clicked.connect(lambda _=False: command.action.trigger())
        keys = QLabel()
        keys.setProperty("class", "small soft")
        keys.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        row = QHBoxLayout(button)
        row.setContentsMargins(0, 0, 9, 0)
        row.addStretch(1)
        row.addWidget(keys)
        button.setProperty("keys", keys)
        self._buttons.append((command, button, station))
        return button

    def open(self, id_: str) -> None:
        if id_ != self.open_id:
            self.open_id = id_
            self.station_opened.emit(id_)

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme

    def refresh(self, tool: Instrument | None) -> None:
        """States, shortcuts, and the tool in hand."""
        for id_, box in self._boxes.items():
            box.show_state(self._theme, id_ == self.open_id)
            words = box.station.to_do()
            self._to_do[id_].setText(words)
            self._to_do[id_].setVisible(bool(words))
        for command, button, _ in self._buttons:
            keys = command.action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)
            button.setText(command.title)
            button.property("keys").setText(keys)
            button.setToolTip(command.action.toolTip())
            button.setEnabled(command.action.isEnabled())
            button.setChecked(tool is not None and command.id in _held_by(tool))
            name = _ICONS.get(command.id)
            if name:
                button.setIcon(icon(name, self._theme.chrome.ink, 17))
        self._place_panel(tool)
        self._tool_panel.show_tool(tool)

    def _place_panel(self, tool: Instrument | None) -> None:
        """The typed values stand right below the button of the tool they belong to."""
        inside = self._boxes[self.open_id].inside
        was = inside.indexOf(self._tool_panel)
        at = None
        for command, button, station in self._buttons:
            if tool is not None and station == self.open_id and command.id in _held_by(tool):
                at = inside.indexOf(button) + 1
        if at is None:
            self._tool_panel.hide()
        elif was != at:
            inside.removeWidget(self._tool_panel)
            # Taken out from above, the button moves up by one.
            inside.insertWidget(at - 1 if 0 <= was < at else at, self._tool_panel)


def _held_by(tool: Instrument) -> tuple[str, str]:
    """The ids of the commands that take a tool in hand."""
    return f"tool.{tool.name}", f"sheet.{tool.name}"


#: Icons of the tools, by command id; filled by the window from the tools themselves.
_ICONS: dict[str, str] = {}


def register_icon(command: str, name: str) -> None:
    _ICONS[command] = name
