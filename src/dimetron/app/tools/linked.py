"""Linked copies: they follow the mesh that they are copies of."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from dimetron.app.kit.instrument import Action, Field, Option, Switch
from dimetron.app.tools import aim
from dimetron.app.tools.base import BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.app.work.numbers import Numbers
from dimetron.document.making import Maker, how_made, maker_of, makers, remade_with, with_made
from dimetron.document.model import MeshObject, with_item
from dimetron.mesh.arrays import MeshError


class LinkedCopies(Tool):
    """Copies of the chosen mesh that follow it; of chosen copies the numbers are open."""

    family = "copies"
    selects = False
    name, title, icon = "linked-copies", "Linked copies", "linked"
    hint = "Choose how, then Enter: the copies follow the mesh. Click a mesh to copy another one."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._maker = next(iter(makers(MeshObject).values()))
        self._numbers: dict[str, Any] = {}
        self._fault = ""

    def _copies(self) -> MeshObject | None:
        """The chosen mesh, if it is linked copies."""
        item = self.bench.chosen_mesh
        maker = None if item is None else maker_of(item)
        return item if maker is not None and maker.of is MeshObject else None

    def _how(self, maker: Maker) -> Any:
        return self._numbers.get(maker.name) or maker.settings()

    def press(self, event: BoardEvent) -> bool:
        hit = aim.mesh_at(self.bench.committed, event)
        if hit is None:
            return False
        self.bench.choose((hit.item.id,))
        self._show()
        return True

    # Making.

    def _show(self) -> None:
        """Preview what would be made of the chosen mesh."""
        self._fault = ""
        self.bench.cancel()
        item = self.bench.chosen_mesh
        if item is not None and self._copies() is None:
            try:
                doc, _ = with_made(
                    self.bench.committed, self._maker, [item], self._how(self._maker)
                )
                self.bench.preview(doc)
            except MeshError as error:
                self._fault = str(error)
        self.bench.refresh()

    def _make(self) -> None:
        self.bench.cancel()
        item = self.bench.chosen_mesh
        if item is None:
            raise MeshError("Choose a mesh first.")
        how = self._how(self._maker)
        doc, made = with_made(self.bench.committed, self._maker, [item], how)
        self.bench.commit(doc, f"Linked copies of {item.name}")
        self.bench.choose((made,))
        self.bench.refresh()

    def _take(self, how: Any) -> None:
        """Other numbers: of chosen copies, or of what is about to be made."""
        # What is typed may have been meant for what was chosen a moment ago.
        meant = next(m for m in makers(MeshObject).values() if m.settings is type(how))
        self._numbers[meant.name] = how
        item = self._copies()
        if item is None:
            self._show()
            return
        if maker_of(item) is not meant:
            return
        doc = remade_with(self.bench.committed, item.id, how)
        self.bench.commit(doc, f"Make {item.name} anew")
        self.bench.refresh()

    def key(self, key: str, event: BoardEvent | None) -> bool:
        if key != "enter" or self.bench.chosen_mesh is None or self._copies() is not None:
            return False
        self._make()
        return True

    def abandon(self) -> bool:
        active = self.bench.document is not self.bench.committed
        self.bench.cancel()
        return active

    def taken_up(self) -> None:
        self._show()

    def put_down(self) -> None:
        self.bench.cancel()

    # The panel.

    def _shown(self) -> Numbers:
        item = self._copies()
        if item is None:
            return Numbers(self._maker.parameters, self._how(self._maker), self._take)
        maker = maker_of(item)
        assert maker is not None
        return Numbers(maker.parameters, how_made(item), self._take)

    def options(self) -> Sequence[Option]:
        if self._copies() is not None:
            return self._shown().options()

        def choose(value: str) -> None:
            self._maker = makers(MeshObject)[value]
            self._show()

        choices = tuple((maker.name, maker.title) for maker in makers(MeshObject).values())
        kind = Option("How", choices, self._maker.name, choose, listed=True)
        return (kind, *self._shown().options())

    def fields(self) -> Sequence[Field]:
        return self._shown().fields()

    def switches(self) -> Sequence[Switch]:
        return self._shown().switches()

    def actions(self) -> Sequence[Action]:
        item = self._copies()
        if item is None:
            ready = self.bench.chosen_mesh is not None
            hint = "Copies that follow the mesh (Enter)"
            return (Action("make", "Make them", self._make, hint, ready, main=True),)

        def plain() -> None:
            doc = with_item(self.bench.committed, item.id, made=None)
            self.bench.commit(doc, f"Make {item.name} plain")
            self.bench.refresh()

        hint = "They do not follow any more, and can be edited"
        return (Action("plain", "Make them plain", plain, hint),)

    def told(self) -> str:
        if self._fault:
            return self._fault
        item = self._copies()
        return "" if item is None else f"{item.name} follows what it is a copy of."
