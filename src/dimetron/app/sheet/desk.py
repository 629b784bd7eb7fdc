"""The desk that sheet tools work at: which sheet or drawing lies on it, and the session."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal

from dimetron.app.work.pictures import Pictures
from dimetron.app.work.session import Session
from dimetron.app.work.settings import Settings
from dimetron.app.work.worker import Worker
from dimetron.document import preparing
from dimetron.document.model import Document, Drawing, Sheet
from dimetron.geometry.units import format_length
from dimetron.imaging.frame import Frame

if TYPE_CHECKING:
    from dimetron.imaging.pyramid import Pyramid
    from dimetron.imaging.scanner import Scanner


class Desk(QObject):
    """``turned``: another sheet or drawing lies on the desk. ``refreshed``: a tool's own state.
    scanner: gives the one that stands beside it, when it is first asked for."""

    turned = Signal()
    refreshed = Signal()
    busy = Signal(str)

    def __init__(
        self,
        session: Session,
        pictures: Pictures,
        settings: Settings,
        scanner: Callable[[], Scanner],
        parent: QObject,
    ) -> None:
        super().__init__(parent)
        self.scanner = scanner
        self.session = session
        self.pictures = pictures
        self.settings = settings
        self._worker = Worker(self, threads=1)
        self._on_it: str | None = None
        self._asked = 0
        self._on_stop: Callable[[], None] | None = None
        session.changed.connect(self._follow)
        session.chosen_changed.connect(self._follow_choice)

    # What lies on it.

    @property
    def document(self) -> Document:
        return self.session.document

    @property
    def item(self) -> Sheet | Drawing | None:
        """The sheet on the desk, or one drawing by itself."""
        doc = self.document
        items: tuple[Sheet | Drawing, ...] = (*doc.sheets, *doc.drawings)
        for found in items:
            if found.id == self._on_it:
                return found
        return doc.sheets[-1] if doc.sheets else None

    @property
    def sheet(self) -> Sheet | None:
        item = self.item
        return self.document.sheet(item.sheet) if isinstance(item, Drawing) else item

    @property
    def frame(self) -> Frame | None:
        return self.document.frame(self.item) if self.item is not None else None

    @property
    def page(self) -> Pyramid | None:
        """The sheet's page as it came, once it is decoded."""
        sheet = self.sheet
        if sheet is None:
            return None
        return self.pictures.pyramids.get(self.document.recipe(sheet).raw)

    def lay(self, id_: str) -> None:
        """Lay a sheet, or one drawing by itself, on the desk."""
        if id_ != self._on_it:
            self._on_it = id_
            self.turned.emit()

    def step(self, by: int) -> None:
        """The next or previous sheet."""
        sheets = self.document.sheets
        if sheets and self.sheet is not None:
            now = next(i for i, s in enumerate(sheets) if s.id == self.sheet.id)
            self.lay(sheets[(now + by) % len(sheets)].id)

    def _follow(self) -> None:
        doc = self.document
        known = {s.id for s in doc.sheets} | {d.id for d in doc.drawings}
        if self._on_it not in known:
            self._on_it = doc.sheets[-1].id if doc.sheets else None
            self.turned.emit()

    def _follow_choice(self) -> None:
        """Choosing a card brings its sheet to the desk."""
        drawing = self.session.chosen_drawing
        if drawing is not None and self._on_it not in (drawing.sheet, drawing.id):
            self.lay(drawing.sheet)

    @property
    def chosen(self) -> Drawing | None:
        """The chosen drawing, if it is cut from the sheet on the desk."""
        drawing, sheet = self.session.chosen_drawing, self.sheet
        return drawing if drawing is not None and sheet and drawing.sheet == sheet.id else None

    # Work.

    def commit(self, document: Document, label: str) -> None:
        self.session.commit(document, label)

    def preview(self, document: Document) -> None:
        self.session.preview(document)

    def refresh(self) -> None:
        self.refreshed.emit()

    def length(self, px: float) -> str:
        """A distance on the prepared picture in real units, or in pixels if they are unknown."""
        scale = self.mm_per_px
        if scale is None:
            return f"{px:.0f} px"
        return format_length(px * scale, self.document.unit)

    @property
    def mm_per_px(self) -> float | None:
        """Real size of a pixel of what lies on the desk: a placed drawing knows it best."""
        item, sheet = self.item, self.sheet
        if isinstance(item, Drawing) and item.placed:
            return item.placement.mm_per_px
        return preparing.sheet_mm_per_px(self.document, sheet) if sheet is not None else None

    def work(
        self,
        words: str,
        job: Callable[[], Any],
        done: Callable[[Any], None],
        failure: str,
        on_stop: Callable[[], None] | None = None,
    ) -> None:
        """Run a job on a worker, saying so. Stop, or asking anew, drops its answer, unless the
        job itself is told to stop by ``on_stop`` and answers then."""
        self._asked += 1
        self._on_stop = on_stop
        mine = self._asked
        self.busy.emit(words)

        def finished(answer: Any) -> None:
            if mine == self._asked:
                self.busy.emit("")
                done(answer)

        def failed(error: Exception) -> None:
            if mine == self._asked:
                self.busy.emit("")
                self.session.warn(str(error) if isinstance(error, ValueError) else failure)

        self._worker.run(job, finished, failed)

    def stop(self) -> None:
        """Drop the answer of what is being worked out, or tell it to stop."""
        if self._on_stop is not None:
            self._on_stop()
            return
        self._asked += 1
        self.busy.emit("")

    @property
    def working(self) -> bool:
        return self._worker.busy

    def wait(self) -> None:
        self._worker.wait()
