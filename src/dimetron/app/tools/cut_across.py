"""Cut across faces from place to place: on vertices, on middles of edges, and along edges."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from dimetron.app.kit.instrument import Action
from dimetron.app.tools import aim
from dimetron.app.tools.base import REACH_PX, BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.document.model import MeshObject, with_item
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.cutting import Place, cut_across, on_edge, walked
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.select import Kind
from dimetron.render.overlays import Marks, Overlay, Strokes


@dataclass(slots=True)
class _Cut:
    """A cut under way, of a mesh as it was when it was begun."""

    item: MeshObject
    places: list[Place] = field(default_factory=list)


class CutAcross(Tool):
    """Click vertices and edges one after the other; Enter cuts the faces between them."""

    shortcut = "Ctrl+Shift+X"
    family = "cutting"
    selects = False
    name, title, icon = "cut-across", "Cut across", "knife"
    hint = "Click vertices and edges; middles catch, Ctrl lets go. Enter cuts; Escape: one back."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._cut: _Cut | None = None
        self._hover: Place | None = None

    def press(self, event: BoardEvent) -> bool:
        item = aim.chosen_or_at(self.bench, event)
        place = None if item is None else self._place(item, event)
        if item is None or place is None:
            return False
        if self._live(item) is None:
            self._cut = _Cut(item)
        assert self._cut is not None
        try:
            self._add(self._cut, place, event)
        except MeshError as error:
            self.bench.warn(str(error))
        self.bench.refresh()
        return True

    def _live(self, item: MeshObject) -> _Cut | None:
        """The cut under way, unless the mesh became another one."""
        cut = self._cut
        return cut if cut is not None and cut.item.mesh is item.mesh else None

    def _add(self, cut: _Cut, place: Place, event: BoardEvent) -> None:
        if not cut.places:
            cut.places.append(place)
            return
        if place == cut.places[-1]:
            return
        mesh = cut.item.mesh
        px = event.camera.project(mesh.positions)
        cut.places += [*walked(mesh, cut.places[-1], place, px), place]

    def _place(self, item: MeshObject, event: BoardEvent) -> Place | None:
        """The vertex under the pointer, else the place on an edge; its middle catches."""
        vertex = aim.part_at(self.bench, item, Kind.VERTEX, event)
        if vertex is not None:
            return Place(vertex=vertex.part)
        edge = aim.part_at(self.bench, item, Kind.EDGE, event)
        if edge is None:
            return None
        return self._on(item.mesh, edge.part, event)

    def _on(self, mesh: Mesh, edge: int, event: BoardEvent) -> Place:
        p, q = event.camera.project(mesh.positions[mesh.topology.edges[edge]])
        way = q - p
        share = float((np.array(event.px) - p) @ way / max(float(way @ way), 1e-9))
        middle = (p + q) / 2
        if not event.ctrl and float(np.hypot(*(np.array(event.px) - middle))) < REACH_PX:
            share = 0.5
        return on_edge(mesh.topology, edge, min(max(share, 0.0), 1.0))

    def move(self, event: BoardEvent, pressed: bool) -> None:
        item = self.bench.chosen_mesh
        self._hover = None if item is None else self._place(item, event)

    def key(self, key: str, event: BoardEvent | None) -> bool:
        if key != "enter" or self._cut is None:
            return False
        self._finish()
        return True

    def _finish(self) -> None:
        cut, self._cut = self._cut, None
        if cut is None or len(cut.places) < 2:
            return
        now = self.bench.committed.item(cut.item.id)
        if not isinstance(now, MeshObject) or now.mesh is not cut.item.mesh:
            self.bench.warn(f"{cut.item.name} became another one meanwhile; lay the cut once more.")
            return
        try:
            done = cut_across(cut.item.mesh, cut.places)
        except MeshError as error:
            self._cut = cut
            self.bench.warn(str(error))
            return
        doc = with_item(self.bench.committed, cut.item.id, mesh=done.mesh)
        self.bench.commit(doc, "Cut across")
        self.bench.select(done.selection.kind, done.selection.indices)
        self.bench.refresh()

    def abandon(self) -> bool:
        """Escape takes back one place after the other."""
        cut = self._cut
        if cut is None:
            return False
        cut.places = cut.places[:-1]
        if not cut.places:
            self._cut = None
        self.bench.refresh()
        return True

    def put_down(self) -> None:
        self._cut = self._hover = None

    def actions(self) -> Sequence[Action]:
        ready = self._cut is not None and len(self._cut.places) > 1
        return (Action("cut", "Cut", self._finish, "Cut the faces along it (Enter)", ready, True),)

    def overlays(self) -> Sequence[Overlay]:
        item = self.bench.chosen_mesh
        if item is None:
            return ()
        marks: list[Overlay] = []
        cut = self._live(item)
        if self._hover is not None and _there(item.mesh, self._hover):
            marks.append(Marks(self._hover.at(item.mesh)[None], "ring", "selection"))
        if cut is not None and cut.places:
            line = np.array([place.at(item.mesh) for place in cut.places])
            marks += [Strokes(line, "selection", 1.8), Marks(line, "square", "selection", 6.0)]
        return marks


def _there(mesh: Mesh, place: Place) -> bool:
    """Whether a mesh has a place, which may have been seen on another one."""
    if place.vertex >= 0:
        return place.vertex < mesh.topology.vertex_count
    return place.edge < len(mesh.topology.edges)
