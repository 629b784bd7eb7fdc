"""The Hand off station's panel: what is exported, in which unit and with which axis up."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QFormLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from dimetron.app.kit.buttons import choice
from dimetron.app.work.session import Session
from dimetron.app.work.settings import Settings
from dimetron.app.work.worker import Worker
from dimetron.document.checks import Places
from dimetron.document.model import Document
from dimetron.formats.format import written_titles

#: What lengths in files may be, with their titles.
UNIT_TITLES = (
    ("mm", "millimetres"),
    ("cm", "centimetres"),
    ("m", "metres"),
    ("in", "inches"),
    ("ft", "feet"),
)


class HandOff(QWidget):
    def __init__(
        self, session: Session, settings: Settings, landmarks: Callable[[Document], Places]
    ) -> None:
        super().__init__()
        self._landmarks = landmarks
        self._session = session
        self._settings = settings
        self._worker = Worker(self, threads=1)
        self.exported: list[Path] = []
        self.kind = choice(())
        self.unit = choice(UNIT_TITLES)
        self.up = choice((("z", "Z up"), ("y", "Y up")))
        self.planes = QCheckBox("with the drawings")
        self.planes.setToolTip("Drawings go along as textured planes at their place")
        self.go = QPushButton("Export…")
        self.go.setProperty("main", True)
        self.go.setToolTip("Choose where the file goes and write it")
        self.go.clicked.connect(self.ask)
        self.kit = QPushButton("The set-up as a kit…")
        self.kit.setToolTip(
            "A folder with meshes, drawings of true size, where each stands, and a report"
        )
        self.kit.clicked.connect(self.ask_kit)
        self.report = QPushButton("Report…")
        self.report.setToolTip("A PDF of what the meshes miss, with sizes, health and notes")
        self.report.clicked.connect(self.ask_report)
        form = QFormLayout()
        form.setContentsMargins(0, 0, 0, 0)
        form.setVerticalSpacing(5)
        for name, field in (("format", self.kind), ("unit", self.unit), ("axis", self.up)):
            field.setAccessibleName(name)
            form.addRow(name, field)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 4)
        box.addLayout(form)
        box.addWidget(self.planes)
        box.addWidget(self.go)
        box.addWidget(self.kit)
        box.addWidget(self.report)

    def showEvent(self, event: QShowEvent) -> None:
        """The formats are looked up when they are first seen: that takes a while."""
        if not self.kind.count():
            for ending in written_titles():
                self.kind.addItem("glTF" if ending == "gltf" else ending.upper(), ending)
            self._restore()
        super().showEvent(event)

    def _restore(self) -> None:
        for name, field in (("kind", self.kind), ("unit", self.unit), ("up", self.up)):
            usual = "obj" if name == "kind" else ""
            at = field.findData(self._settings.text(f"handoff/{name}", usual))
            field.setCurrentIndex(max(0, at))
        self.planes.setChecked(self._settings.flag("handoff/planes", False))

    def _remember(self) -> None:
        for name, field in (("kind", self.kind), ("unit", self.unit), ("up", self.up)):
            self._settings.set(f"handoff/{name}", field.currentData())
        self._settings.set("handoff/planes", self.planes.isChecked())

    def ask(self) -> None:
        kind = self.kind.currentData()
        name, _ = QFileDialog.getSaveFileName(
            self, "Export", f"{self._stem()}.{kind}", f"{written_titles()[kind]} (*.{kind})"
        )
        if name:
            path = Path(name)
            self.write(path if path.suffix.lower() == f".{kind}" else Path(f"{name}.{kind}"))

    def ask_kit(self) -> None:
        """Choose a folder for the kit."""
        name, _ = QFileDialog.getSaveFileName(self, "A folder for the kit", f"{self._stem()}-kit")
        if name:
            self.write_kit(Path(name))

    def ask_report(self) -> None:
        """Choose a file for the report."""
        usual = f"{self._stem()}-report.pdf"
        name, _ = QFileDialog.getSaveFileName(self, "Report", usual, "PDF (*.pdf)")
        if name:
            path = Path(name)
            self.write_report(path if path.suffix.lower() == ".pdf" else Path(f"{name}.pdf"))

    def _stem(self) -> Path:
        path = self._session.path
        return path.with_suffix("") if path else Path("Untitled")

    def write_kit(self, folder: Path) -> None:
        """Put the kit into a folder, on a worker."""
        document, landmarks = self._session.committed, self._landmarks(self._session.committed)

        def work() -> str:
            from dimetron.formats.kit.kit import kit_of, write_kit  # only a kit needs it

            files = kit_of(document, folder.name, landmarks)
            write_kit(files, folder)
            return f"The kit is in {folder.name}: {len(files)} files."

        self._write(work, folder)

    def write_report(self, path: Path) -> None:
        """Write the report as a PDF, on a worker."""
        document, landmarks = self._session.committed, self._landmarks(self._session.committed)

        def work() -> str:
            from dimetron.document.atomic import write_bytes
            from dimetron.formats.report.pages import report_of  # only a report needs it

            write_bytes(path, report_of(document, path.stem, landmarks))
            return f"The report is in {path.name}."

        self._write(work, path)

    def _write(self, work: Callable[[], str], path: Path) -> None:
        buttons = self.kit, self.report
        for button in buttons:
            button.setEnabled(False)

        def done(words: str) -> None:
            for button in buttons:
                button.setEnabled(True)
            self.exported = [path]
            self._session.tell(words)
            self._session.changed.emit()

        def failed(error: Exception) -> None:
            for button in buttons:
                button.setEnabled(True)
            self._session.warn(str(error))

        self._worker.run(work, done, failed)

    def write(self, path: Path) -> None:
        """Export on a worker with what is chosen in the panel."""
        self._remember()
        document = self._session.committed
        what = ("meshes", "planes") if self.planes.isChecked() else ("meshes",)
        unit, up = self.unit.currentData(), self.up.currentData()
        self.go.setEnabled(False)

        def work() -> list[Path]:
            from dimetron.formats.export import export  # only exporting needs it

            return export(document, path, what=what, unit=unit, up=up)

        def done(files: list[Path]) -> None:
            self.go.setEnabled(True)
            self.exported = files
            more = f" and {len(files) - 1} more files" if len(files) > 1 else ""
            self._session.tell(f"Exported {path.name}{more}.")
            self._session.changed.emit()

        def failed(error: Exception) -> None:
            self.go.setEnabled(True)
            self._session.warn(str(error))

        self._worker.run(work, done, failed)
