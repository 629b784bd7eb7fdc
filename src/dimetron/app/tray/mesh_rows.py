"""On a mesh's card: how it is shown, whether it is even, and its health in a line."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QColorDialog,
    QComboBox,
    QLabel,
    QSlider,
    QSpinBox,
    QToolButton,
    QWidget,
)

from dimetron.app.kit.theme import Theme
from dimetron.app.tray.in_rows import SMALL, beside, in_rows
from dimetron.app.work.session import Session
from dimetron.document.evenness import with_even
from dimetron.document.model import MeshObject, with_item
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.findings import is_known
from dimetron.render.palette import Colour

_SHOWN = (("both", "cage and smooth"), ("smooth", "smooth"), ("cage", "cage"))
_MOST_LEVELS = 5
#: Larger meshes are looked over when asked, not whenever their card is shown.
_MOST_CORNERS = 200_000
_LEVELS_WIDTH = 42


class MeshRows(QWidget):
    """Every change is a step of history."""

    #: What meshes without a colour of their own have; known once something is shown.
    _clay: Colour

    def __init__(self, session: Session, id_: str) -> None:
        super().__init__()
        self._session = session
        self._id = id_
        self.shown = QComboBox()
        for value, title in _SHOWN:
            self.shown.addItem(title, value)
        # The tray does not become wider for its words.
        self.shown.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self.shown.setMinimumContentsLength(6)
        self.shown.activated.connect(self._show_as)
        self.view, self.export = self._levels("view"), self._levels("export")
        self.even = {axis: self._axis(axis) for axis in "xyz"}
        self.aside = QToolButton()
        self.aside.setText("aside")
        self.aside.setStyleSheet(SMALL)
        self.aside.setCheckable(True)
        self.aside.setToolTip("Set it aside: seen through, and out of reach")
        self.aside.clicked.connect(self._set_aside)
        self.colour = QToolButton()
        self.colour.setToolTip("A colour of its own")
        self.colour.setAccessibleName("Colour")
        self.colour.clicked.connect(self._pick_colour)
        self.fade = QSlider(Qt.Orientation.Horizontal)
        self.fade.setRange(10, 100)
        self.fade.setPageStep(10)
        self.fade.setTracking(False)
        self.fade.setAccessibleName("Opacity")
        self.fade.setToolTip("How much it covers of what lies behind it")
        self.fade.valueChanged.connect(self._set_opacity)
        self.health = QLabel()
        self.health.setWordWrap(True)
        self.health.setProperty("class", "small")
        rows = (
            ("smooth", beside(self.view, QLabel("export"), self.export)),
            ("shown as", self.shown),
            ("even", beside(*self.even.values())),
            ("look", beside(self.colour, self.aside)),
            ("opacity", self.fade),
            ("health", self.health),
        )
        in_rows(self, rows)

    def _levels(self, which: str) -> QSpinBox:
        box = QSpinBox()
        box.setRange(0, _MOST_LEVELS)
        box.setSpecialValueText("no")
        box.setFixedWidth(_LEVELS_WIDTH)
        where = "on the board" if which == "view" else "in files"
        box.setToolTip(f"How often faces are divided {where} for the smooth surface")
        box.setAccessibleName(f"Smooth {where}")
        box.setKeyboardTracking(False)
        box.valueChanged.connect(lambda value: self._set_level(which, value))
        return box

    def _axis(self, axis: str) -> QToolButton:
        button = QToolButton()
        button.setText(axis.upper())
        button.setStyleSheet(SMALL)
        button.setCheckable(True)
        button.setToolTip(f"Keep both sides of {axis.upper()} = 0 the same, from the positive one")
        button.setAccessibleName(f"Even about {axis.upper()}")
        button.clicked.connect(lambda _=False: self._set_even(axis))
        return button

    # What it does.

    def _item(self) -> MeshObject | None:
        item = self._session.committed.item(self._id)
        return item if isinstance(item, MeshObject) else None

    def _set_level(self, which: str, value: int) -> None:
        item = self._item()
        if item is None or getattr(item.smooth, which) == value:
            return
        on_board = which == "view"
        smooth = (
            replace(item.smooth, view=value) if on_board else replace(item.smooth, export=value)
        )
        where = "" if on_board else " in files"
        self._change(f"Smooth {item.name}{where}", smooth=smooth)

    def _show_as(self) -> None:
        item = self._item()
        value = self.shown.currentData()
        if item is not None and item.smooth.shown != value:
            smooth = replace(item.smooth, shown=value, view=item.smooth.view or 2)
            self._change(f"Show {item.name} as {self.shown.currentText()}", smooth=smooth)

    def _set_even(self, axis: str) -> None:
        item = self._item()
        if item is None:
            return
        how = "no longer even" if axis in item.even else "even"
        try:
            doc = with_even(self._session.committed, self._id, axis)
        except MeshError as error:
            self._session.warn(str(error))
            self.even[axis].setChecked(axis in item.even)
            return
        self._session.commit(doc, f"{item.name} {how} about {axis.upper()}")

    def _set_aside(self) -> None:
        item = self._item()
        if item is not None:
            words = "Take up" if item.guide else "Set aside"
            self._change(f"{words} {item.name}", guide=not item.guide)

    def _set_opacity(self, percent: int) -> None:
        item = self._item()
        if item is not None and round(item.opacity * 100) != percent:
            self._change(f"Opacity of {item.name}", opacity=percent / 100)

    def _pick_colour(self) -> None:
        item = self._item()
        if item is None:
            return
        if item.colour:
            self._change(f"Usual colour for {item.name}", colour="")
            return
        usual = QColor.fromRgbF(*self._clay[:3])
        picked = QColorDialog.getColor(usual, self, f"Colour of {item.name}")
        if picked.isValid():
            self._change(f"Colour {item.name}", colour=picked.name())

    def _change(self, label: str, **changes: object) -> None:
        doc = with_item(self._session.committed, self._id, **changes)
        self._session.commit(doc, label)

    # Keeping up.

    def show_item(self, item: MeshObject, theme: Theme) -> None:
        """Bring the rows up to date."""
        for box, value in ((self.view, item.smooth.view), (self.export, item.smooth.export)):
            box.blockSignals(True)
            box.setValue(value)
            box.blockSignals(False)
        self.shown.setCurrentIndex(self.shown.findData(item.smooth.shown))
        self.shown.setEnabled(item.smooth.view > 0)
        for axis, button in self.even.items():
            button.setChecked(axis in item.even)
        self.aside.setChecked(item.guide)
        self.fade.blockSignals(True)
        self.fade.setValue(round(item.opacity * 100))
        self.fade.blockSignals(False)
        shown = item.colour or theme.chrome.panel
        self._clay = theme.palette.clay
        self.colour.setText("" if item.colour else "colour")
        self.colour.setStyleSheet(SMALL + (f" background: {shown};" if item.colour else ""))
        self.health.setText(health_words(self._session, item))


def health_words(session: Session, item: MeshObject) -> str:
    """A mesh's health in a line, the gravest first."""
    mesh = item.mesh
    if not is_known(mesh):
        if session.previewing:
            # It is another one in a moment.
            return "…"
        if len(mesh.topology.corners) > _MOST_CORNERS:
            return "see Health"
    found = session.looking_over.of_item(item)
    if found is None:
        return "being looked over…"
    if not found:
        return "sound"
    more = f", and {len(found) - 1} more" if len(found) > 1 else ""
    return f"{found[0].words}{more}"
