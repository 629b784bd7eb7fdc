"""The card of a mesh: its size and where its middle lies."""

from __future__ import annotations

import numpy as np

from dimetron.app.kit.iconset import icon
from dimetron.app.kit.theme import Theme
from dimetron.app.kit.wrapped import WrappedLabel
from dimetron.app.tray.card import CardKind, Shelf
from dimetron.app.tray.mesh_rows import MeshRows, health_words
from dimetron.app.tray.part_rows import PartRows
from dimetron.app.tray.sized_card import SizedCard
from dimetron.app.work.numbers import number_words
from dimetron.app.work.session import Session
from dimetron.counting import counted
from dimetron.document.making import Maker, how_made, maker_of
from dimetron.document.model import Item, MeshObject, with_item
from dimetron.geometry.views import EXTENT_NAMES
from dimetron.mesh import edit
from dimetron.mesh.arrays import Ints
from dimetron.mesh.parameters import Sort


class MeshCard(SizedCard):
    """Numbers of a mesh: its size and where its middle lies."""

    def __init__(self, session: Session, id_: str) -> None:
        hint = "Where the mesh’s middle lies"
        super().__init__(session, id_, "; the base stays", "middle", hint)
        self.made_words = WrappedLabel()
        self.made_words.setProperty("class", "small soft")
        self.box.addWidget(self.made_words)
        self.rows = MeshRows(session, id_)
        self.box.addWidget(self.rows)
        self.parts = PartRows(session, id_)
        self.box.addWidget(self.parts)

    def noted(self, shelf: Shelf, item: Item, unfolded: bool) -> tuple[object, ...]:
        """Its health, which is known only later of a large mesh, and whether parts are selected."""
        assert isinstance(item, MeshObject)
        if not unfolded:
            return ()
        return health_words(self._session, item), len(self._session.selected) > 0

    def _mesh(self) -> MeshObject | None:
        item = self._item()
        return item if isinstance(item, MeshObject) else None

    def enter_size(self, axis: int, mm: float) -> None:
        item = self._mesh()
        if item is None:
            return
        low, high = item.mesh.bounds
        now = float(high[axis] - low[axis])
        if mm <= 0 or now < 1e-9:
            raise ValueError("The size must be more than zero.")
        factors, about = np.ones(3), (low + high) / 2
        factors[axis], about[2] = mm / now, low[2]
        mesh = edit.scaled(item.mesh, _every(item), factors, about)
        doc = with_item(self._session.committed, self.id, mesh=mesh)
        self._session.commit(doc, f"Set the {EXTENT_NAMES[axis]} of {item.name}")

    def enter_place(self, axis: int, mm: float) -> None:
        item = self._mesh()
        if item is None:
            return
        by = np.zeros(3)
        by[axis] = mm - float(item.mesh.bounds.mean(axis=0)[axis])
        mesh = edit.translated(item.mesh, _every(item), by)
        doc = with_item(self._session.committed, self.id, mesh=mesh)
        self._session.commit(doc, f"Move {item.name}")

    def show_item(self, item: Item, chosen: bool, unfolded: bool, theme: Theme) -> None:
        assert isinstance(item, MeshObject)
        self.mark(item, chosen, unfolded, theme)
        topology = item.mesh.topology
        faces = counted(topology.face_count, "face", "faces")
        maker = maker_of(item)
        self.badge.setText(f"Mesh  ·  {faces}" if maker is None else f"{maker.title}  ·  {faces}")
        self.made_words.setVisible(unfolded and maker is not None)
        if maker is not None:
            self.made_words.setText(self._how_made(item, maker))
        low, high = item.mesh.bounds
        size = high - low
        self.show_size(*(float(s) for s in size))
        self.thumb.setPixmap(icon("box", theme.chrome.accent, 30).pixmap(30, 30))
        self.rows.setVisible(unfolded)
        self.parts.setVisible(unfolded)
        if unfolded:
            self.rows.show_item(item, theme)
            self.parts.show_item(item)
            self.show_numbers(size, (low + high) / 2)

    def _how_made(self, item: MeshObject, maker: Maker) -> str:
        """Of what, and with which numbers."""
        assert item.made is not None
        doc = self._session.document
        names = [o.name for id_ in item.made.of if (o := doc.item(id_)) is not None]
        try:
            how = how_made(item)
        except ValueError:
            return f"Made of {', '.join(names)}."
        counts = tuple(p for p in maker.parameters if p.counts(how))
        numbers = number_words(counts, how, doc.unit)
        told = [
            words if p.sort in (Sort.CHOICE, Sort.SWITCH) else f"{p.title} {words}"
            for p, words in zip(counts, numbers, strict=True)
            if p.sort is not Sort.PLACES or getattr(how, p.name)
        ]
        return f"Made of {', '.join(names)}, which it follows: {', '.join(told)}."


def _every(item: MeshObject) -> Ints:
    return np.arange(item.mesh.topology.vertex_count, dtype=np.int32)


CARD = CardKind(MeshObject, lambda shelf, id_: MeshCard(shelf.session, id_))
