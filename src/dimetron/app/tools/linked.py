"""Linked copies: they follow the mesh that they are copies of."""

from __future__ import annotations

from collections.abc import Sequence

from dimetron.app.kit.instrument import Action, Field, Option, Switch
from dimetron.app.tools import aim
from dimetron.app.tools.base import BoardEvent
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.framing import Framing
from dimetron.app.tools.making import Making
from dimetron.app.work.numbers import Numbers
from dimetron.document.making import how_made, maker_of, with_made
from dimetron.document.model import MeshObject
from dimetron.mesh.operations.copies.radial import Radial


class LinkedCopies(Making):
    """Copies of the chosen mesh that follow it; of chosen copies the numbers are open."""

    of = MeshObject
    family = "copies"
    selects = False
    name, title, icon = "linked-copies", "Linked copies", "linked"
    hint = "Enter makes them. Click a mesh to copy it; Ctrl and a click lays the axis there."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._framing = Framing(bench)

    def _sources(self) -> Sequence[MeshObject]:
        item = self.bench.chosen_mesh
        return () if item is None or self._made() is not None else (item,)

    def press(self, event: BoardEvent) -> bool:
        how = self._shown().how
        if event.ctrl and isinstance(how, Radial):
            self._take(how.through(self._framing.place(event)))
            return True
        hit = aim.mesh_at(self.bench.committed, event)
        if hit is None:
            return False
        self.bench.choose((hit.item.id,))
        self._show()
        return True

    def _make(self) -> None:
        (item,) = self._sources()
        how = self._how(self._maker)
        doc, made = with_made(self.bench.committed, self._maker, [item], how)
        self.bench.commit(doc, f"Linked copies of {item.name}")
        self.bench.choose((made,))
        self.bench.refresh()

    def key(self, key: str, event: BoardEvent | None) -> bool:
        if key != "enter" or not self._sources():
            return False
        self._make()
        return True

    def abandon(self) -> bool:
        active = self.bench.document is not self.bench.committed
        self.bench.cancel()
        return active

    def put_down(self) -> None:
        self.bench.cancel()

    # The panel.

    def _shown(self) -> Numbers:
        item = self._made()
        if item is None:
            return Numbers(self._maker.parameters, self._how(self._maker), self._take)
        maker = maker_of(item)
        assert maker is not None
        return Numbers(maker.parameters, how_made(item), self._take)

    def options(self) -> Sequence[Option]:
        how = () if self._made() is not None else (self._maker_option("How"),)
        return (*how, *self._shown().options())

    def fields(self) -> Sequence[Field]:
        return self._shown().fields()

    def switches(self) -> Sequence[Switch]:
        return self._shown().switches()

    def actions(self) -> Sequence[Action]:
        item = self._made()
        if item is not None:
            hint = "They do not follow any more, and can be edited"
            return (self._plain(item, "Make them plain", hint),)
        ready = bool(self._sources()) and not self._fault
        hint = "Copies that follow the mesh (Enter)"
        return (Action("make", "Make them", self._make, hint, ready, main=True),)

    def told(self) -> str:
        item = self._made()
        return self._fault if item is None else f"{item.name} follows what it is a copy of."
