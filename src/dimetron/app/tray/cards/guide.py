"""The card of a guide: where it is, or how large."""

from __future__ import annotations

from dimetron.app.kit.fields import length_edit
from dimetron.app.kit.iconset import icon
from dimetron.app.kit.theme import Theme
from dimetron.app.tray.card import Card, CardKind, Numbers
from dimetron.app.work.session import Session
from dimetron.document.guide import Guide
from dimetron.document.model import Item, with_item
from dimetron.geometry.units import format_length
from dimetron.geometry.views import AXIS_NAMES


class GuideCard(Card):
    def __init__(self, session: Session, id_: str) -> None:
        super().__init__(session, id_)
        self.row.addStretch(1)
        grid = Numbers(self.body)
        self.at_edit = length_edit(lambda: session.document.unit)
        self.at_label = grid.line("at", self.at_edit, "Where it lies, or how large its radius is")
        self.at_edit.entered.connect(self._enter)
        grid.finish()

    def _enter(self, mm: float) -> None:
        item = self._item()
        if not isinstance(item, Guide):
            return
        if item.radius and mm <= 0:
            self.at_edit.refuse("The radius must be more than zero.")
            return
        field = {"radius": mm} if item.radius else {"at": mm}
        self._session.commit(
            with_item(self._session.committed, self.id, **field), f"Put {item.name}"
        )

    def show_item(self, item: Item, chosen: bool, unfolded: bool, theme: Theme) -> None:
        assert isinstance(item, Guide)
        self.mark(item, chosen, unfolded, theme)
        unit = self._session.document.unit
        value = item.radius or item.at
        name = "radius" if item.radius else AXIS_NAMES[item.axis]
        self.badge.setText("Guide circle" if item.radius else "Guide line")
        self.size_words.setText(f"{name} {format_length(value, unit)}")
        self.thumb.setPixmap(icon("guides", theme.chrome.soft_ink, 30).pixmap(30, 30))
        if unfolded:
            self.at_label.setText(name)
            self.at_edit.set_value(value)


CARD = CardKind(Guide, lambda shelf, id_: GuideCard(shelf.session, id_))
