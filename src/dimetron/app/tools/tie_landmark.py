"""Tie places on meshes to landmarks, and bring them there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.app.kit.instrument import Action, Field, Option
from dimetron.app.tools import aim
from dimetron.app.tools.base import REACH_PX, BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.checks_seen import tie_marks
from dimetron.document.checks import tied_spot, tied_to, ties_of, untied
from dimetron.document.model import with_item
from dimetron.geometry.units import format_length
from dimetron.mesh.arrays import Floats
from dimetron.mesh.falloff import Going, going
from dimetron.mesh.patch import Patch
from dimetron.render.overlays import Overlay


@dataclass(frozen=True, slots=True, eq=False)
class _Grip:
    """A tied place (3,) of a mesh by its id, whose vertices are at positions (n, 3), and what goes
    along with it."""

    mesh: str
    place: Floats
    positions: Floats
    along: Going

    def brought(self, to: Floats) -> Patch:
        """With the place at another (3,)."""
        rows = self.along.vertices
        by = self.along.weights[:, None] * (to - self.place)
        return Patch(rows, self.positions[rows] + by)


def _under(event: BoardEvent, place: Floats) -> bool:
    """Whether the pointer is at a place (3,)."""
    return bool(np.hypot(*(event.camera.project(place) - event.px)) <= REACH_PX)


class TieLandmark(Tool):
    """Click the place that is a landmark; then bring it to where the drawings have that."""

    name, title, icon = "tie-landmark", "Landmark on the mesh", "map-pin"
    hint = "Choose a landmark, then click where on the mesh it is; drag it to where it belongs."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._name = ""
        self._held: _Grip | None = None
        self._to: Floats | None = None

    @property
    def _landmark(self) -> str:
        names = [m.name for m in self.bench.document.landmarks]
        return self._name if self._name in names else next(iter(names), "")

    def press(self, event: BoardEvent) -> bool:
        if not self._landmark:
            self.bench.warn("Mark a landmark in the drawings first, in Register.")
            return True
        tie = self._tie()
        if tie is not None and _under(event, tie[1]):
            self._held = self._grip(tie)
            return True
        found = aim.spot_at(self.bench, event)
        if found is None:
            return False
        item, spot, _ = found
        doc = tied_to(self.bench.committed, item.id, spot, self._landmark)
        self.bench.choose((item.id,))
        self.bench.commit(doc, f"Tie {self._landmark} to {item.name}")
        self.bench.refresh()
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        held = self._held
        if held is None or not pressed:
            return
        to = self.bench.landmarks().get(self._landmark)
        if to is None or not _under(event, to):
            # Otherwise it stays as deep in the pane as it was.
            depth = float(event.camera.depths(held.place))
            to = aim.point_at(event, event.px, depth)
        self._to = to
        self.bench.move(held.mesh, held.brought(to))

    def release(self, event: BoardEvent) -> None:
        held, to = self._held, self._to
        self._held = self._to = None
        if held is not None and to is not None:
            self._commit(held, to, f"Move {self._landmark} on the mesh")

    def abandon(self) -> bool:
        active = self._held is not None
        self._held = self._to = None
        if active:
            self.bench.cancel()
        return active

    def _grip(self, tie: tuple[str, np.ndarray]) -> _Grip:
        """The tied place, and what of its mesh goes along."""
        id_, place = tie
        spot = tied_spot(self.bench.committed, id_, self._landmark)
        assert spot is not None
        positions = self.bench.committed.mesh(id_).mesh.positions
        soft, near = self.bench.soft, np.array(spot.vertices, np.int32)
        return _Grip(id_, place, positions, going(positions, near, soft.mm, soft.shape))

    def _commit(self, grip: _Grip, to: Floats, words: str) -> None:
        doc, patch = self.bench.committed, grip.brought(to)
        mesh = doc.mesh(grip.mesh).mesh.with_moved(patch.vertices, patch.positions)
        self.bench.commit(with_item(doc, grip.mesh, mesh=mesh), words)
        self.bench.refresh()

    def _tie(self) -> tuple[str, np.ndarray] | None:
        """The mesh that the landmark is tied to, and where that place is."""
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

        hint = "How far around it goes along when it is brought to its landmark"
        return (Field("Soft within", soft.mm, enter, hint=hint),)

    def actions(self) -> Sequence[Action]:
        tie = self._tie()
        known = self._landmark in self.bench.landmarks()
        return (
            Action(
                *("bring", "Bring it there", self._bring),
                *("It moves to where its landmark lies", tie is not None and known, True),
            ),
            Action("untie", "Untie", self._untie, "It is that landmark no more", tie is not None),
        )

    def _bring(self) -> None:
        tie, to = self._tie(), self.bench.landmarks().get(self._landmark)
        if tie is None or to is None:
            return
        self._commit(self._grip(tie), to, f"Bring {self._landmark} there")

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
            return f"{self._landmark} is nowhere on a mesh yet."
        if to is None:
            return f"Where {self._landmark} lies is not known along all axes yet."
        off = float(np.linalg.norm(to - tie[1]))
        return f"{self._landmark} is {format_length(off, self.unit())} off."

    def overlays(self) -> Sequence[Overlay]:
        return tie_marks(self.bench.document, self.bench.landmarks())
