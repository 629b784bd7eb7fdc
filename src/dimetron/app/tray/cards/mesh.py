"""The card of a mesh: its size and where its middle lies."""

from __future__ import annotations

import numpy as np

from dimetron.app.kit.iconset import icon
from dimetron.app.kit.theme import Theme
from dimetron.app.tray.card import CardKind
from dimetron.app.tray.sized_card import SizedCard
from dimetron.app.work.session import Session
from dimetron.document.model import Item, MeshObject, with_item
from dimetron.geometry.views import EXTENT_NAMES
from dimetron.mesh import edit
from dimetron.mesh.arrays import Ints


class MeshCard(SizedCard):
    """Numbers of a mesh: its size and where its middle lies."""

    def __init__(self, session: Session, id_: str) -> None:
        hint = "Where the mesh’s middle lies"
        super().__init__(session, id_, "; the base stays", "middle", hint)

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
        faces = "1 face" if topology.face_count == 1 else f"{topology.face_count} faces"
        self.badge.setText(f"Mesh  ·  {faces}")
        low, high = item.mesh.bounds
        size = high - low
        self.show_size(*(float(s) for s in size))
        self.thumb.setPixmap(icon("box", theme.chrome.accent, 30).pixmap(30, 30))
        if unfolded:
            self.show_numbers(size, (low + high) / 2)


def _every(item: MeshObject) -> Ints:
    return np.arange(item.mesh.topology.vertex_count, dtype=np.int32)


CARD = CardKind(MeshObject, lambda shelf, id_: MeshCard(shelf.session, id_))
