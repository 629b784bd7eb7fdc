"""What the drawings' ink proposes, worked out on a worker."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, TypeVar

import numpy as np
from PySide6.QtCore import QObject, Signal

from dimetron.app.work.pictures import Pictures
from dimetron.app.work.session import Session
from dimetron.app.work.worker import Worker
from dimetron.document.model import Document, Drawing, MeshObject
from dimetron.imaging.errors import Stopped
from dimetron.imaging.recipe import Recipe

if TYPE_CHECKING:
    from dimetron.imaging.pyramid import Pyramid
    from dimetron.imaging.shape import Shape
    from dimetron.mesh.arrays import Floats
    from dimetron.mesh.mesh import Mesh
    from dimetron.outlines.trace import Traced
    from dimetron.registration.byink.features import Feature
    from dimetron.registration.byink.proposal import Proposal

T = TypeVar("T")


class Comparer(QObject):
    """``busy``: words while it works, empty when it ends. Shapes are read once for each picture;
    an answer that the project has moved on from is dropped."""

    busy = Signal(str)

    def __init__(self, session: Session, pictures: Pictures) -> None:
        super().__init__(session)
        self._session = session
        self._pictures = pictures
        self._worker = Worker(self, threads=1)
        self._shapes: dict[Recipe, Shape | None] = {}
        self._asked = 0

    def stop(self) -> None:
        self._asked += 1
        self.busy.emit("")

    def propose(
        self,
        done: Callable[[Proposal], None],
        only: tuple[str, ...] = (),
        mesh: MeshObject | None = None,
    ) -> None:
        """How the drawings lie by their ink; only: of these, of which the first stays where it is;
        mesh: they come to lie about it, as large as it. Raises ValueError if they cannot be
        compared yet."""
        doc = self._session.committed
        drawings = tuple(d for d in self._compared(doc) if not only or d.id in only)
        if len(drawings) < 2:
            raise ValueError("Place two drawings of different views first.")

        def work(shapes: dict[str, Shape]) -> Proposal:
            from dimetron.document.registering import pictures_of
            from dimetron.registration.byink.proposal import Given, proposed

            # What was modelled already must not lose its drawings.
            given = Given(in_place=bool(doc.meshes))
            if mesh is not None:
                low, high = (np.asarray(end) for end in mesh.mesh.bounds)
                x, y, z = (float(v) for v in (low + high) / 2)
                size = dict(enumerate((high - low).tolist()))
                given = Given({axis: mm for axis, mm in size.items() if mm > 0}, False, (x, y, z))
            return proposed(pictures_of(doc, stays=only[:1]), shapes, given)

        self._run("Comparing the drawings…", doc, drawings, work, done)

    def features(self, done: Callable[[tuple[Feature, ...]], None]) -> None:
        """What several drawings show at the same place. Raises ValueError."""
        doc = self._session.committed
        drawings = self._compared(doc)

        def work(shapes: dict[str, Shape]) -> tuple[Feature, ...]:
            from dimetron.document.registering import features_of

            return features_of(doc, shapes)

        self._run("Looking for what the drawings share…", doc, drawings, work, done)

    def trace(
        self,
        drawing: Drawing,
        line: str,
        miss_px: float,
        done: Callable[[tuple[Traced, ...]], None],
        within: Floats | None = None,
    ) -> None:
        """The outlines of what is drawn, or of what lies within a polygon of the drawing's pixels.
        Raises ValueError."""
        doc = self._session.committed
        pyramid = self._pictures.pyramids.get(doc.recipe(drawing))
        if pyramid is None:
            raise ValueError("Wait until the drawing is read.")
        mine = self._asked + 1

        def work(_: dict[str, Shape]) -> tuple[Traced, ...]:
            from dimetron.outlines.itself import traced_by_itself

            def progress(share: float) -> None:
                if mine != self._asked:
                    raise Stopped

            return traced_by_itself(pyramid, line, miss_px, progress, within)

        self._run(f"Tracing {drawing.name}…", doc, (), work, done)

    def work_out(
        self, words: str, work: Callable[[Callable[[float], None]], T], done: Callable[[T], None]
    ) -> None:
        """Do something long; it is told how to tell how far it is."""
        doc = self._session.committed
        mine = self._asked + 1

        def progress(share: float) -> None:
            if mine != self._asked:
                raise Stopped

        self._run(words, doc, (), lambda _: work(progress), done)

    def block(self, quads: bool, size: float | None, done: Callable[[Mesh], None]) -> None:
        """The largest solid that the outlines of all shown drawings allow. Raises ValueError."""
        doc = self._session.committed
        planes = tuple(d for d in doc.planes if doc.visible(d))
        recipes = {d.id: doc.recipe(d) for d in planes}
        if not planes:
            raise ValueError("Place drawings first.")
        if any(recipe not in self._pictures.pyramids for recipe in recipes.values()):
            raise ValueError("Wait until the drawings are read.")
        pyramids = {id_: self._pictures.pyramids[recipe] for id_, recipe in recipes.items()}
        mine = self._asked + 1

        def work(_: dict[str, Shape]) -> Mesh:
            from dimetron.document.blocking import blocked, outlined

            def progress(share: float) -> None:
                if mine != self._asked:
                    raise Stopped

            return blocked(outlined(doc, pyramids, progress), quads, size)

        self._run("Blocking out the drawings…", doc, (), work, done)

    def _compared(self, doc: Document) -> tuple[Drawing, ...]:
        """Shown drawings of principal views, whose pictures are there."""
        from dimetron.geometry.views import View

        found = tuple(d for d in doc.planes if isinstance(d.view, View) and doc.visible(d))
        if any(doc.recipe(d) not in self._pictures.pyramids for d in found):
            raise ValueError("Wait until the drawings are read.")
        return found

    def _run(
        self,
        words: str,
        doc: Document,
        drawings: tuple[Drawing, ...],
        work: Callable[[dict[str, Shape]], T],
        done: Callable[[T], None],
    ) -> None:
        self._asked += 1
        mine = self._asked
        wanted = {d.id: doc.recipe(d) for d in drawings}
        pyramids = {r: self._pictures.pyramids[r] for r in wanted.values()}
        self._shapes = {r: s for r, s in self._shapes.items() if r in pyramids}

        def job() -> T | None:
            shapes = {}
            for id_, recipe in wanted.items():
                if mine != self._asked:
                    return None
                shape = self._shape(recipe, pyramids[recipe])
                if shape is not None:
                    shapes[id_] = shape
            return work(shapes)

        def finished(answer: T | None) -> None:
            if mine != self._asked:
                return
            self.busy.emit("")
            if answer is not None and self._session.committed is doc:
                done(answer)

        def failed(error: Exception) -> None:
            if mine == self._asked:
                self.busy.emit("")
                self._session.warn(str(error))

        self.busy.emit(words)
        self._worker.run(job, finished, failed)

    def _shape(self, recipe: Recipe, pyramid: Pyramid) -> Shape | None:
        """On the worker."""
        from dimetron.imaging.shape import shape_of

        if recipe not in self._shapes:
            self._shapes[recipe] = shape_of(pyramid)
        return self._shapes[recipe]
