"""Starting the window."""

from __future__ import annotations

import sys
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtGui import QSurfaceFormat
from PySide6.QtWidgets import QApplication

from dimetron.app import theme
from dimetron.app.board.widget import wanted_format
from dimetron.app.opengl import opengl_problem
from dimetron.app.window import Window


def application() -> QApplication:
    """The Qt application with our typeface; made once."""
    known = QApplication.instance()
    if isinstance(known, QApplication):
        return known
    QSurfaceFormat.setDefaultFormat(wanted_format())
    app = QApplication(sys.argv[:1])
    app.setApplicationName("Dimetron")
    app.setDesktopFileName("dimetron")
    app.setStyle("Fusion")
    theme.load_fonts()
    return app


def run(project: Path | None = None, demo: str | None = None) -> int:
    """Open the window, with a project or a demo in it; returns the exit code."""
    app = application()
    window = Window(opengl_problem=opengl_problem())
    window.show()
    if project is not None:
        window.files.open(project)
    elif demo is not None:
        window.open_demo(demo)
    QTimer.singleShot(0, window.offer_recovery)
    return app.exec()
