"""What the tools have in common that make something of what is chosen, which follows it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from dimetron.app.kit.instrument import Action, Option
from dimetron.app.tools.base import Tool
from dimetron.app.tools.bench import Bench
from dimetron.document.making import Maker, Source, maker_of, makers, remade_with, with_made
from dimetron.document.model import MeshObject, with_item
from dimetron.mesh.arrays import MeshError


class Making(Tool):
    """It is shown beforehand; while what was made is chosen its numbers are open. of: the kind of
    items that things are made of."""

    of: ClassVar[type[Source]]

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._maker = next(iter(makers(self.of).values()))
        self._numbers: dict[str, Any] = {}
        self._fault = ""

    def _sources(self) -> Sequence[Source]:
        """What it would be made of, as it is chosen."""
        return ()

    def _made(self) -> MeshObject | None:
        """The chosen mesh, if it was made so."""
        item = self.bench.chosen_mesh
        maker = None if item is None else maker_of(item)
        return item if maker is not None and maker.of is self.of else None

    def _how(self, maker: Maker) -> Any:
        return self._numbers.get(maker.name) or maker.settings()

    def _show(self) -> None:
        """Preview it, if it can be made."""
        self._fault = ""
        sources, how = self._sources(), self._how(self._maker)
        try:
            if sources:
                self.bench.preview(with_made(self.bench.committed, self._maker, sources, how)[0])
            else:
                self.bench.cancel()
        except MeshError as error:
            self._fault = str(error)
            self.bench.cancel()
        self.bench.refresh()

    def _take(self, how: Any) -> None:
        """Other numbers: of the chosen mesh, or of what is about to be made."""
        # What is typed may have been meant for what was chosen a moment ago.
        meant = next(m for m in makers(self.of).values() if m.settings is type(how))
        self._numbers[meant.name] = how
        item = self._made()
        if item is None:
            self._show()
        elif maker_of(item) is meant:
            doc = remade_with(self.bench.committed, item.id, how)
            self.bench.commit(doc, f"Make {item.name} anew")
            self.bench.refresh()

    def taken_up(self) -> None:
        """What is chosen is shown as what it would become."""
        if self._sources():
            self._show()

    def _maker_option(self, name: str) -> Option:
        def choose(value: str) -> None:
            self._maker = makers(self.of)[value]
            self._show()

        choices = tuple((maker.name, maker.title) for maker in makers(self.of).values())
        return Option(name, choices, self._maker.name, choose, listed=True)

    def _plain(self, item: MeshObject, title: str, hint: str) -> Action:
        """What was made is let go of what it was made of."""

        def plain() -> None:
            doc = with_item(self.bench.committed, item.id, made=None)
            self.bench.commit(doc, f"Make {item.name} plain")
            self.bench.refresh()

        return Action("plain", title, plain, hint)
