"""Starting the window."""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QCoreApplication, QTimer
from PySide6.QtGui import QSurfaceFormat
from PySide6.QtWidgets import QApplication

from dimetron.app.kit import theme
from dimetron.app.kit.display import QT_PLUGINS, display_problem
from dimetron.app.kit.opengl import UNKNOWN, opengl_problem, wanted_format
from dimetron.app.kit.signals import Signals
from dimetron.app.shell.window import Window
from dimetron.app.work.settings import Settings

#: Whether the board could be drawn when Dimetron was started last.
_DRAWS = "opengl/draws"
_PATIENCE_MS = 3000


class NoDisplay(RuntimeError):
    """There is no screen to open a window on; the message says why."""


def application() -> QApplication:
    """The Qt application with our typeface; made once."""
    known = QApplication.instance()
    if isinstance(known, QApplication):
        return known
    QSurfaceFormat.setDefaultFormat(wanted_format())
    # Workers hand over quickly: each widget that is drawn while a picture is decoded takes the
    # interpreter's lock a few times, and would wait 5 ms each.
    sys.setswitchinterval(0.0005)
    # Qt finds its own parts by a list that a path with a quote or a semicolon in it breaks.
    QCoreApplication.addLibraryPath(str(QT_PLUGINS))
    app = QApplication(sys.argv[:1])
    app.setApplicationName("Dimetron")
    app.setDesktopFileName("dimetron")
    app.setStyle("Fusion")
    theme.load_fonts()
    return app


def _look_after(window: Window) -> None:
    """A driver that was there at the last start and is gone now may fail without a word."""
    if window.board.isVisible() and window.board.canvas is None:
        window.give_up_board(opengl_problem() or UNKNOWN)


def _opengl_problem(settings: Settings) -> str:
    """Asked anew unless the last start came to draw a frame: asking takes as long as a frame."""
    if settings.flag(_DRAWS, False):
        settings.set(_DRAWS, False)
        return ""
    return opengl_problem()


def run(
    project: Path | None = None,
    demo: str | None = None,
    framed: Callable[[], None] | None = None,
) -> int:
    """Open the window, with a project or a demo in it; returns the exit code.

    ``framed`` is called when the first frame is drawn. Raises NoDisplay.
    """
    problem = display_problem()
    if problem:
        raise NoDisplay(problem)
    app = application()
    settings = Settings()
    window = Window(settings, _opengl_problem(settings))
    window.board.first_frame.connect(lambda: settings.set(_DRAWS, True))
    if framed is not None:
        window.board.first_frame.connect(framed)
    window.show()
    QTimer.singleShot(_PATIENCE_MS, lambda: _look_after(window))
    Signals(window.end, window)
    if project is not None:
        window.files.open(project, window.files.offer_recovered)
    elif demo is not None:
        window.open_demo(demo, window.files.offer_recovered)
    else:
        QTimer.singleShot(0, window.files.offer_recovered)
    return app.exec()
