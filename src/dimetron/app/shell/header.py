"""The header: the product, the project, menus, and the way to any command."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenuBar, QToolButton, QWidget

from dimetron.app.work.commands import Commands


class Header(QWidget):
    def __init__(self, commands: Commands, groups: Sequence[str]) -> None:
        super().__init__()
        self.setObjectName("header")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(36)
        brand = QLabel("Dimetron")
        brand.setObjectName("brand")
        self.project_name = QLabel()
        self.project_name.setObjectName("projectName")
        self.menu = QMenuBar()
        self.menu.setNativeMenuBar(False)
        for group in groups:
            menu = self.menu.addMenu(group)
            menu.setToolTipsVisible(True)
            for command in commands:
                if command.group == group:
                    if command.apart:
                        menu.addSeparator()
                    menu.addAction(command.action)
            menu.aboutToShow.connect(commands.refresh)
        self.finder = QToolButton()
        self.finder.setObjectName("finderButton")
        self.finder.setMinimumWidth(196)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 0, 8, 0)
        row.setSpacing(10)
        row.addWidget(brand)
        row.addWidget(self.project_name)
        row.addStretch(1)
        row.addWidget(self.menu, 0, Qt.AlignmentFlag.AlignVCenter)
        row.addWidget(self.finder)
