"""The route: stations in working order. The open one unfolds and holds its tools, what can be
typed for the tool in hand, and what is still to do."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

from PySide6.QtCore import QRectF, QSize, Qt, QTimer, Signal
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

from dimetron.app.kit.elided import ElidedLabel
from dimetron.app.kit.iconset import icon
from dimetron.app.kit.instrument import Instrument
from dimetron.app.kit.theme import FAMILY, Theme
from dimetron.app.kit.wrapped import WrappedLabel
from dimetron.app.route.families import Families
from dimetron.app.route.hand_off import HandOff
from dimetron.app.route.slip import Slip, counted_parts
from dimetron.app.route.tool_panel import ToolPanel
from dimetron.app.stations.order import stations
from dimetron.app.stations.spec import Place, StationSpec
from dimetron.app.work.commands import Command, Commands
from dimetron.app.work.operating import Operating
from dimetron.app.work.session import Session
from dimetron.app.work.settings import Settings
from dimetron.app.work.step import Step
from dimetron.geometry.units import format_area, format_length
from dimetron.mesh.measures import measured
from dimetron.mesh.operation import Family, families

WIDTH = 232
_FAMILY_KEY = "route/family"
#: Within a button words and keys have so much room; words in hand are so much wider.
_BUTTON, _BOLD = 140.0, 1.08
#: Of meshes of more corners it is not measured what is selected.
_MOST_MEASURED = 400_000


class _Number(QWidget):
    """The station's number in a ring; filled for the open one."""

    def __init__(self, number: int) -> None:
        super().__init__()
        self._number = number
        self.open = False
        self.theme: Theme | None = None
        self.setFixedSize(20, 20)

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.theme is None:
            return
        chrome = self.theme.chrome
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(chrome.accent if self.open else chrome.hairline), 1.4))
        painter.setBrush(QColor(chrome.accent if self.open else chrome.film))
        painter.drawEllipse(QRectF(1.5, 1.5, 17, 17))
        font = QFont(FAMILY)
        font.setPixelSize(12)
        font.setWeight(QFont.Weight.DemiBold if self.open else QFont.Weight.Normal)
        painter.setFont(font)
        painter.setPen(QColor(chrome.on_accent if self.open else chrome.soft_ink))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, str(self._number))


class StationBox(QFrame):
    """One station: its line, and when open its tools."""

    opened = Signal(str)

    def __init__(self, station: StationSpec, place: Place, number: int) -> None:
        super().__init__()
        self.station = station
        self._place = place
        self._number = _Number(number)
        self._name = QLabel(station.title)
        self._state = ElidedLabel()
        self._state.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self._state.setProperty("class", "small soft")
        self._line = QPushButton()
        self._line.setProperty("station", True)
        self._line.setAccessibleName(station.title)
        self._line.clicked.connect(lambda: self.opened.emit(station.name))
        row = QHBoxLayout(self._line)
        row.setContentsMargins(10, 4, 9, 4)
        row.setSpacing(8)
        row.addWidget(self._number)
        row.addWidget(self._name)
        row.addWidget(self._state, 1)
        for part in (self._number, self._name, self._state):
            part.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self._line.setMinimumHeight(30)
        self.body = QWidget()
        self.inside = QVBoxLayout(self.body)
        self.inside.setContentsMargins(36, 2, 9, 9)
        self.inside.setSpacing(5)
        self.to_do = WrappedLabel()
        self.to_do.setProperty("class", "small wrong")
        self.inside.addWidget(self.to_do)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self._line)
        box.addWidget(self.body)

    @property
    def state(self) -> str:
        """How it stands, as it shows."""
        return self._state.text()

    def refresh(self, theme: Theme, is_open: bool) -> None:
        self._number.open, self._number.theme = is_open, theme
        self._number.update()
        state, to_do = self.station.state(self._place), self.station.to_do(self._place)
        self._state.setText(state)
        self._line.setToolTip(f"Go to {self.station.title}: {state}")
        self.to_do.setText(to_do)
        self.to_do.setVisible(bool(to_do))
        self.body.setVisible(is_open)
        name = "openStation" if is_open else "closedStation"
        if self.objectName() != name:
            self.setObjectName(name)
            self._name.setProperty("class", "stationOpen" if is_open else "stationName")
            for part in (self, self._name):
                part.style().unpolish(part)
                part.style().polish(part)


class Handed(Place, Protocol):
    """What the route is about, with the panel of the station Hand off."""

    @property
    def hand_off(self) -> HandOff: ...


class Route(QWidget):
    station_opened = Signal(str)

    def __init__(
        self,
        place: Handed,
        commands: Commands,
        operating: Operating,
        settings: Settings,
        theme: Theme,
        begin: str,
    ) -> None:
        super().__init__()
        self.setObjectName("route")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(WIDTH)
        self._place = place
        self._commands = commands
        self._settings = settings
        self._theme = theme
        self.open_id = begin
        self._boxes = {s.name: StationBox(s, place, i + 1) for i, s in enumerate(stations())}
        self.panel = ToolPanel(place.session)
        self.slip = Slip(place.session, operating)
        self.slip.unfolded.connect(lambda: self.refresh(self._tool))
        self._tool: Instrument | None = None
        self._room_for: tuple[Step | None, str | None] = (None, None)
        self._scarce = False
        self._buttons: list[tuple[Command, QPushButton, str]] = []
        self.families: dict[str, Families] = {}
        self._held: tuple[str, ...] = ()
        self._filled: set[str] = set()
        inner = QWidget()
        inner.setObjectName("stations")
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 6, 0, 6)
        column.setSpacing(0)
        for box in self._boxes.values():
            box.opened.connect(self.open)
            column.addWidget(box)
        column.addStretch(1)
        for part in (self.panel, self.slip):
            part.setParent(inner)
            part.hide()
        self.column_scroll = QScrollArea()
        self.column_scroll.setWidgetResizable(True)
        self.column_scroll.setFrameShape(QFrame.Shape.NoFrame)
        self.column_scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.column_scroll.setWidget(inner)
        self.column_scroll.verticalScrollBar().rangeChanged.connect(self._laid_out)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(self.column_scroll)
        self.refresh(None)

    def _fill(self, name: str) -> None:
        """What stands below the line of a station, made when it is first opened."""
        if name in self._filled:
            return
        self._filled.add(name)
        box = self._boxes[name]
        station = box.station
        if station.operations:
            self._fold(box)
        elif station.compact:
            commands = [self._commands[f"tool.{tool.name}"] for tool in station.tools]
            whole = Family(station.title, "", 0, station.name)
            self.families[station.name] = Families([(whole, [commands])], station.name)
            box.inside.addWidget(self.families[station.name])
        else:
            for tool in station.tools:
                kind = "sheet" if station.at_sheet else "tool"
                box.inside.addWidget(self._button(f"{kind}.{tool.name}", station.name, True))
        for action in station.actions:
            box.inside.addWidget(self._button(action, station.name, False))
        if station.shows_hand_off:
            box.inside.addWidget(self._place.hand_off)
        # Below all that.
        box.inside.removeWidget(box.to_do)
        box.inside.addWidget(box.to_do)

    def _fold(self, box: StationBox) -> None:
        """Tools and operations by family, and below them the slip."""
        station = box.station
        found: list[tuple[Family, list[list[Command]]]] = []
        for family in families().values():
            ids = [f"tool.{t.name}" for t in station.tools if t.family == family.name]
            more = [f"do.{o.name}" for o in station.operations if o.family == family]
            if ids or more:
                rows = [[self._commands[id_] for id_ in part] for part in (ids, more)]
                found.append((family, rows))
        folded = Families(found, self._settings.text(_FAMILY_KEY, ""))
        folded.opened.connect(self._family_opened)
        self.families[station.name] = folded
        box.inside.addWidget(folded)
        box.inside.addWidget(self.panel)
        box.inside.addWidget(self.slip)

    def _family_opened(self, name: str) -> None:
        """What is typed for the tool in hand stands with its own family."""
        self._settings.set(_FAMILY_KEY, name)
        self._place_panel(self._held)

    def _button(self, id_: str, station: str, tool: bool) -> QPushButton:
        command = self._commands[id_]
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

    def box(self, name: str) -> StationBox:
        """The place of a station."""
        return self._boxes[name]

    def open(self, id_: str) -> None:
        """Open a station, if it is not open."""
        if id_ != self.open_id:
            self.open_id = id_
            self.station_opened.emit(id_)

    def set_theme(self, theme: Theme) -> None:
        """Colours of the icons and numbers with the next refresh."""
        self._theme = theme

    def begin(self, text: str) -> None:
        """A number begun over the board goes on in the first field that is there."""
        if not self.panel.begin(text):
            self.slip.panel.begin(text)

    def refresh(self, tool: Instrument | None) -> None:
        """States, shortcuts, and the tool in hand."""
        self._tool = tool
        self._fill(self.open_id)
        for id_, box in self._boxes.items():
            box.refresh(self._theme, id_ == self.open_id)
        held = () if tool is None else _held_by(tool)
        for command, button, station in self._buttons:
            if station != self.open_id:
                continue
            keys = command.action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)
            button.setText(command.title)
            button.property("keys").setText(keys)
            # The name of what it does comes first.
            wide = button.fontMetrics().horizontalAdvance(command.title) * _BOLD
            room = wide + button.property("keys").sizeHint().width() < _BUTTON
            button.property("keys").setVisible(room)
            button.setToolTip(command.action.toolTip())
            button.setEnabled(command.action.isEnabled())
            button.setChecked(command.id in held)
            if command.icon:
                button.setIcon(icon(command.icon, self._theme.chrome.ink, 17))
        self._refresh_families(held)
        self.panel.in_rows = bool(self._boxes[self.open_id].station.operations)
        self.panel.show_tool(tool)
        self._place_panel(held)
        if any(self._boxes[name].station.operations for name in self.families):
            # It stands below the families; until they are made nothing was done.
            alone = tool is not None and tool.alone and not self.panel.isHidden()
            self.slip.refresh(self._theme, alone)
            self._make_room(tool)

    def _make_room(self, tool: Instrument | None) -> None:
        """Of the slip and the numbers of another tool only one is open where both do not fit; that
        shows once they are laid out."""
        meant = (self.slip.step, None if tool is None else tool.name)
        if meant != self._room_for:
            self._room_for, self._scarce = meant, False
            # What is beyond the column may be as much as before, of which nothing is told.
            bar = self.column_scroll.verticalScrollBar()
            QTimer.singleShot(0, self, lambda: self._laid_out(0, bar.maximum()))
        self._fold_slip()

    def _laid_out(self, _low: int, beyond: int) -> None:
        step, tool = self._room_for
        own = step is not None and step.task.operation.name == tool
        if beyond > 0 and not own and not self._scarce and not self.slip.isHidden():
            self._scarce = True
            self._fold_slip()

    def _fold_slip(self) -> None:
        self.slip.fold(self._theme, self._scarce)
        if self._scarce and self.slip.by_hand and not self.slip.isHidden():
            self.panel.hide()

    def _refresh_families(self, held: tuple[str, ...]) -> None:
        session = self._place.session
        told = counted_parts(session.kind, len(session.selected))
        size = _size_words(session)
        words = f"{told}, {size}" if told and size else f"{told} selected" if told else ""
        for folded in self.families.values():
            if held != self._held:
                for id_ in held:
                    folded.show_with(id_)
            folded.refresh(self._theme, held, words)
        self._held = held

    def _place_panel(self, held: Sequence[str]) -> None:
        """The typed values stand right below the button of the tool they belong to; where tools
        are folded, below those."""
        inside = self._boxes[self.open_id].inside
        folded = self.families.get(self.open_id)
        at = None
        if folded is not None and folded.shows(held):
            at = inside.indexOf(folded) + 1
        for command, button, station in self._buttons:
            if station == self.open_id and command.id in held:
                at = inside.indexOf(button) + 1
        was = inside.indexOf(self.panel)
        if at is None:
            self.panel.hide()
        elif was != at:
            inside.removeWidget(self.panel)
            # Taken out from above, the button moves up by one.
            inside.insertWidget(at - 1 if 0 <= was < at else at, self.panel)


def _size_words(session: Session) -> str:
    """How long or large what is selected is; nothing while it is dragged, or of very much."""
    item = session.chosen_mesh
    if item is None or session.previewing or len(item.mesh.topology.corners) > _MOST_MEASURED:
        return ""
    found = measured(item.mesh, session.part)
    if found is None:
        return ""
    unit = session.document.unit
    return format_area(found.value, unit) if found.area else format_length(found.value, unit)


def _held_by(tool: Instrument) -> tuple[str, str]:
    """The ids of the commands that take a tool in hand."""
    return f"tool.{tool.name}", f"sheet.{tool.name}"
