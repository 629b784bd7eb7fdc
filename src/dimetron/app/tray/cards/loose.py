"""The card of a loose picture: pinned to the tray, floating over a pane, or in its own window."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QVBoxLayout

from dimetron.app.kit.buttons import quiet
from dimetron.app.kit.iconset import icon
from dimetron.app.kit.theme import Theme
from dimetron.app.loose.view import LooseView
from dimetron.app.tray.card import Card, CardKind, Shelf
from dimetron.document import loosening
from dimetron.document.model import Item
from dimetron.document.parts import LoosePicture
from dimetron.geometry.views import View


class LooseCard(Card):
    pictured = True

    def __init__(self, shelf: Shelf, id_: str) -> None:
        super().__init__(shelf.session, id_)
        self.float_button = quiet("Let it float over a pane, or pin it to the tray")
        self.float_button.clicked.connect(lambda: shelf.wish_floating(self.id))
        self.window_button = quiet("Show it in a window of its own")
        self.window_button.clicked.connect(lambda: shelf.wish_window(self.id))
        self.row.addStretch(1)
        self.row.addWidget(self.float_button)
        self.row.addWidget(self.window_button)
        self.view = LooseView(shelf.session, shelf.pictures, id_)
        self.view.setFixedHeight(150)
        self.onto = QComboBox()
        self.onto.setToolTip("The view it becomes a drawing of")
        for view in View:
            self.onto.addItem(view.title, view)
        self.align = QPushButton("Place on")
        self.align.setToolTip("Make a drawing of it, on the plane of a view")
        self.align.clicked.connect(self._align)
        line = QHBoxLayout()
        line.addWidget(self.align)
        line.addWidget(self.onto, 1)
        column = QVBoxLayout(self.body)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.view)
        column.addLayout(line)

    def _align(self) -> None:
        item, view = self._item(), self.onto.currentData()
        if isinstance(item, LoosePicture):
            doc = loosening.aligned(self._session.committed, self.id, view)
            self._session.commit(doc, f"Place {item.name} on {view.title}")

    def noted(self, shelf: Shelf, item: Item, unfolded: bool) -> tuple[object, ...]:
        assert isinstance(item, LoosePicture)
        return (self._session.document.recipe(item),)

    def show_item(self, item: Item, chosen: bool, unfolded: bool, theme: Theme) -> None:
        assert isinstance(item, LoosePicture)
        self.mark(item, chosen, unfolded, theme)
        doc = self._session.document
        w, h = doc.size_px(item)
        floating = item.floating is not None
        self.badge.setText("Loose  ·  floating" if floating else "Loose  ·  pinned here")
        self.size_words.setText(f"{w} × {h} px" if doc.data(item) else "picture missing")
        ink = theme.chrome.ink
        self.float_button.setIcon(icon("pin" if floating else "picture-in-picture", ink, 17))
        self.window_button.setIcon(icon("app-window", ink, 17))
        self.view.theme = theme
        self.view.update()


CARD = CardKind(LoosePicture, LooseCard)
