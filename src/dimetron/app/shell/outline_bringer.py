"""Bringing outlines in from SVG and DXF: read on a worker, laid onto the plane of a view."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QFileDialog, QWidget

from dimetron.app.work.session import Session
from dimetron.app.work.settings import Settings
from dimetron.app.work.worker import Worker
from dimetron.document.model import Drawing
from dimetron.document.outline import Outline, with_outline
from dimetron.geometry.views import AnyView, View

if TYPE_CHECKING:
    from dimetron.formats.curves.reading import CurveFile

#: Brought in as outlines when they are dropped; an SVG is a sheet unless it is asked for.
DROPPED = (".dxf",)
#: So many oddities of a file are told.
_TOLD = 3


class OutlineBringer(QObject):
    """``busy``: says what goes on and how it can be stopped."""

    def __init__(
        self,
        session: Session,
        settings: Settings,
        busy: Callable[[str, Callable[[], None]], None],
        window: QWidget,
    ) -> None:
        super().__init__(window)
        self._session, self._settings = session, settings
        self._busy, self._window = busy, window
        self._worker = Worker(self, threads=1)
        self._asked = 0

    def stop(self) -> None:
        """What is being read is not brought in."""
        self._asked += 1
        self._busy("", self.stop)

    def ask(self) -> None:
        """Choose files and lay what is in them onto a view."""
        folder = self._settings.text("folders/outlines", "")
        names, _ = QFileDialog.getOpenFileNames(
            self._window, "Bring in outlines", folder, "Outlines (*.svg *.dxf)"
        )
        if names:
            self._settings.set("folders/outlines", str(Path(names[0]).parent))
            for name in names:
                self.bring(Path(name), None)

    def bring(self, path: Path, view: AnyView | None) -> None:
        """Onto a view; else onto that of what is chosen, else the front one."""
        self._asked += 1
        mine, onto = self._asked, view or self._view()
        self._busy(f"Reading {path.name}…", self.stop)

        def finished(read: CurveFile) -> None:
            if mine == self._asked:
                self._busy("", self.stop)
            self._take(read, onto)

        def failed(error: Exception) -> None:
            self._busy("", self.stop)
            self._session.warn(str(error))

        self._worker.run(partial(_read, path), finished, failed)

    def _view(self) -> AnyView:
        chosen = self._session.chosen
        item = self._session.document.item(chosen[0]) if chosen else None
        return item.view if isinstance(item, Drawing | Outline) else View.FRONT

    def _take(self, read: CurveFile, view: AnyView) -> None:
        doc, made = self._session.committed, []
        for drawn in read.paths:
            name = drawn.name or drawn.layer or Path(read.name).stem
            doc, id_ = with_outline(doc, drawn.path, view, name)
            made.append(id_)
        self._session.commit(doc, f"Bring in {read.name}")
        self._session.choose(tuple(made))
        if read.odd:
            more = len(read.odd) - _TOLD
            words = [*read.odd[:_TOLD], *([f"and {more} more"] if more > 0 else [])]
            self._session.tell(f"{read.name}: {', '.join(words)}.")


def _read(path: Path) -> CurveFile:
    # The window starts without the readers.
    from dimetron.formats.curves.reading import read_curves

    return read_curves(path)
