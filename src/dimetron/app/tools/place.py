"""Tools of the Place station that move drawings: arrange them, put a point somewhere."""

from __future__ import annotations

from collections.abc import Sequence

from dimetron.app.kit.instrument import Option
from dimetron.app.tools import picking
from dimetron.app.tools.base import BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.document import edits


class PutPoint(Tool):
    """Click a point of a drawing; the drawing slides so that it lies on the chosen axis."""

    shortcut = "P"
    name, title, icon = "put-point", "Put a point", "arrow-bar-to-down"

    hint = "Click the point of a drawing that belongs there."
    _PLACES = (("ground", "ground"), ("centreline", "centreline"), ("origin", "origin"))

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._onto = "ground"

    def words(self) -> str:
        return f"Click the point of a drawing that belongs on the {self._onto}."

    def press(self, event: BoardEvent) -> bool:
        if event.view is None:
            return False
        aimed = picking.free_drawing(self.bench, event)
        if aimed is None:
            self.bench.warn("Click on a drawing that is shown and not held.")
            return True
        drawing, px = aimed.drawing, aimed.px
        self.aimed = None
        self.bench.choose((drawing.id,))
        doc = edits.put_point(self.bench.committed, drawing.id, px, self._onto)
        self.bench.commit(doc, f"Put a point of {drawing.name} on the {self._onto}")
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        self.aimed = picking.free_drawing(self.bench, event)

    def abandon(self) -> bool:
        self.aimed = None
        return False

    def options(self) -> Sequence[Option]:
        def choose(value: str) -> None:
            self._onto = value
            self.bench.refresh()

        return (Option("Onto", self._PLACES, self._onto, choose),)
