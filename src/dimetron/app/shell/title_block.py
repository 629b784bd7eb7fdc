"""The title block, as on a drawing: what the mouse does, where it is, snapping, unit, scale,
projection."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QSize, Qt, Signal
from PySide6.QtGui import QAction, QActionGroup, QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QToolButton, QWidget

from dimetron.app.kit.elided import ElidedLabel
from dimetron.app.kit.theme import Theme
from dimetron.geometry.units import Unit, format_length
from dimetron.geometry.views import Projection

#: Physical size of a pixel for the scale shown, by the reference density of 96 per inch.
_MM_PER_PX = 25.4 / 96
SNAP_CHOICES = (
    ("grid", "Grid"),
    ("vertex", "Vertices"),
    ("axis", "Axes"),
    ("drawing", "Drawings"),
    ("landmark", "Landmarks"),
    ("ink", "Ink"),
)
UNIT_NAMES = {
    Unit.MM: "Millimetres",
    Unit.CM: "Centimetres",
    Unit.M: "Metres",
    Unit.INCH: "Inches",
    Unit.FEET_INCHES: "Feet and inches",
}


class ProjectionSymbol(QToolButton):
    """The ISO 5456-2 symbol: a truncated cone, seen from the side and from its small end."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("cell")
        self.projection = Projection.THIRD_ANGLE
        self.ink = QColor("black")
        self.setFixedWidth(76)

    def sizeHint(self) -> QSize:
        return QSize(76, 26)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(self.ink, 1.2))
        middle = self.height() / 2
        left, right = 22.0, 52.0
        third = self.projection is Projection.THIRD_ANGLE
        circle_x, cone_x = (left, right) if third else (right, left)
        for radius in (4.0, 7.5):
            painter.drawEllipse(QPointF(circle_x, middle), radius, radius)
        small, large = cone_x - 9, cone_x + 9
        near, far = (4.0, 7.5)
        painter.drawPolygon(
            [
                QPointF(small, middle - near),
                QPointF(large, middle - far),
                QPointF(large, middle + far),
                QPointF(small, middle + near),
            ]
        )
        painter.setPen(QPen(self.ink, 0.8, Qt.PenStyle.DashDotLine))
        painter.drawLine(QPointF(9, middle), QPointF(66, middle))
        painter.drawLine(QPointF(circle_x, middle - 11), QPointF(circle_x, middle + 11))
        painter.end()


class TitleBlock(QWidget):
    unit_chosen = Signal(object)
    snap_toggled = Signal(str)
    projection_clicked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("titleBlock")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(31)
        # However long they are, the window stays as narrow as it was made.
        self.words = ElidedLabel()
        self.words.setProperty("class", "soft")
        self.pointer = QLabel()
        self.pointer.setObjectName("cell")
        self.pointer.setMinimumWidth(236)
        self.pointer.setToolTip("Where the pointer is, in the project’s unit")
        self.snap = _menu_cell("What points snap to")
        self.unit = _menu_cell("The unit lengths are shown and typed in; sizes do not change")
        self.mismatch = QLabel()
        self.mismatch.setObjectName("cell")
        self.mismatch.setToolTip("By how much the marks of all drawings miss")
        self.miss = QLabel()
        self.miss.setObjectName("cell")
        self.miss.setToolTip("By how much the meshes miss the drawings at most")
        self.scale = QLabel()
        self.scale.setObjectName("cell")
        self.scale.setMinimumWidth(74)
        self.scale.setToolTip("Scale of what is shown, on a screen of 96 pixels per inch")
        self.symbol = ProjectionSymbol()
        self.symbol.clicked.connect(self.projection_clicked)
        box = QHBoxLayout(self)
        box.setContentsMargins(12, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self.words, 1)
        told = self.pointer, self.mismatch, self.miss
        for part in (*told, self.snap, self.unit, self.scale, self.symbol):
            part.setFixedHeight(30)
            box.addWidget(part)
        self._snaps = self._snap_menu()
        self._units = self._unit_menu()

    def _snap_menu(self) -> dict[str, QAction]:
        menu = QMenu(self)
        actions = {}
        for name, title in SNAP_CHOICES:
            action = menu.addAction(title)
            action.setCheckable(True)
            action.triggered.connect(lambda _=False, name=name: self.snap_toggled.emit(name))
            actions[name] = action
        self.snap.setMenu(menu)
        return actions

    def _unit_menu(self) -> dict[Unit, QAction]:
        menu = QMenu(self)
        group = QActionGroup(menu)
        actions = {}
        for unit, title in UNIT_NAMES.items():
            action = menu.addAction(title)
            action.setCheckable(True)
            action.triggered.connect(lambda _=False, unit=unit: self.unit_chosen.emit(unit))
            group.addAction(action)
            actions[unit] = action
        self.unit.setMenu(menu)
        return actions

    def show_state(
        self,
        theme: Theme,
        unit: Unit,
        snaps: frozenset[str],
        projection: Projection,
        mm_per_px: float,
        mismatch_mm: float | None = None,
        miss_mm: float | None = None,
    ) -> None:
        told = (self.mismatch, "mismatch", mismatch_mm), (self.miss, "largest miss", miss_mm)
        for cell, words, mm in told:
            cell.setVisible(mm is not None)
            if mm is not None:
                cell.setText(f"{words} {format_length(mm, unit)}")
        self.unit.setText(unit.value)
        self._units[unit].setChecked(True)
        names = [title.lower() for name, title in SNAP_CHOICES if name in snaps]
        self.snap.setText("snap: " + (", ".join(names) or "off"))
        for name, action in self._snaps.items():
            action.setChecked(name in snaps)
        ratio = mm_per_px / _MM_PER_PX
        if ratio <= 0:
            self.scale.setText("no scale")
        else:
            self.scale.setText(f"1 : {ratio:.3g}" if ratio >= 1 else f"{1 / ratio:.3g} : 1")
        self.symbol.projection = projection
        self.symbol.ink = QColor(theme.chrome.ink)
        self.symbol.setToolTip(
            f"{projection.value.capitalize()} projection; click for {projection.other.value}"
        )
        self.symbol.update()


def _menu_cell(hint: str) -> QToolButton:
    cell = QToolButton()
    cell.setObjectName("cell")
    cell.setToolTip(hint)
    cell.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
    return cell
