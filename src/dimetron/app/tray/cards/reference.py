"""The card of a size reference: its sizes, and where it stands."""

from __future__ import annotations

from dataclasses import replace

from dimetron.app.kit.iconset import icon
from dimetron.app.kit.theme import Theme
from dimetron.app.tray.card import CardKind
from dimetron.app.tray.sized_card import SizedCard
from dimetron.app.work.session import Session
from dimetron.document import size_references
from dimetron.document.model import Item, with_item
from dimetron.document.parts import Reference, ReferenceKind
from dimetron.geometry.views import EXTENT_NAMES

_KINDS = {ReferenceKind.BOX: ("Size box", "box"), ReferenceKind.FIGURE: ("Figure", "man"),
          ReferenceKind.RULER: ("Ruler", "ruler-2")}  # fmt: skip


class ReferenceCard(SizedCard):
    def __init__(self, session: Session, id_: str) -> None:
        super().__init__(session, id_, "", "base", "Where the middle of its base stands")

    def _reference(self) -> Reference | None:
        item = self._item()
        return item if isinstance(item, Reference) else None

    def enter_size(self, axis: int, mm: float) -> None:
        item = self._reference()
        if item is None:
            return
        size = size_references.resized(item, axis, mm).size
        doc = with_item(self._session.committed, self.id, size=size)
        self._session.commit(doc, f"Set the {EXTENT_NAMES[axis]} of {item.name}")

    def enter_place(self, axis: int, mm: float) -> None:
        item = self._reference()
        if item is not None:
            at = list(item.at)
            at[axis] = mm
            moved = replace(item, at=(at[0], at[1], at[2]))
            doc = with_item(self._session.committed, self.id, at=moved.at)
            self._session.commit(doc, f"Move {item.name}")

    def show_item(self, item: Item, chosen: bool, unfolded: bool, theme: Theme) -> None:
        assert isinstance(item, Reference)
        self.mark(item, chosen, unfolded, theme)
        title, picture = _KINDS[item.gauge]
        self.badge.setText(f"{title}  ·  not exported")
        self.show_size(*item.size)
        self.thumb.setPixmap(icon(picture, theme.chrome.soft_ink, 30).pixmap(30, 30))
        if unfolded:
            self.show_numbers(item.size, item.at)


CARD = CardKind(Reference, lambda shelf, id_: ReferenceCard(shelf.session, id_))
