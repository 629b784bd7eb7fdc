"""The tray: a column of cards in their order, with the groups they lie in."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import cache

from PySide6.QtCore import QPoint, Qt, QTimer, Signal
from PySide6.QtGui import (
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QPixmap,
)
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from dimetron import standing
from dimetron.app.kit.dropped import local_files
from dimetron.app.kit.fields import drop_typed
from dimetron.app.kit.theme import Theme
from dimetron.app.tray import carrying
from dimetron.app.tray.card import Card, CardKind, Shelf
from dimetron.app.tray.group_header import GroupHeader
from dimetron.app.work import actions
from dimetron.app.work.pictures import Pictures, thumbnail
from dimetron.app.work.session import Session
from dimetron.document import groups
from dimetron.document.model import Document, Item, Pictured
from dimetron.document.parts import Group
from dimetron.imaging.recipe import Recipe

WIDTH = 226
_THUMB_W, _THUMB_H = 50, 44


#: So many cards are made at once whatever it takes; more of them in turns of that length.
_MADE_AT_ONCE, _MAKING_S, _PAUSE_MS = 12, 0.01, 5


class Tray(QWidget):
    float_wanted = Signal(str)
    window_wanted = Signal(str)
    pictures_dropped = Signal(object)  # paths

    def __init__(self, session: Session, pictures: Pictures, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("tray")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(WIDTH)
        self.setAcceptDrops(True)
        self.session = session
        self.pictures = pictures
        self._theme = theme
        self.page = 0
        #: By how much the marks of a drawing miss, in mm; None if nothing is marked in it.
        self.mismatch: Callable[[str], float | None] = lambda _: None
        self.cards: dict[str, Card] = {}
        self.headers: dict[str, GroupHeader] = {}
        #: Cards that stay unfolded, chosen or not.
        self._kept: frozenset[str] = frozenset()
        self._shown: dict[str, tuple[object, ...]] = {}
        self._empty = QLabel(
            "Cards of your drawings and meshes will lie here. Drop a picture here that is not to "
            "be aligned."
        )
        self._empty.setWordWrap(True)
        self._empty.setProperty("class", "soft")
        self._inner = QWidget()
        self._inner.setObjectName("cards")
        self._column = QVBoxLayout(self._inner)
        self._column.setContentsMargins(8, 8, 8, 8)
        self._column.setSpacing(8)
        self._column.addWidget(self._empty)
        self._column.addStretch(1)
        self._line = QFrame(self._inner)
        self._line.setStyleSheet("background: palette(highlight);")
        self._line.hide()
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setFrameShape(QFrame.Shape.NoFrame)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setWidget(self._inner)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(0)
        outer.addWidget(self._scroll, 1)
        outer.addWidget(self._made_foot())
        self._more = QTimer(self)
        self._more.setSingleShot(True)
        self._more.setInterval(_PAUSE_MS)
        self._in_turns = False
        self._more.timeout.connect(lambda: self._lay_out(only_new=True))
        session.changed.connect(self.refresh)
        session.changing.connect(self.refresh)
        session.chosen_changed.connect(self.refresh)
        session.looking_over.ready.connect(self.refresh)
        pictures.ready.connect(self._thumb_ready)

    def _made_foot(self) -> QWidget:
        """What is hidden, and the way to find it again."""
        self.foot = QWidget()
        self.foot.setObjectName("trayFoot")
        self.foot.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.foot_words = QLabel()
        self.foot_words.setProperty("class", "small")
        self.show_all = QPushButton("Show all")
        self.show_all.setToolTip("Show every card and group")
        self.show_all.clicked.connect(lambda: actions.show_everything(self.session))
        row = QHBoxLayout(self.foot)
        row.setContentsMargins(10, 5, 8, 5)
        row.addWidget(self.foot_words, 1)
        row.addWidget(self.show_all)
        self.foot.hide()
        return self.foot

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self._shown.clear()
        self.refresh()

    def refresh(self) -> None:
        """Cards follow the document; only those whose item changed are written again."""
        self._lay_out(only_new=False)

    def _lay_out(self, only_new: bool) -> None:
        # Each card that appears would have the whole column laid out anew.
        self._column.setEnabled(False)
        try:
            self._fill(only_new)
        finally:
            self._column.setEnabled(True)
            self._column.activate()

    def _fill(self, only_new: bool) -> None:
        doc = self.session.document
        parts = groups.tray_order(doc)
        self._drop_gone({part.id for part in parts})
        missing = [part for part in parts if not self._made_already(part)]
        self._in_turns = len(missing) > (0 if self._in_turns else _MADE_AT_ONCE)
        ends, waiting = time.monotonic() + _MAKING_S, self._more.isActive()
        for place, part in enumerate(parts):
            if self._made_already(part):
                if only_new:
                    continue
            else:
                late = part is not missing[0] and time.monotonic() > ends
                if self._in_turns and (waiting or late):
                    # The window goes on meanwhile.
                    if not waiting:
                        self._more.start()
                    break
            widget = self._widget(part)
            if self._column.indexOf(widget) != place:
                self._column.insertWidget(place, widget)
            if isinstance(part, Group):
                self._write_header(part)
            else:
                group = doc.group(part.group)
                seen = group is None or not group.folded
                if widget.isHidden() is seen:
                    widget.setVisible(seen)
                self._write(part)
        self._empty.setVisible(not parts)
        self._show_foot(doc)

    def _made_already(self, part: Item | Group) -> bool:
        return part.id in self.cards or part.id in self.headers

    def _drop_gone(self, there: set[str]) -> None:
        kinds: tuple[dict[str, Card] | dict[str, GroupHeader], ...] = (self.cards, self.headers)
        for known in kinds:
            for gone in [id_ for id_ in known if id_ not in there or self._of_other_kind(id_)]:
                widget = known.pop(gone)
                self._shown.pop(gone, None)
                self._column.removeWidget(widget)
                drop_typed(widget)
                widget.hide()
                widget.deleteLater()

    def _of_other_kind(self, id_: str) -> bool:
        """Whether a drawing became a loose picture, or the other way round."""
        card, item = self.cards.get(id_), self.session.document.item(id_)
        return card is not None and item is not None and type(item) is not card.of_class

    def _widget(self, part: Item | Group) -> QWidget:
        if isinstance(part, Group):
            header = self.headers.get(part.id)
            if header is None:
                header = self.headers[part.id] = GroupHeader(self.session, part.id)
                header.clicked.connect(self._group_clicked)
            return header
        return self.cards.get(part.id) or self._made(part)

    def _made(self, item: Item) -> Card:
        card = _cards()[type(item)](self, item.id)
        card.clicked.connect(self._clicked)
        card.kept.connect(self._keep)
        self.cards[item.id] = card
        card.of_class = type(item)
        return card

    # What cards ask for.

    def _keep(self, id_: str, on: bool) -> None:
        self._kept = self._kept | {id_} if on else self._kept - {id_}
        self._shown.pop(id_, None)
        self.refresh()

    def turn_page(self, page: int) -> None:
        """Open that page of every drawing's card."""
        self.page = page
        self._shown.clear()
        self.refresh()

    def wish_floating(self, id_: str) -> None:
        self.float_wanted.emit(id_)

    def wish_window(self, id_: str) -> None:
        self.window_wanted.emit(id_)

    def _write_header(self, group: Group) -> None:
        doc = self.session.document
        ids = {item.id for item in groups.members(doc, group.id)}
        alone = bool(ids) and ids <= set(doc.solo)
        key = (group, alone, len(ids))
        if self._shown.get(group.id) != key:
            self._shown[group.id] = key
            self.headers[group.id].refresh(group, alone, self._theme)

    def _write(self, item: Item) -> None:
        chosen = item.id in self.session.chosen
        unfolded = (chosen and len(self.session.chosen) == 1) or item.id in self._kept
        doc = self.session.document
        card = self.cards[item.id]
        beside = card.noted(self, item, unfolded)
        key = (item, chosen, unfolded, doc.unit, item.id in doc.solo, beside)
        if self._shown.get(item.id) == key:
            return
        self._shown[item.id] = key
        if isinstance(item, Pictured):
            self._show_thumb(item)
        card.show_item(item, chosen, unfolded, self._theme)

    def _show_foot(self, doc: Document) -> None:
        hidden = len(groups.hidden(doc))
        self.foot.setVisible(hidden > 0)
        self.foot_words.setText(f"{hidden} hidden")

    def _clicked(self, id_: str, adding: bool) -> None:
        self._choose((id_,), adding)

    def _group_clicked(self, id_: str, adding: bool) -> None:
        members = groups.members(self.session.document, id_)
        self._choose(tuple(item.id for item in members), adding)

    def _choose(self, ids: tuple[str, ...], adding: bool) -> None:
        chosen = self.session.chosen
        if not adding:
            self.session.choose(ids)
        elif set(ids) <= set(chosen):
            self.session.choose(tuple(c for c in chosen if c not in ids))
        else:
            self.session.choose((*chosen, *(i for i in ids if i not in chosen)))

    # Carrying cards about, and pictures from outside.

    def _landing(self, at: QPoint) -> carrying.Landing:
        y = self._inner.mapFrom(self, at).y()
        parts = []
        for part in groups.tray_order(self.session.document):
            widget = self._widget(part)
            if not widget.isHidden():
                box = widget.geometry()
                parts.append((part, box.top(), box.bottom()))
        return carrying.landing(parts, y)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        mime = event.mimeData()
        if mime.hasFormat(carrying.CARD) or mime.hasUrls():
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        if event.mimeData().hasFormat(carrying.CARD):
            landing = self._landing(event.position().toPoint())
            indent = 17 if landing.group else 8
            self._line.setGeometry(indent, landing.y - 5, self._inner.width() - indent - 8, 2)
            self._line.show()
            self._line.raise_()
        event.acceptProposedAction()

    def dragLeaveEvent(self, event: QDragLeaveEvent) -> None:
        self._line.hide()

    def dropEvent(self, event: QDropEvent) -> None:
        self._line.hide()
        mime = event.mimeData()
        if not mime.hasFormat(carrying.CARD):
            paths = local_files(mime)
            self.pictures_dropped.emit(paths)
            event.acceptProposedAction()
            return
        id_ = bytes(mime.data(carrying.CARD).data()).decode()
        landing = self._landing(event.position().toPoint())
        event.acceptProposedAction()
        self.lay(id_, landing)

    def lay(self, id_: str, landing: carrying.Landing) -> None:
        """Lay a card or a group down elsewhere in the tray."""
        doc = self.session.committed
        part = doc.group(id_) or doc.item(id_)
        if part is None or landing.before == id_:
            return
        group = None if isinstance(part, Group) else landing.group
        after = groups.laid_before(doc, id_, landing.before, group)
        self.session.commit(after, f"Lay {part.name} elsewhere")

    # Thumbnails.

    def _thumb_ready(self, recipe: Recipe) -> None:
        doc = self.session.document
        for item in doc.pictured:
            if doc.recipe(item) == recipe:
                self._show_thumb(item)
                if item.id in self.cards:
                    self._write(item)

    def _show_thumb(self, item: Pictured) -> None:
        card = self.cards.get(item.id)
        pyramid = self.pictures.pyramids.get(self.session.document.recipe(item))
        if card is not None and card.pictured and pyramid is not None:
            image = thumbnail(pyramid).scaled(
                _THUMB_W * 2,
                _THUMB_H * 2,
                Qt.AspectRatioMode.KeepAspectRatio,
                Qt.TransformationMode.SmoothTransformation,
            )
            pixmap = QPixmap.fromImage(image)
            pixmap.setDevicePixelRatio(2)
            card.thumb.setPixmap(pixmap)


@cache
def _cards() -> dict[type, Callable[[Shelf, str], Card]]:
    """How the card of each class of item is made."""
    modules = standing.modules_in("dimetron.app.tray.cards")
    kinds = (kind for module in modules for kind in standing.values_in(module, CardKind))
    return {kind.of_class: kind.make for kind in kinds}
