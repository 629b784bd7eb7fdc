"""Scanning a sheet: what lies on the glass is previewed and scanned row by row in the view."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QObject, Signal

from dimetron.app.kit.instrument import Action, Option
from dimetron.app.sheet.desk import Desk
from dimetron.app.sheet.tool import SheetTool

if TYPE_CHECKING:
    from dimetron.document.model import Source
    from dimetron.imaging.pyramid import Pyramid
    from dimetron.imaging.read import Pixels
    from dimetron.imaging.scanner import Scanner

_COLOURS = (("colour", "colour"), ("grey", "grey"))


class _Told(QObject):
    """Carries rows from the worker to the interface thread."""

    rows = Signal(object, int)


class ScanSheet(SheetTool):
    shortcut = "Shift+P"
    name = "scan"
    title = "Scan"
    icon = "photo-scan"
    hint = "Lay a sheet on the glass, look at a preview, then scan it"

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        settings = desk.settings
        self._paper = settings.text("scan/paper", "A3")
        self._dpi = settings.text("scan/dpi", "200")
        self._colour = settings.text("scan/colour", "colour")
        self._original = ""
        self._seen: np.ndarray | None = None
        self._running = False
        self._stop = False
        self._told = _Told(desk)
        self._told.rows.connect(self._show_rows)
        self._device: Scanner | None = None

    def words(self) -> str:
        return "The carriage is on its way…" if self._running else self.hint

    @property
    def _scanner(self) -> Scanner:
        if self._device is None:
            self._device = self.desk.scanner()
            self._original = self._original or self._device.originals[0][0]
        return self._device

    # What can be chosen and done.

    def options(self) -> Sequence[Option]:
        from dimetron.imaging.scanner import PAPERS

        scanner = self._scanner
        papers = tuple((p.name, p.name) for p in PAPERS)
        steps = tuple((str(d), f"{d} dpi") for d in scanner.resolutions)
        originals = scanner.originals
        return (
            Option("On the glass", originals, self._original, self._choose_original, listed=True),
            Option("Paper", papers, self._paper, self._choose_paper, listed=True),
            Option("Resolution", steps, self._dpi, self._choose_dpi, listed=True),
            Option("Scan in", _COLOURS, self._colour, self._choose_colour),
        )

    def _choose_original(self, value: str) -> None:
        self._original, self._seen = value, None
        self.desk.refresh()

    def _choose_paper(self, value: str) -> None:
        self._paper = value
        self._remember("paper", value)

    def _choose_dpi(self, value: str) -> None:
        self._dpi = value
        self._remember("dpi", value)

    def _choose_colour(self, value: str) -> None:
        self._colour = value
        self._remember("colour", value)

    def _remember(self, key: str, value: str) -> None:
        self.desk.settings.set(f"scan/{key}", value)
        self._seen = None
        self.desk.refresh()

    def actions(self) -> Sequence[Action]:
        if self._running:
            return (
                Action("stop", "Stop", self.stop, "Stop the scan; nothing is kept", True, True),
            )
        return (
            Action("preview", "Preview", self.preview, "Scan it coarsely, to see how it lies"),
            Action("scan", "Scan", self.scan, "Scan it and lay it on the desk", True, True),
        )

    def told(self) -> str:
        return f"{self._scanner.name}."

    def abandon(self) -> bool:
        running = self._running
        self.stop()
        self._seen = None
        return running

    def stop(self) -> None:
        self._stop = True

    # Scanning.

    def preview(self) -> None:
        from dimetron.imaging.scanner import PREVIEW_DPI

        self._run(PREVIEW_DPI, "Previewing…", lambda pixels: None)

    def scan(self) -> None:
        self._run(int(self._dpi), "Scanning…", self._keep)

    def _run(self, dpi: int, words: str, done: Callable[[Pixels], None]) -> None:
        from dimetron.imaging.scanner import PAPERS, ScanSettings

        paper = next((p for p in PAPERS if p.name == self._paper), PAPERS[0])
        settings = ScanSettings(self._original, paper, dpi, self._colour == "colour")
        scanner = self._scanner
        self._running, self._stop, self._seen = True, False, None

        def progress(pixels: np.ndarray, rows: int) -> bool:
            # A small copy of what is there so far, for the eye.
            step = max(1, pixels.shape[0] // 500)
            self._told.rows.emit(pixels[::step, ::step].copy(), round(100 * rows / len(pixels)))
            return not self._stop

        def finished(pixels: np.ndarray | None) -> None:
            self._running = False
            if pixels is None:
                self._seen = None
                self.desk.session.tell("The scan was stopped; nothing was kept.")
            else:
                done(pixels)
            self.desk.refresh()

        def job() -> Pixels | None:
            return scanner.scan(settings, progress)

        self.desk.work(words, job, finished, "The scanner did not answer; try again.", self.stop)
        self.desk.refresh()

    def _show_rows(self, pixels: np.ndarray, percent: int) -> None:
        if self._running:
            self._seen = pixels
            self.desk.busy.emit(f"Scanning… {percent} %")
            self.desk.refresh()

    def _keep(self, pixels: np.ndarray) -> None:
        """The scan becomes a sheet of its own, as a PNG with its resolution."""
        dpi, original = int(self._dpi), self._original

        def job() -> tuple[Source, Pyramid]:
            from dimetron.document.model import source_from
            from dimetron.imaging.prepare import image_of
            from dimetron.imaging.pyramid import build

            image = image_of(pixels)
            out = io.BytesIO()
            image.save(out, "PNG", compress_level=2, dpi=(dpi, dpi))
            name = f"scan of {original.removesuffix('-sheet')}.png"
            source = source_from(out.getvalue(), name, "png", image.size, 25.4 / dpi)
            return source, build(image)

        def done(answer: tuple[Source, Pyramid]) -> None:
            from dimetron.document import edits

            source, pyramid = answer
            doc, id_ = edits.with_sheet(self.desk.session.committed, source)
            self.desk.pictures.give(doc.recipe(doc.sheet(id_)).raw, pyramid)
            self._seen = None
            self.desk.commit(doc, "Scan a sheet")
            self.desk.lay(id_)

        self.desk.work("Keeping the scan…", job, done, "The scan could not be kept.")

    def glass(self) -> np.ndarray | None:
        """What the scanner has seen so far, (h, w, c)."""
        return self._seen
