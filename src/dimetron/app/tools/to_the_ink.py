"""Bring rows of a cage to what is drawn: both ends of each meet the ink."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.app.kit.instrument import Action, Field, Option, Switch
from dimetron.app.tools import aim
from dimetron.app.tools.base import BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.document.model import Document, Drawing, MeshObject, with_item
from dimetron.document.outline import closed_polygons, outlines_of
from dimetron.geometry.segments import line_crossings
from dimetron.geometry.views import AnyView, View
from dimetron.mesh.arrays import Floats, Ints, MeshError
from dimetron.mesh.inking import Row, brought, fitted, row_through, rows_of
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.select import Kind, Selection
from dimetron.render.overlays import Label, Marks, Overlay, Strokes

_MEET = (("nearest", "nearest"), ("outermost", "outermost"))
_RUN = (("across", "across"), ("up", "up"))
#: So far ink is looked for from a row's end at first, mm.
_REACH_MM = 20.0


@dataclass(frozen=True, slots=True, eq=False)
class _Found:
    """A row of a mesh, and where it would go."""

    item: MeshObject
    row: Row
    view: AnyView


class ToTheInk(Tool):
    """Click a row in a flat pane, or drag over rows: both ends go to where they meet the ink."""

    shortcut = "Shift+Z"
    family = "building"
    selects = False
    name, title, icon = "to-the-ink", "To the ink", "to-the-ink"
    hint = "Click a row of edges in a flat pane, or drag over rows: both ends meet the ink."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._reach = _REACH_MM
        self._meet = "nearest"
        self._run = "across"
        self._round = False
        self._view: AnyView | None = None
        self._found: _Found | None = None
        self._over: set[int] | None = None
        self._count = 0
        self._said = ""

    # Pointing.

    def move(self, event: BoardEvent, pressed: bool) -> None:
        if event.view is not None and event.view != self._view:
            # All rows are about the view last pointed at.
            self._view = event.view
            self.bench.refresh()
        self._found = self._under(event)
        if pressed and self._over is not None and self._found is not None:
            self._pass(self._found)

    def _under(self, event: BoardEvent) -> _Found | None:
        """The row of edges under the pointer."""
        item, view = self.bench.chosen_mesh, event.view
        if item is None or view is None:
            return None
        edge = self._edge(item, view, event)
        if edge is None:
            return None
        mesh = self.bench.document.mesh(item.id).mesh
        row = self._fit(mesh, self._row(mesh, edge), view)
        return None if row is None else _Found(item, row, view)

    def _edge(self, item: MeshObject, view: AnyView, event: BoardEvent) -> int | None:
        """The nearest edge that runs the way rows do."""
        near, _ = aim.parts_near(self.bench, item, Kind.EDGE, event)
        mesh = self.bench.document.mesh(item.id).mesh
        ends = view.to_plane(mesh.positions[mesh.topology.edges[near]].reshape(-1, 3))
        across, up = np.abs(ends[1::2] - ends[::2]).T
        runs = across >= up if self._run == "across" else up > across
        return int(near[runs][0]) if runs.any() else None

    def _row(self, mesh: Mesh, edge: int) -> Ints:
        """The vertices of the row that an edge is of; of what is selected, if it is one of
        that."""
        view = self._view or View.FRONT
        if self.bench.kind is Kind.EDGE and edge in self.bench.selected:
            chosen = Selection(Kind.EDGE, self.bench.selected)
            for row in rows_of(mesh, chosen, view):
                if mesh.topology.edges[edge][0] in row:
                    return row
        return row_through(mesh, edge, view)

    def press(self, event: BoardEvent) -> bool:
        self._view = event.view or self._view
        chosen = self.bench.chosen_mesh
        item = aim.chosen_or_at(self.bench, event)
        if item is None or chosen is None:
            # A first click chooses the mesh it is about.
            return item is not None
        if event.view is None:
            self.bench.warn("Rows meet the ink in a flat pane; click there.")
            return True
        found = self._under(event)
        if found is None:
            if self._edge(item, event.view, event) is None:
                return False
            self.bench.warn(self._why(event.view))
            return True
        self._over, self._count, self._said = set(), 0, ""
        self._pass(found)
        return True

    def _why(self, view: AnyView) -> str:
        if not self._drawings(view) and not self._outlined(view):
            return f"No drawing is shown in the {view.title.lower()} view; there is no ink to meet."
        far = self.length(self._reach)
        return f"No ink lies within {far} of this row’s ends; look farther, or move it nearer."

    def _pass(self, found: _Found) -> None:
        """Bring a row to the ink, unless it was already since the button went down."""
        assert self._over is not None
        first = int(found.row.vertices[0])
        if first in self._over:
            return
        self._over.add(first)
        doc = self._with(self.bench.document, found.item.id, [found.row], found.view)
        self._count += 1
        self.bench.preview(doc)

    def release(self, event: BoardEvent) -> None:
        if self._over is not None and self._count:
            self.bench.commit(self.bench.document, self._label(self._count))
        self._over = None
        self._found = self._under(event)

    @staticmethod
    def _label(count: int) -> str:
        return "A row to the ink" if count == 1 else f"{count} rows to the ink"

    def abandon(self) -> bool:
        active, self._over = self._over is not None, None
        self._found = None
        if active:
            self.bench.cancel()
        return active

    # What it does.

    def _fit(self, mesh: Mesh, vertices: Ints, view: AnyView) -> Row | None:
        def crossings(a: Floats, b: Floats) -> Floats:
            return self._crossings(view, a, b)

        outermost = self._meet == "outermost"
        return fitted(mesh, vertices, view, crossings, self._reach, outermost)

    def _with(self, doc: Document, id_: str, rows: Sequence[Row], view: AnyView) -> Document:
        mesh = doc.mesh(id_).mesh
        for row in rows:
            mesh = mesh.with_moved(row.vertices, brought(mesh, row, view, self._round))
        return with_item(doc, id_, mesh=mesh)

    def _drawings(self, view: AnyView) -> list[Drawing]:
        doc = self.bench.document
        return [d for d in doc.planes if d.view == view and doc.visible(d)]

    def _outlined(self, view: AnyView) -> list[Floats]:
        doc = self.bench.document
        return [
            polygon
            for outline in outlines_of(doc)
            if outline.view == view and doc.visible(outline) and outline.path.closed
            for polygon in closed_polygons(outline)
        ]

    def _crossings(self, view: AnyView, a: Floats, b: Floats) -> Floats:
        """How far from a to b ink is crossed; where none is, outlines that are traced."""
        found = []
        for drawing in self._drawings(view):
            placement = drawing.placement
            (ax, ay), (bx, by) = placement.to_px(a).tolist(), placement.to_px(b).tolist()
            at = self.bench.ink_crossings(drawing, (ax, ay), (bx, by))
            found.append(np.asarray(at) * placement.mm_per_px)
        drawn = np.concatenate([np.zeros(0), *found])
        if len(drawn):
            return drawn
        return line_crossings(self._outlined(view), a, b)

    # The panel.

    def fields(self) -> Sequence[Field]:
        def enter(value: float) -> None:
            if value <= 0:
                raise MeshError("The reach must be more than nothing.")
            self._reach = value

        hint = "How far from a row’s end ink is looked for"
        return (Field("Look within", self._reach, enter, hint=hint),)

    def options(self) -> Sequence[Option]:
        def meet(value: str) -> None:
            self._meet = value
            self.bench.refresh()

        def run(value: str) -> None:
            self._run = value
            self.bench.refresh()

        return (
            Option("Meet the line that is", _MEET, self._meet, meet),
            Option("Rows run", _RUN, self._run, run),
        )

    def switches(self) -> Sequence[Switch]:
        def turn(on: bool) -> None:
            self._round = on
            self.bench.refresh()

        hint = "Along the line of sight as much as across it, so that round rows stay round"
        return (Switch("Depth as well", self._round, turn, hint),)

    def actions(self) -> Sequence[Action]:
        item, view = self.bench.chosen_mesh, self._view
        whole = item is not None and self.bench.kind is Kind.WHOLE
        ready = item is not None and view is not None and (whole or len(self.bench.selected) > 0)
        title = "All its rows" if whole else "Selected rows"
        where = f" in the {view.title.lower()} view" if view is not None else ""
        hint = f"Bring every row{where} to the ink at once"
        return (Action("all", title, self._all, hint, ready, main=True),)

    def _all(self) -> None:
        item, view = self.bench.chosen_mesh, self._view
        if item is None or view is None:
            return
        rows = rows_of(item.mesh, self.bench.part, view, self._run == "up")
        found = [row for row in (self._fit(item.mesh, own, view) for own in rows) if row]
        if not found:
            raise MeshError(self._why(view))
        doc = self._with(self.bench.committed, item.id, found, view)
        self._said = ""
        self.bench.commit(doc, self._label(len(found)))
        if len(found) < len(rows):
            met = f"{len(found)} of {len(rows)} rows meet the ink"
            self._said = f"{met}; the others found none within reach."
        self.bench.refresh()

    def told(self) -> str:
        return self._said

    def overlays(self) -> Sequence[Overlay]:
        found = self._found
        if found is None:
            return ()
        row, view = found.row, found.view
        forward = view.directions.forward
        middle = found.item.mesh.positions[row.vertices].mean(axis=0)
        into = forward * float(middle @ forward)
        before, to = (view.to_world(ends) + into for ends in (row.ends, row.to))
        low, high = (self.length(mm) for mm in row.moved)
        words = f"row to the ink: {low} and {high}"
        return (
            Strokes(before, "selection", 1.6, only=view),
            Marks(to, "ring", "selection", only=view),
            Label(to[1], words, "selection", shift=(12.0, -14.0), only=view),
        )
