"""The card of a version: of which mesh, and back to it."""

from __future__ import annotations

from PySide6.QtWidgets import QPushButton

from dimetron.app.kit.iconset import icon
from dimetron.app.kit.theme import Theme
from dimetron.app.tray.card import Card, CardKind
from dimetron.app.work.session import Session
from dimetron.counting import counted
from dimetron.document.model import Item
from dimetron.document.version import Version, returned


class VersionCard(Card):
    def __init__(self, session: Session, id_: str) -> None:
        super().__init__(session, id_)
        for button in (self.show_button, self.hold_button, self.alone_button, self.keep_button):
            button.hide()
        self.back = QPushButton("Return to it")
        self.back.setToolTip("The mesh becomes what it was in this version; undo takes it back")
        self.back.setStyleSheet("padding: 3px 8px; font-size: 12px;")
        self.back.clicked.connect(self._return)
        self.row.addWidget(self.back)
        self.row.addStretch(1)

    def _return(self) -> None:
        item = self._item()
        if isinstance(item, Version):
            self._session.commit(
                returned(self._session.committed, self.id), f"Return to {item.name}"
            )

    def show_item(self, item: Item, chosen: bool, unfolded: bool, theme: Theme) -> None:
        assert isinstance(item, Version)
        self.mark(item, chosen, False, theme)
        of = self._session.document.item(item.of)
        self.badge.setText("Version" if of is None else f"Version of {of.name}")
        count = item.mesh.topology.face_count
        self.size_words.setText(counted(count, "face", "faces"))
        self.thumb.setPixmap(icon("stack-2", theme.chrome.soft_ink, 30).pixmap(30, 30))


CARD = CardKind(Version, lambda shelf, id_: VersionCard(shelf.session, id_))
