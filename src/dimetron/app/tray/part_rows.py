"""On a mesh's card: selections that are kept under a name, and faces that are hidden."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QInputDialog,
    QLabel,
    QSizePolicy,
    QToolButton,
    QWidget,
)

from dimetron.app.tray.in_rows import SMALL, beside, in_rows
from dimetron.app.work.session import Session
from dimetron.counting import counted
from dimetron.document.model import MeshObject, with_item
from dimetron.mesh import select
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.hiding import hidden_faces
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.named import named, names_of, with_named, without_named
from dimetron.mesh.operation import by_name
from dimetron.mesh.select import Kind

_SIGN_WIDTH = 22


class PartRows(QWidget):
    """What is kept and forgotten is a step of history."""

    def __init__(self, session: Session, id_: str) -> None:
        super().__init__()
        self._session, self._id = session, id_
        self.names = QComboBox()
        self.names.setAccessibleName("Kept selections")
        self.names.setToolTip("Select it; Shift adds it to what is selected")
        self.names.setPlaceholderText("none")
        # The tray does not become wider for names.
        self.names.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.names.activated.connect(self._take_up)
        self.keep = _button("+", "Keep what is selected under a name", self._keep)
        self.forget = _button("−", "Forget the name shown", self._forget)
        for button in (self.keep, self.forget):
            button.setFixedWidth(_SIGN_WIDTH)
        self.hidden = QLabel()
        self.show_hidden = _button("show", "Show the hidden faces", self._show_hidden)
        kept = beside(self.names, self.keep, self.forget, wide=self.names)
        hidden = beside(self.hidden, self.show_hidden, wide=self.hidden)
        self._hidden_row = in_rows(self, (("kept", kept), ("hidden", hidden)))[1]

    def _item(self) -> MeshObject | None:
        item = self._session.document.item(self._id)
        return item if isinstance(item, MeshObject) else None

    def _change(self, mesh: Mesh, label: str) -> None:
        doc = with_item(self._session.committed, self._id, mesh=mesh)
        self._session.commit(doc, label)

    def _take_up(self, number: int) -> None:
        item = self._item()
        if item is None:
            return
        found = named(item.mesh, self.names.itemText(number))
        part = self._session.part if self._session.chosen == (self._id,) else found
        shift = QApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier
        indices = found.indices
        if shift and part.kind is found.kind:
            indices = select.combined(part.indices, indices, "add")
        self._session.choose((self._id,))
        self._session.select(found.kind, indices)

    def _keep(self) -> None:
        item, part = self._item(), self._session.part
        if item is None:
            return
        known = names_of(item.mesh)
        usual = next(
            words
            for number in range(1, len(known) + 2)
            if (words := f"{part.kind.many} {number}") not in known
        )
        name, said = QInputDialog.getText(self, "Keep what is selected", "Name:", text=usual)
        if not said:
            return
        words = " ".join(name.split())
        try:
            mesh = with_named(item.mesh, words, part)
        except MeshError as error:
            self._session.warn(str(error))
            return
        self._change(mesh, f"Keep the selection {words}")
        self.names.setCurrentText(words)
        self._allow()

    def _forget(self) -> None:
        item, name = self._item(), self.names.currentText()
        if item is not None and name:
            self._change(without_named(item.mesh, name), f"Forget the selection {name}")

    def _show_hidden(self) -> None:
        item = self._item()
        if item is not None:
            self._change(by_name("show-faces")(item.mesh).mesh, "Show faces")

    # Keeping up.

    def _allow(self) -> None:
        mine = self._session.chosen == (self._id,)
        parts = self._session.kind is not Kind.WHOLE and len(self._session.selected) > 0
        self.keep.setEnabled(mine and parts)
        self.forget.setEnabled(bool(self.names.currentText()))

    def show_item(self, item: MeshObject) -> None:
        """Bring the rows up to date."""
        found, now = names_of(item.mesh), self.names.currentText()
        if found != [self.names.itemText(i) for i in range(self.names.count())]:
            self.names.clear()
            self.names.addItems(found)
            self.names.setCurrentIndex(self.names.findText(now))
        hidden = hidden_faces(item.mesh)
        for widget in self._hidden_row:
            widget.setVisible(hidden is not None)
        if hidden is not None:
            self.hidden.setText(counted(int(hidden.sum()), "face", "faces"))
        self._allow()


def _button(text: str, hint: str, run: object) -> QToolButton:
    button = QToolButton()
    button.setText(text)
    button.setStyleSheet(SMALL)
    button.setToolTip(hint)
    button.setAccessibleName(hint)
    button.clicked.connect(run)
    return button
