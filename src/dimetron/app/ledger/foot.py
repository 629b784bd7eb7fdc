"""What stands below the pages about marks: known lengths to type, marks from and into files."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QComboBox, QFileDialog, QHBoxLayout, QLabel, QWidget

from dimetron.app.kit.buttons import plain_button
from dimetron.app.kit.fields import length_edit
from dimetron.app.ledger.pages.lengths import every_length
from dimetron.app.work.session import Session
from dimetron.document import registering
from dimetron.geometry.views import AXIS_NAMES
from dimetron.registration.problem import Length, RegistrationError

_CSV = "Marks (*.csv)"
_ALONG = (("straight", None), ("along X", 0), ("along Y", 1), ("along Z", 2))


class MarksFoot(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.a, self.b, self.along = QComboBox(), QComboBox(), QComboBox()
        for box, hint in ((self.a, "From"), (self.b, "To"), (self.along, "How it counts")):
            box.setToolTip(hint)
            box.setAccessibleName(hint)
            box.setMinimumWidth(96)
        for title, axis in _ALONG:
            self.along.addItem(title, axis)
        self.length = length_edit(lambda: self._session.document.unit)
        self.length.setAccessibleName("Known length")
        self.length.setToolTip("The real distance between the two; Enter adds it")
        self.length.setPlaceholderText("412 mm")
        self.length.setFixedWidth(110)
        self.length.entered.connect(self._add_length)
        self.length.refused.connect(self._refused)
        self.known = QLabel()
        self.known.setProperty("class", "small soft")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        words = QLabel("Known length")
        words.setProperty("class", "small")
        for part in (words, self.a, self.b, self.along, self.length):
            row.addWidget(part)
        row.addWidget(self.known, 1)
        hint = "Marks from a file with landmark,view,x_px,y_px"
        self.bring = plain_button("Marks from CSV…", hint, self._ask_bring)
        hint = "All marks as landmark,view,x_px,y_px"
        self.save = plain_button("Save CSV…", hint, self._ask_save)
        for button in (self.bring, self.save):
            row.addWidget(button)

    def _refused(self, words: str) -> None:
        if words:
            self.known.setText(words)

    def refresh(self) -> None:
        """Bring landmarks and lengths up to date."""
        doc = self._session.document
        names = [m.name for m in doc.landmarks]
        for number, box in enumerate((self.a, self.b)):
            if [box.itemText(i) for i in range(box.count())] != names:
                now = box.currentText()
                box.clear()
                box.addItems(names)
                known = box.findText(now) if now else min(number, len(names) - 1)
                box.setCurrentIndex(max(0, known))
        count = len(every_length(doc))
        said = {0: "no known length yet", 1: "1 known length"}
        self.known.setText(said.get(count, f"{count} known lengths"))

    def _add_length(self, mm: float) -> None:
        a, b, axis = self.a.currentText(), self.b.currentText(), self.along.currentData()
        try:
            length = Length(a, b, mm, axis)
            doc = registering.with_length(self._session.committed, length)
        except RegistrationError as error:
            self.length.refuse(str(error))
            return
        along = "" if axis is None else f" along {AXIS_NAMES[axis]}"
        self._session.commit(doc, f"Known length {a} to {b}{along}")
        self.length.set_value(None)

    def _ask_bring(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Marks from CSV", "", _CSV)
        if name:
            self.bring_marks(Path(name))

    def bring_marks(self, path: Path) -> None:
        """Add the marks of a CSV file; those that are there move."""
        from dimetron.formats.marks import MarksError, read_marks
        from dimetron.imaging.errors import PictureError
        from dimetron.imaging.files import file_bytes

        doc = self._session.committed
        views = {d.view.key: d.id for d in reversed(doc.planes)}
        try:
            sizes = {view: doc.size_px(doc.drawing(id_)) for view, id_ in views.items()}
            marks = read_marks(file_bytes(path), path.name, sizes)
        except (MarksError, PictureError) as error:
            self._session.warn(str(error))
            return
        for mark in marks:
            doc = registering.marked(doc, mark.landmark, views[mark.view], mark.px)
        self._session.commit(doc, f"Marks from {path.name}")
        self._session.tell(f"Brought in {len(marks)} marks.")

    def _ask_save(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save marks", "marks.csv", _CSV)
        if name:
            self.save_marks(Path(name))

    def save_marks(self, path: Path) -> None:
        """Write all marks as CSV."""
        from dimetron.document.atomic import WriteError, write_bytes
        from dimetron.formats.marks import Mark, written_marks

        doc = self._session.committed
        views = {d.id: d.view.key for d in doc.planes}
        marks = [Mark(m.landmark, views[m.picture], m.px) for m in doc.sightings]
        try:
            write_bytes(path, written_marks(marks))
        except WriteError as error:
            self._session.warn(str(error))
            return
        self._session.tell(f"Saved {len(marks)} marks in {path.name}.")
