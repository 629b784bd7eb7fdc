"""Place a part: some of its points are matched with places in the panes."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.app.kit.instrument import Action, Switch
from dimetron.app.tools import aim
from dimetron.app.tools.base import BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.landing import landed
from dimetron.counting import counted
from dimetron.document.model import Document, MeshObject, with_item
from dimetron.geometry.views import View
from dimetron.mesh.arrays import Floats
from dimetron.mesh.matching import Pair, placing
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.select import Kind
from dimetron.render.overlays import Label, Marks, Overlay, Strokes


class PlacePart(Tool):
    """Click a point of the chosen mesh, then where it is to be, in one pane or two; then the next
    point. Enter places the mesh."""

    family = "order"
    selects = False
    name, title, icon = "place-part", "Place a part", "map-pins"
    hint = "Click a point of the mesh, then where it is to be, in each pane that shows it; Enter."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._pairs: list[Pair] = []
        self._of: tuple[str, Mesh] | None = None
        self._resized = False

    def _item(self) -> MeshObject | None:
        """The chosen mesh as it was before; pairs of another one mean nothing."""
        item = self.bench.chosen_mesh
        if item is None:
            return None
        item = self.bench.committed.mesh(item.id)
        if self._of is None or self._of[0] != item.id or self._of[1] is not item.mesh:
            self._of, self._pairs = (item.id, item.mesh), []
        return item

    def press(self, event: BoardEvent) -> bool:
        if aim.chosen_or_at(self.bench, event) is None:
            return False
        item = self._item()
        assert item is not None
        if not isinstance(event.view, View):
            self.bench.warn("Points are matched in panes that look along an axis; click there.")
            return True
        vertex = None if event.ctrl else aim.part_at(self.bench, item, Kind.VERTEX, event)
        if vertex is not None and not self._waiting(vertex.part, item):
            point = item.mesh.positions[vertex.part]
            self._pairs.append(Pair(point, point.copy(), np.zeros(3, bool)))
        elif self._pairs:
            self._set(event, event.view)
        else:
            return False
        self._show()
        return True

    def _waiting(self, vertex: int, item: MeshObject) -> bool:
        """Whether it is the point that waits for its place: a click there says that it stays."""
        last = self._pairs[-1] if self._pairs else None
        here = item.mesh.positions[vertex]
        return last is not None and not last.known.any() and np.array_equal(last.point, here)

    def _set(self, event: BoardEvent, view: View) -> None:
        """Where the last point is to be, as far as a pane shows it."""
        place = landed(self.bench, event, event.point)
        last = self._pairs[-1]
        target, known = last.target.copy(), last.known.copy()
        for axis in view.axes:
            target[axis], known[axis] = place[axis], True
        self._pairs[-1] = Pair(last.point, target, known)

    def _told(self) -> list[Pair]:
        return [pair for pair in self._pairs if pair.known.any()]

    def _show(self) -> None:
        """Preview where it would go."""
        item = self._item()
        if item is not None and self._told():
            self.bench.preview(self._placed(item))
        self.bench.refresh()

    def _placed(self, item: MeshObject) -> Document:
        found = placing(self._told(), self._resized)
        mesh = item.mesh.with_similar(found.moved(item.mesh.positions))
        return with_item(self.bench.committed, item.id, mesh=mesh)

    def key(self, key: str, event: BoardEvent | None) -> bool:
        if key != "enter" or not self._told():
            return False
        self._place()
        return True

    def _place(self) -> None:
        item = self._item()
        if item is None:
            return
        doc = self._placed(item)
        self._pairs = []
        self.bench.commit(doc, f"Place {item.name}")
        self.bench.refresh()

    def abandon(self) -> bool:
        active, self._pairs = bool(self._pairs), []
        if active:
            self.bench.cancel()
        return active

    def put_down(self) -> None:
        self._pairs = []
        self.bench.cancel()

    def switches(self) -> Sequence[Switch]:
        def turn(on: bool) -> None:
            self._resized = on
            self._show()

        hint = "The part becomes larger or smaller, too, so that its points fit"
        return (Switch("Resize as well", self._resized, turn, hint),)

    def actions(self) -> Sequence[Action]:
        ready = bool(self._told())
        return (Action("place", "Place it", self._place, "Place the mesh so (Enter)", ready, True),)

    def told(self) -> str:
        pairs = self._told()
        if not pairs:
            return "No point is matched yet."
        off = placing(pairs, self._resized).misses
        words = counted(len(pairs), "point is matched", "points are matched")
        return f"{words}; the worst misses by {self.length(float(off.max()))}."

    def overlays(self) -> Sequence[Overlay]:
        marks: list[Overlay] = []
        for number, pair in enumerate(self._pairs, 1):
            ends: Floats = np.stack([pair.point, pair.target])
            marks.append(Marks(pair.point[None], "ring", "selection"))
            marks.append(Label(pair.point, str(number), "selection"))
            if pair.known.any():
                marks.append(Strokes(ends, "accent", 1.2, dash=4.0))
                marks.append(Marks(pair.target[None], "cross", "accent"))
        return marks
