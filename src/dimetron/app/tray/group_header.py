"""The header of a group in the tray: its name, show and hold for all in it, fold."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QToolButton

from dimetron.app.kit.buttons import quiet
from dimetron.app.kit.iconset import icon
from dimetron.app.kit.name_edit import NameEdit
from dimetron.app.kit.theme import Theme
from dimetron.app.tray import carrying
from dimetron.app.work.session import Session
from dimetron.document import groups
from dimetron.document.parts import Group

_ICON = 15


class GroupHeader(QFrame):
    clicked = Signal(str, bool)

    def __init__(self, session: Session, id_: str) -> None:
        super().__init__()
        self.setObjectName("groupHeader")
        self.id = id_
        self._session = session
        self._press = carrying.Press(self, id_)
        self.fold = self._button("Fold or unfold the group", "folded")
        self.show_button = self._button("Show or hide all of the group", "shown")
        self.hold_button = self._button("Hold all of the group", "held")
        self.alone = quiet("Show the group alone, or all again", _ICON)
        self.alone.clicked.connect(self._show_alone)
        self.apart = quiet("Take the group apart; its cards stay", _ICON)
        self.apart.clicked.connect(self._take_apart)
        self.name = NameEdit(self._rename)
        self.count = QLabel()
        self.count.setProperty("class", "small soft")
        row = QHBoxLayout(self)
        row.setContentsMargins(2, 2, 4, 2)
        row.setSpacing(2)
        row.addWidget(self.fold)
        row.addWidget(self.name, 1)
        row.addWidget(self.count)
        for part in (self.show_button, self.hold_button, self.alone, self.apart):
            row.addWidget(part)

    def _button(self, hint: str, field: str) -> QToolButton:
        button = quiet(hint, _ICON)
        button.clicked.connect(lambda: self._flip(field))
        return button

    def _group(self) -> Group | None:
        return self._session.document.group(self.id)

    def _flip(self, field: str) -> None:
        group = self._group()
        if group is None:
            return
        doc = groups.with_group(
            self._session.committed, self.id, **{field: not getattr(group, field)}
        )
        if field == "folded":
            self._session.amend(doc)
        else:
            words = {"shown": "Show or hide", "held": "Hold or let go of"}
            self._session.commit(doc, f"{words[field]} {group.name}")

    def _show_alone(self) -> None:
        doc = self._session.committed
        ids = tuple(item.id for item in groups.members(doc, self.id))
        if ids:
            self._session.commit(groups.alone(doc, ids), "Show the group alone, or all again")

    def _take_apart(self) -> None:
        group = self._group()
        if group is not None:
            doc = groups.ungrouped(self._session.committed, self.id)
            self._session.commit(doc, f"Take {group.name} apart")

    def _rename(self, wanted: str) -> None:
        group = self._group()
        if group is None:
            return
        if wanted and wanted != group.name:
            doc = groups.with_group(self._session.committed, self.id, name=wanted)
            self._session.commit(doc, f"Rename {group.name}")
        else:
            self.name.show_name(group.name)

    def refresh(self, group: Group, alone: bool, theme: Theme) -> None:
        ink, soft = theme.chrome.ink, theme.chrome.soft_ink
        self.name.show_name(group.name)
        inside = len(groups.members(self._session.document, self.id))
        self.count.setText(str(inside))
        self.count.setToolTip(f"{inside} in this group")
        self.fold.setIcon(icon("chevron-right" if group.folded else "chevron-down", ink, _ICON))
        shown = ("eye", ink) if group.shown else ("eye-off", soft)
        self.show_button.setIcon(icon(*shown, _ICON))
        held = ("lock", ink) if group.held else ("lock-open", soft)
        self.hold_button.setIcon(icon(*held, _ICON))
        self.alone.setIcon(icon("circle-dot" if alone else "circle-dotted", ink, _ICON))
        self.apart.setIcon(icon("x", soft, _ICON))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._press.begin(event)
        if event.button() == Qt.MouseButton.LeftButton:
            self.clicked.emit(self.id, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._press.go_on(event)
