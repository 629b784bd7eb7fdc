"""Colours, type and the style of every widget, by day and by night."""

from __future__ import annotations

from dataclasses import dataclass, fields
from importlib.resources import files
from string import Template

from PySide6.QtCore import QDir
from PySide6.QtGui import QFont, QFontDatabase
from PySide6.QtWidgets import QApplication

from dimetron.render.lettering import FACES, font_bytes
from dimetron.render.palette import DAY, NIGHT, Palette

#: Where the style sheet finds pictures.
_ICONS = "dimetronicons"
FAMILY = "Barlow Tabular"
#: Base type size in logical pixels; nothing on the screen is smaller than 11.
TYPE_PX = 13


@dataclass(frozen=True, slots=True)
class Chrome:
    film: str
    panel: str
    hairline: str
    ink: str
    soft_ink: str
    accent: str
    on_accent: str
    selection: str
    selection_wash: str
    warning: str
    warning_wash: str
    hover: str
    field: str


DAY_CHROME = Chrome(
    film="#F4F1EA",
    panel="#FBF9F4",
    hairline="#CFC9BC",
    ink="#22313B",
    soft_ink="#56646C",
    accent="#1E7B6E",
    on_accent="#FFFFFF",
    selection="#6B3FD4",
    selection_wash="#EFEAFC",
    warning="#A8431F",
    warning_wash="#F9E9E1",
    hover="#ECE7DC",
    field="#FFFFFF",
)
NIGHT_CHROME = Chrome(
    film="#13242A",
    panel="#1A2E35",
    hairline="#36505A",
    ink="#E2EBE9",
    soft_ink="#A3B7B9",
    accent="#58BFAD",
    on_accent="#0C1B1F",
    selection="#A58BF5",
    selection_wash="#2C2B4C",
    warning="#EDA083",
    warning_wash="#3D2A26",
    hover="#233B43",
    field="#102026",
)


@dataclass(frozen=True, slots=True)
class Theme:
    name: str
    chrome: Chrome
    palette: Palette


THEMES = {"day": Theme("day", DAY_CHROME, DAY), "night": Theme("night", NIGHT_CHROME, NIGHT)}

#: The application's property that names the theme it wears.
_WORN = "dimetronTheme"
_STYLE = Template("""
* { font-family: "$family"; font-size: ${type_px}px; color: $ink; }
QMainWindow, QDialog, #body, #looseWindow { background: $film; }
#header, #route, #tray, #titleBlock { background: $film; }
QToolTip { background: $panel; color: $ink; border: 1px solid $hairline; padding: 4px 6px; }
#header { border-bottom: 1px solid $hairline; }
#brand { font-size: 17px; font-weight: 600; }
#projectName, .soft, #finderButton { color: $soft_ink; }
#route { border-right: 1px solid $hairline; }
#tray { border-left: 1px solid $hairline; }
#titleBlock { border-top: 1px solid $ink; }
#ledger { background: $film; border-top: 1px solid $hairline; }
QMenuBar { background: transparent; }
QMenuBar::item { padding: 4px 9px; background: transparent; border-radius: 3px; }
QMenuBar::item:selected { background: $hover; }
QMenu { background: $panel; border: 1px solid $hairline; padding: 4px; }
QMenu::item { padding: 5px 22px 5px 12px; border-radius: 3px; }
QMenu::item:selected { background: $hover; }
QMenu::item:disabled { color: $soft_ink; }
QMenu::separator { height: 1px; background: $hairline; margin: 4px 6px; }
QMenu::indicator { width: 12px; height: 12px; left: 4px; }
QMenu::indicator:checked { background: $accent; border-radius: 6px; }
QPushButton, QToolButton {
  background: $panel; border: 1px solid $hairline; border-radius: 4px; padding: 4px 9px;
}
QPushButton:hover, QToolButton:hover { background: $hover; }
QPushButton:focus, QToolButton:focus, QLineEdit:focus, QComboBox:focus {
  border: 1px solid $accent;
}
QPushButton:disabled, QToolButton:disabled { color: $soft_ink; background: transparent; }
QPushButton[tool="true"] { text-align: left; padding: 5px 9px; }
QPushButton:checked, QToolButton:checked {
  background: $selection_wash; border: 1px solid $selection; font-weight: 600;
}
QPushButton[main="true"] { background: $accent; color: $on_accent; border-color: $accent; }
QPushButton[main="true"]:disabled {
  background: transparent; color: $soft_ink; border-color: $hairline;
}
QPushButton[station="true"] {
  border: none; border-radius: 0; background: transparent; text-align: left; padding: 0;
}
QToolButton[quiet="true"] { border: 1px solid transparent; background: transparent; padding: 2px; }
QToolButton[quiet="true"]:hover { background: $hover; }
QToolButton[quiet="true"]:focus { border: 1px solid $accent; }
QToolButton::menu-indicator, QPushButton::menu-indicator { image: none; width: 0; }
QPushButton[compact="true"] { text-align: left; padding: 3px 6px; font-size: 13px; }
QToolButton[family="true"] { padding: 0; }
.familyTitle { font-size: 13px; font-weight: 600; }
#slip { background: $field; border: 1px solid $hairline; border-radius: 4px; }
QLineEdit, QComboBox {
  background: $field; border: 1px solid $hairline; border-radius: 3px; padding: 2px 5px;
  selection-background-color: $selection; selection-color: $field;
}
QLineEdit[plain="true"] {
  background: transparent; border: none; border-bottom: 1px solid $hairline; border-radius: 0;
}
QLineEdit[plain="true"]:focus { background: $field; border-bottom: 1px solid $accent; }
QLineEdit[wrong="true"] {
  background: $warning_wash; border: 1px solid $warning; border-radius: 3px;
}
QComboBox::drop-down { border: none; width: 18px; }
QComboBox::down-arrow { image: url($icons:chevron-down-$theme.svg); width: 13px; height: 13px; }
QComboBox QAbstractItemView, QListWidget, QTableWidget, QTreeView, QListView {
  background: $panel; border: 1px solid $hairline; selection-background-color: $selection_wash;
  selection-color: $ink; outline: 0; alternate-background-color: $film;
}
QHeaderView::section { background: $film; border: none; border-bottom: 1px solid $hairline;
  padding: 4px; color: $soft_ink; }
.wrong, #wrong { color: $warning; }
.good { color: $accent; }
.stationName { font-size: 15px; }
.stationOpen { font-size: 15px; font-weight: 600; }
.small { font-size: 12px; }
#openStation { background: $panel; border-left: 3px solid $accent; }
#closedStation { border-left: 3px solid transparent; }
#card { background: $panel; border: 1px solid $hairline; border-radius: 5px; }
#card[chosen="true"] { border: 1px solid $selection; }
#card[grouped="true"] { margin-left: 9px; }
#groupHeader { background: transparent; border: none; border-bottom: 1px solid $hairline; }
#floating { background: $panel; border: 1px solid $ink; border-radius: 4px; }
#trayFoot { border-top: 1px solid $hairline; background: $warning_wash; }
#cardName { font-weight: 600; }
#badge { color: $soft_ink; font-size: 12px; }
#thumb { background: $field; border: 1px solid $hairline; }
#cell { border-left: 1px solid $hairline; padding: 0 11px; }
QToolButton#cell { border: none; border-left: 1px solid $hairline; border-radius: 0;
  background: transparent; padding: 0 11px; }
QToolButton#cell:hover { background: $hover; }
QToolButton#cell::menu-indicator { image: none; width: 0; }
#noticeBar { background: $panel; border: 1px solid $hairline; border-radius: 5px; }
#noticeBar[warning="true"] { background: $warning_wash; border: 1px solid $warning; }
QScrollArea, #cards, #stations { background: transparent; border: none; }
QScrollBar:vertical { background: transparent; width: 8px; margin: 0; }
QScrollBar::handle:vertical { background: $hairline; border-radius: 4px; min-height: 24px; }
QScrollBar::add-line, QScrollBar::sub-line { height: 0; width: 0; }
QScrollBar:horizontal { background: transparent; height: 8px; }
QScrollBar::handle:horizontal { background: $hairline; border-radius: 4px; min-width: 24px; }
QSlider::groove:horizontal { height: 2px; background: $hairline; border-radius: 1px; }
QSlider::sub-page:horizontal { background: $accent; }
QSlider::handle:horizontal { width: 12px; height: 12px; margin: -5px 0; border-radius: 6px;
  background: $accent; border: none; }
QSlider::handle:horizontal:focus { background: $selection; }
QCheckBox::indicator, QRadioButton::indicator {
  width: 12px; height: 12px; border: 1px solid $soft_ink; background: $field; border-radius: 2px;
}
QRadioButton::indicator { border-radius: 7px; }
QCheckBox::indicator:checked, QRadioButton::indicator:checked {
  background: $accent; border: 1px solid $accent;
}
#paneChip { background: $panel; border: 1px solid $hairline; border-radius: 4px; }
#paneName { background: transparent; border: none; padding: 1px 5px; font-weight: 600; }
#paneLook { background: transparent; border: none; padding: 1px 4px; color: $soft_ink;
  font-size: 12px; }
#paneName:hover, #paneLook:hover { background: $hover; }
#emptyBoard { background: $panel; border: 1px solid $hairline; border-radius: 6px; }
#dropHint { color: $soft_ink; background: $panel; border-radius: 4px; padding: 3px 9px; }
#emptyTitle { font-size: 18px; font-weight: 600; }
""")


def load_fonts() -> None:
    for face in FACES:
        QFontDatabase.addApplicationFontFromData(font_bytes(face))


def apply(app: QApplication, theme: Theme) -> None:
    """Give everything the theme's look; nothing is done if it has it."""
    if app.property(_WORN) == theme.name:
        return
    app.setProperty(_WORN, theme.name)
    font = QFont(FAMILY)
    font.setPixelSize(TYPE_PX)
    app.setFont(font)
    colours = {f.name: getattr(theme.chrome, f.name) for f in fields(Chrome)}
    # By a name of our own: a path may hold whatever a style sheet cannot spell.
    QDir.setSearchPaths(_ICONS, [str(files("dimetron.app").joinpath("kit", "icons"))])
    style = _STYLE.substitute(
        colours, family=FAMILY, type_px=TYPE_PX, icons=_ICONS, theme=theme.name
    )
    app.setStyleSheet(style)
