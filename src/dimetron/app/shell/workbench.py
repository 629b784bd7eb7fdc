"""The bench that tools work at: the session, the board's sight, and snapping."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, TypeVar

import numpy as np
from PySide6.QtCore import QObject, Signal

from dimetron.app.board.widget import Board
from dimetron.app.shell.title_block import SNAP_CHOICES
from dimetron.app.tools.bench import Frame, Soft
from dimetron.app.work.comparing import Comparer
from dimetron.app.work.fitting import Fitting
from dimetron.app.work.operating import Operating
from dimetron.app.work.pictures import Pictures
from dimetron.app.work.registering import Registration
from dimetron.app.work.session import Session
from dimetron.app.work.settings import Settings
from dimetron.document.aligning import Box
from dimetron.document.formulas import InkOf
from dimetron.document.model import Document, Drawing, MeshObject
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, Ints, Mask
from dimetron.mesh.patch import Patch
from dimetron.mesh.select import Kind, Selection
from dimetron.render.scene import Section, Shading

#: How far ink is looked for, in pixels of the drawing.
_LEAST_REACH, _MOST_REACH = 2.0, 40.0

if TYPE_CHECKING:
    from dimetron.imaging.inkpoint import InkPoint
    from dimetron.imaging.pyramid import Pyramid
    from dimetron.imaging.tighten import Inked
    from dimetron.mesh.findings import Finding as Unsound
    from dimetron.mesh.mesh import Mesh
    from dimetron.outlines.trace import Traced
    from dimetron.registration.byink.features import Feature
    from dimetron.registration.byink.proposal import Proposal
    from dimetron.registration.diagnosis import Finding
    from dimetron.registration.gain import Gain
    from dimetron.registration.solve import Solution


_T = TypeVar("_T")


class Workbench(QObject):
    """Fulfils ``tools.bench.Bench``."""

    refreshed = Signal()

    def __init__(
        self,
        session: Session,
        board: Board,
        settings: Settings,
        pictures: Pictures,
        registration: Registration,
        operating: Operating,
        fitting: Fitting,
    ) -> None:
        super().__init__(board)
        self._session = session
        self._board = board
        self._settings = settings
        self._pictures = pictures
        self._registration = registration
        self.operating, self.fitting = operating, fitting
        self.soft, self.frame = Soft(), Frame()
        self.comparer = Comparer(session, pictures)
        session.ink_of = pictures.ink
        session.kind_of = pictures.kind
        session.ink_shown_changed.connect(board.update)
        pictures.ready.connect(lambda _: session.ink_known())
        self._snaps = frozenset(
            name for name, _ in SNAP_CHOICES if settings.flag(f"snap/{name}", name == "ink")
        )

    @property
    def committed(self) -> Document:
        return self._session.committed

    @property
    def document(self) -> Document:
        return self._session.document

    def preview(self, document: Document) -> None:
        self._session.preview(document)

    def move(self, id_: str, patch: Patch) -> None:
        self._session.move(id_, patch)

    def commit(self, document: Document, label: str) -> None:
        self._session.commit(document, label)

    def recommit(self, document: Document, label: str) -> None:
        self._session.recommit(document, label)

    def undo(self) -> None:
        self._session.undo()

    def cancel(self) -> None:
        self._session.cancel()

    @property
    def chosen(self) -> tuple[str, ...]:
        return self._session.chosen

    @property
    def chosen_mesh(self) -> MeshObject | None:
        return self._session.chosen_mesh

    def choose(self, ids: tuple[str, ...]) -> None:
        self._session.choose(ids)

    @property
    def kind(self) -> Kind:
        return self._session.kind

    @property
    def selected(self) -> Ints:
        return self._session.selected

    @property
    def part(self) -> Selection:
        return self._session.part

    def select(self, kind: Kind, indices: Ints, last: int = -1) -> None:
        self._session.select(kind, indices, last)

    def findings(self, item: MeshObject) -> tuple[Unsound, ...] | None:
        return self._session.looking_over.of_item(item)

    @property
    def snaps(self) -> frozenset[str]:
        return self._snaps

    def toggle_snap(self, name: str) -> None:
        self._snaps = self._snaps ^ {name}
        self._settings.set(f"snap/{name}", name in self._snaps)
        self._session.chosen_changed.emit()

    def shading(self, slot: str) -> Shading:
        return self._board.sight.shading[slot]

    def in_sight(self, slot: str, points: Floats) -> Mask:
        return self._board.in_sight(slot, points)

    def scale_of(self, view: AnyView) -> float | None:
        return self._board.sight.scale_of(view, self._board.rects())

    def ink(self, drawing: Drawing) -> Box | None:
        return self._pictures.ink(self._session.document, drawing)

    def inked(self, drawing: Drawing) -> Inked | None:
        return self._pictures.inked(self._session.document, drawing)

    @property
    def ink_of(self) -> InkOf:
        return self._session.ink_of

    def ink_point(self, drawing: Drawing, px: tuple[float, float], reach: float) -> InkPoint | None:
        from dimetron.imaging.inkpoint import ink_point

        pyramid = self._pictures.pyramids.get(self._session.document.recipe(drawing))
        if pyramid is None:
            return None
        reach = min(max(reach, _LEAST_REACH), _MOST_REACH)
        return ink_point(pyramid.levels[0], px, reach, pyramid.medium)

    def ink_crossings(
        self, drawing: Drawing, a: tuple[float, float], b: tuple[float, float]
    ) -> Floats:
        from dimetron.imaging.inkline import ink_crossings

        pyramid = self.pyramid(drawing)
        if pyramid is None:
            return np.zeros(0)
        return ink_crossings(pyramid.levels[0], a, b, pyramid.medium)

    def pyramid(self, drawing: Drawing) -> Pyramid | None:
        return self._pictures.pyramids.get(self._session.document.recipe(drawing))

    def trace(
        self,
        drawing: Drawing,
        line: str,
        miss_px: float,
        done: Callable[[tuple[Traced, ...]], None],
        within: Floats | None = None,
    ) -> None:
        self.comparer.trace(drawing, line, miss_px, done, within)

    def work_out(
        self, words: str, work: Callable[[Callable[[float], None]], _T], done: Callable[[_T], None]
    ) -> None:
        self.comparer.work_out(words, work, done)

    def block(self, quads: bool, size: float | None, done: Callable[[Mesh], None]) -> None:
        self.comparer.block(quads, size, done)

    def propose(
        self,
        done: Callable[[Proposal], None],
        only: tuple[str, ...] = (),
        mesh: MeshObject | None = None,
    ) -> None:
        self.comparer.propose(done, only, mesh)

    def features(self, done: Callable[[tuple[Feature, ...]], None]) -> None:
        self.comparer.features(done)

    def view_in(self, slot: str) -> AnyView | None:
        return self._board.sight.views[slot]

    def give_back(self, slot: str) -> None:
        self._board.look(self._board.sight.given_back(slot))

    def show_view(self, slot: str, view: AnyView) -> None:
        self._board.look(self._board.sight.with_view(slot, view))

    def registered(self, document: Document) -> Solution | None:
        return self._registration.solution(document)

    def registration_words(self, document: Document) -> tuple[str, tuple[str, ...]]:
        registration = self._registration
        odd = registration.suspected_words(document)
        return registration.fault(document), (*odd, *registration.problems(document))

    def landmarks(self) -> dict[str, Floats]:
        return self._registration.places(self._session.document)

    def gain(self, document: Document) -> Gain | None:
        return self._registration.gain(document)

    def repairs(self) -> tuple[Finding, ...]:
        found = self._registration.advice(self._session.committed).findings
        return tuple(f for f in found if f.repair is not None)

    @property
    def section(self) -> Section | None:
        return self._board.sight.section

    def cut(self, section: Section | None) -> None:
        self._board.look(replace(self._board.sight, section=section))

    def warn(self, words: str) -> None:
        self._session.refuse(words)

    def refresh(self) -> None:
        self.refreshed.emit()

    def pointed_slot(self) -> str | None:
        return self._board.pointed_slot
