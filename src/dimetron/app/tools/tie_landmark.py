"""Tie vertices of meshes to landmarks, and bring them there."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.app.kit.instrument import Action, Field, Option
from dimetron.app.tools import aim
from dimetron.app.tools.base import BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.checks_seen import tie_marks
from dimetron.document.checks import marked_vertices, tied_to, ties_of, untied
from dimetron.document.model import with_item
from dimetron.geometry.units import format_length
from dimetron.mesh.falloff import going
from dimetron.render.overlays import Overlay


class TieLandmark(Tool):
    """Click the vertex that is a landmark; then bring it to where the drawings have that."""

    name, title, icon = "tie-landmark", "Landmark on the mesh", "map-pin"
    hint = "Choose a landmark, then click the vertex that is it."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._name = ""

    @property
    def _landmark(self) -> str:
        names = [m.name for m in self.bench.document.landmarks]
        return self._name if self._name in names else next(iter(names), "")

    def press(self, event: BoardEvent) -> bool:
        if not self._landmark:
            self.bench.warn("Mark a landmark in the drawings first, in Register.")
            return True
        found = aim.vertex_at(self.bench, event)
        if found is None:
            return False
        item, part = found
        doc = tied_to(self.bench.committed, item.id, part.part, self._landmark)
        self.bench.choose((item.id,))
        self.bench.commit(doc, f"Tie {self._landmark} to {item.name}")
        self.bench.refresh()
        return True

    def _tie(self) -> tuple[str, np.ndarray] | None:
        """The mesh that the landmark is tied to, and where that vertex stands."""
        found = [t for t in ties_of(self.bench.document) if t[1] == self._landmark]
        return (found[0][0], found[0][2]) if found else None

    def options(self) -> Sequence[Option]:
        names = [m.name for m in self.bench.document.landmarks]
        if not names:
            return ()

        def choose(name: str) -> None:
            self._name = name
            self.bench.refresh()

        choices = tuple((name, name) for name in names)
        return (Option("Landmark", choices, self._landmark, choose, listed=True),)

    def fields(self) -> Sequence[Field]:
        soft = self.bench.soft

        def enter(mm: float) -> None:
            if mm < 0:
                raise ValueError("Type a length of 0 or more.")
            soft.mm = mm
            self.bench.refresh()

        hint = "How far around the vertex goes along when it is brought to its landmark"
        return (Field("Soft within", soft.mm, enter, hint=hint),)

    def actions(self) -> Sequence[Action]:
        tie = self._tie()
        known = self._landmark in self.bench.landmarks()
        return (
            Action(
                *("bring", "Bring it there", self._bring),
                *("The vertex moves to where its landmark lies", tie is not None and known, True),
            ),
            Action("untie", "Untie", self._untie, "The vertex is not it any more", tie is not None),
        )

    def _bring(self) -> None:
        tie, to = self._tie(), self.bench.landmarks().get(self._landmark)
        if tie is None or to is None:
            return
        id_, place = tie
        doc = self.bench.committed
        mesh = doc.mesh(id_).mesh
        # Of copies, the first is what was tied.
        near = marked_vertices(doc, id_, self._landmark)[:1]
        found = going(mesh.positions, near, self.bench.soft.mm, self.bench.soft.shape)
        moved = mesh.positions[found.vertices] + found.weights[:, None] * (to - place)
        after = with_item(doc, id_, mesh=mesh.with_moved(found.vertices, moved))
        self.bench.commit(after, f"Bring {self._landmark} there")
        self.bench.refresh()

    def _untie(self) -> None:
        tie = self._tie()
        if tie is not None:
            doc = untied(self.bench.committed, tie[0], self._landmark)
            self.bench.commit(doc, f"Untie {self._landmark}")
            self.bench.refresh()

    def told(self) -> str:
        tie, to = self._tie(), self.bench.landmarks().get(self._landmark)
        if not self._landmark:
            return "There are no landmarks yet; mark one in Register."
        if tie is None:
            return f"{self._landmark} is no vertex yet."
        if to is None:
            return f"Where {self._landmark} lies is not known along all axes yet."
        off = float(np.linalg.norm(to - tie[1]))
        return f"{self._landmark} is {format_length(off, self.unit())} off."

    def overlays(self) -> Sequence[Overlay]:
        return tie_marks(self.bench.document, self.bench.landmarks())
