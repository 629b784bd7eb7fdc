"""Outlines stamped through a chosen mesh, and meshes cut along lines."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from dimetron.app.kit.instrument import Action, Field
from dimetron.app.tools.base import BoardEvent
from dimetron.app.tools.bench import Bench
from dimetron.document.model import MeshObject, with_item
from dimetron.document.outline import Outline, closed_polygons, polygons, whole_paths
from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.solids.parted import parted
from dimetron.mesh.solids.stamped import nearest, stamped


class Cutting:
    """With a mesh chosen beside closed outlines, they are stamped through it or to a depth; with
    one beside open ones, it is cut along them, and a click says which side stays."""

    def __init__(self, bench: Bench) -> None:
        self._bench = bench
        #: How deep outlines are stamped, in mm; through all at 0.
        self.deep = 0.0
        #: Whether the next click says which side of the lines stays.
        self.asking = False

    def outlines(self) -> list[Outline]:
        """The chosen outlines, in the order in which they were chosen."""
        found = [self._bench.committed.item(id_) for id_ in self._bench.chosen]
        return [item for item in found if isinstance(item, Outline)]

    def mesh(self) -> MeshObject | None:
        """The mesh that is chosen beside outlines."""
        items = [self._bench.committed.item(id_) for id_ in self._bench.chosen]
        meshes = [item for item in items if isinstance(item, MeshObject)]
        return meshes[0] if len(meshes) == 1 and self.outlines() else None

    def lines(self) -> list[Outline]:
        """The chosen outlines, if all are open: lines to cut along."""
        outlines = self.outlines()
        is_open = [all(not path.closed for path in whole_paths(o)) for o in outlines]
        return outlines if all(is_open) else []

    # What the panel shows.

    def fields(self) -> Sequence[Field]:
        """How deep."""
        if self.mesh() is None or self.lines():
            return ()

        def enter(mm: float) -> None:
            if mm < 0:
                raise ValueError("Type how deep to cut, or 0 to cut through.")
            self.deep = mm
            self._bench.refresh()

        hint = "From its nearest place on; 0 cuts through. A click in another view tells it, too"
        return (Field("Cut to", self.deep, enter, hint=hint),)

    def actions(self) -> Sequence[Action]:
        """What can be cut."""
        if self.mesh() is None:
            return ()
        if self.lines():

            def ask() -> None:
                self.asking = True
                self._bench.refresh()

            words = "Run the line out beyond its ends and cut the mesh along it; a click says "
            words += "which side stays"
            return (Action("part", "Cut along it", ask, words),)
        sides = (("outside", "Cut it out"), ("inside", "Keep inside"))
        words = "Stamp the outlines into the mesh, and keep what lies "
        return [Action(k, title, partial(self._stamp, k), words + k) for k, title in sides]

    # Cutting.

    def press(self, event: BoardEvent) -> bool:
        """The click that says which side stays."""
        item, lines = self.mesh(), self.lines()
        if not self.asking or item is None or not lines or event.view != lines[0].view:
            return False
        self.asking = False
        keep = lines[0].view.to_plane(event.point)
        self._of_one_view(lines)
        mesh = item.mesh
        for line in lines:
            for points in polygons(line):
                mesh = parted(mesh, points, line.view, keep)
        self._commit(item, mesh, f"Cut {item.name} along {lines[0].name}")
        return True

    def _stamp(self, keep: str) -> None:
        item, outlines = self.mesh(), self.outlines()
        if item is None:
            return
        self._of_one_view(outlines)
        view = outlines[0].view
        loops: list[Floats] = [loop for o in outlines for loop in closed_polygons(o)]
        start = nearest(item.mesh, view)
        deep = (start - 1.0, start + self.deep) if self.deep else None
        self._commit(item, stamped(item.mesh, loops, view, keep, deep), f"Cut {item.name}")

    def _of_one_view(self, outlines: Sequence[Outline]) -> None:
        if any(o.view != outlines[0].view for o in outlines):
            raise MeshError("Cut with outlines of one view at a time.")

    def _commit(self, item: MeshObject, mesh: Mesh, words: str) -> None:
        self._bench.cancel()
        doc = with_item(self._bench.committed, item.id, mesh=mesh, made=None)
        self._bench.commit(doc, words)
        self._bench.choose((item.id,))
        self._bench.refresh()
