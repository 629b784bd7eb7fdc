"""The card of a mesh: its size and where its middle lies."""

from __future__ import annotations

import numpy as np

from dimetron.app.card import Card, Numbers, size_text
from dimetron.app.fields import length_edit
from dimetron.app.iconset import icon
from dimetron.app.session import Session
from dimetron.app.theme import Theme
from dimetron.document.model import Item, MeshObject, with_item
from dimetron.geometry.units import Unit
from dimetron.geometry.views import AXIS_NAMES, EXTENT_NAMES
from dimetron.mesh import edit
from dimetron.mesh.mesh import Ints


class MeshCard(Card):
    """Numbers of a mesh: its size and where its middle lies."""

    def __init__(self, session: Session, id_: str) -> None:
        super().__init__(session, id_)
        self.row.addStretch(1)

        def unit() -> Unit:
            return self._session.document.unit

        grid = Numbers(self.body)
        self.size_edits = [length_edit(unit) for _ in range(3)]
        self.middle_edits = [length_edit(unit) for _ in range(3)]
        for axis, field in enumerate(self.size_edits):
            grid.line(EXTENT_NAMES[axis], field, f"Real {EXTENT_NAMES[axis]}; the base stays")
            field.entered.connect(lambda mm, axis=axis: self._enter_size(axis, mm))
        for axis, field in enumerate(self.middle_edits):
            grid.line(f"middle {AXIS_NAMES[axis]}", field, "Where the mesh’s middle lies")
            field.entered.connect(lambda mm, axis=axis: self._enter_middle(axis, mm))
        grid.finish()

    def _mesh(self) -> MeshObject | None:
        item = self._item()
        return item if isinstance(item, MeshObject) else None

    def _enter_size(self, axis: int, mm: float) -> None:
        item = self._mesh()
        if item is None:
            return
        low, high = item.mesh.bounds
        now = float(high[axis] - low[axis])
        if mm <= 0 or now < 1e-9:
            self.size_edits[axis].refuse("The size must be more than zero.")
            return
        factors, about = np.ones(3), (low + high) / 2
        factors[axis], about[2] = mm / now, low[2]
        mesh = edit.scaled(item.mesh, _every(item), factors, about)
        doc = with_item(self._session.committed, self.id, mesh=mesh)
        self._session.commit(doc, f"Set the {EXTENT_NAMES[axis]} of {item.name}")

    def _enter_middle(self, axis: int, mm: float) -> None:
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
        unit = self._session.document.unit
        self.size_words.setText(size_text(unit, *(float(s) for s in size)))
        self.thumb.setPixmap(icon("box", theme.chrome.accent, 30).pixmap(30, 30))
        if unfolded:
            for axis in range(3):
                self.size_edits[axis].set_value(float(size[axis]))
                self.middle_edits[axis].set_value(float((low + high)[axis] / 2))


def _every(item: MeshObject) -> Ints:
    return np.arange(item.mesh.topology.vertex_count, dtype=np.int32)
