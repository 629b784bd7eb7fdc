"""The tray: a column of cards, one for each drawing and mesh."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QFrame, QLabel, QScrollArea, QVBoxLayout, QWidget

from dimetron.app.drawing_card import DrawingCard
from dimetron.app.mesh_card import MeshCard
from dimetron.app.pictures import Pictures, thumbnail
from dimetron.app.session import Session
from dimetron.app.theme import Theme
from dimetron.document.model import Drawing, MeshObject
from dimetron.imaging.recipe import Recipe

WIDTH = 226
_THUMB_W, _THUMB_H = 50, 44


class Tray(QWidget):
    def __init__(self, session: Session, pictures: Pictures, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("tray")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(WIDTH)
        self._session = session
        self._pictures = pictures
        self._theme = theme
        self.cards: dict[str, DrawingCard | MeshCard] = {}
        self._shown: dict[str, tuple[object, ...]] = {}
        self._empty = QLabel("Cards of your drawings and meshes will lie here.")
        self._empty.setWordWrap(True)
        self._empty.setProperty("class", "soft")
        inner = QWidget()
        inner.setObjectName("cards")
        self._column = QVBoxLayout(inner)
        self._column.setContentsMargins(8, 8, 8, 8)
        self._column.setSpacing(8)
        self._column.addWidget(self._empty)
        self._column.addStretch(1)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setFrameShape(QFrame.Shape.NoFrame)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setWidget(inner)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(self._scroll)
        session.changed.connect(self.refresh)
        session.changing.connect(self.refresh)
        session.chosen_changed.connect(self.refresh)
        pictures.ready.connect(self._thumb_ready)

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self._shown.clear()
        self.refresh()

    def refresh(self) -> None:
        """Cards follow the document; only those whose item changed are written again."""
        doc = self._session.document
        items: tuple[Drawing | MeshObject, ...] = (*doc.drawings, *doc.meshes)
        for gone in [id_ for id_ in self.cards if doc.item(id_) is None]:
            card = self.cards.pop(gone)
            self._shown.pop(gone, None)
            self._column.removeWidget(card)
            card.hide()
            card.deleteLater()
        for place, item in enumerate(items):
            card = self.cards.get(item.id) or self._made(item)
            if self._column.indexOf(card) != place:
                self._column.insertWidget(place, card)
            self._write(card, item)
        self._empty.setVisible(not items)

    def _made(self, item: Drawing | MeshObject) -> DrawingCard | MeshCard:
        kind = DrawingCard if isinstance(item, Drawing) else MeshCard
        card = kind(self._session, item.id)
        card.clicked.connect(self._clicked)
        self.cards[item.id] = card
        return card

    def _write(self, card: DrawingCard | MeshCard, item: Drawing | MeshObject) -> None:
        chosen = item.id in self._session.chosen
        unfolded = chosen and len(self._session.chosen) == 1
        doc = self._session.document
        recipe = doc.recipe(item) if isinstance(item, Drawing) else None
        key = (item, chosen, unfolded, doc.unit, recipe)
        if self._shown.get(item.id) == key:
            return
        self._shown[item.id] = key
        if isinstance(card, DrawingCard):
            assert isinstance(item, Drawing)
            self._show_thumb(item)
            card.refresh(item, chosen, unfolded, self._theme)
        else:
            assert isinstance(item, MeshObject)
            card.refresh(item, chosen, unfolded, self._theme)

    def _clicked(self, id_: str, adding: bool) -> None:
        chosen = self._session.chosen
        if adding:
            self._session.choose(
                tuple(c for c in chosen if c != id_) if id_ in chosen else (*chosen, id_)
            )
        else:
            self._session.choose((id_,))

    def _thumb_ready(self, recipe: Recipe) -> None:
        doc = self._session.document
        for drawing in doc.drawings:
            if doc.recipe(drawing) == recipe:
                self._show_thumb(drawing)

    def _show_thumb(self, drawing: Drawing) -> None:
        card = self.cards.get(drawing.id)
        pyramid = self._pictures.pyramids.get(self._session.document.recipe(drawing))
        if isinstance(card, DrawingCard) and pyramid is not None:
            image = thumbnail(pyramid).scaled(
                _THUMB_W * 2,
                _THUMB_H * 2,
                Qt.AspectRatioMode.KeepAspectRatio,
                Qt.TransformationMode.SmoothTransformation,
            )
            pixmap = QPixmap.fromImage(image)
            pixmap.setDevicePixelRatio(2)
            card.show_thumb(pixmap)
