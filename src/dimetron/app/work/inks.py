"""What pictures of drawings show, read by a worker when it is first asked for."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QObject, Signal

from dimetron.app.work.pictures import Pictures
from dimetron.app.work.worker import Worker
from dimetron.document.fitting import Inked, inked, named
from dimetron.document.model import Drawing
from dimetron.imaging.recipe import Recipe
from dimetron.mesh.arrays import Floats
from dimetron.outlines.path import OutlineError
from dimetron.outlines.silhouette import strokes

#: Instead of what is not known yet.
READING = "being read"


class Inks(QObject):
    """``ready``: something is known that was asked for before."""

    ready = Signal()

    def __init__(self, parent: QObject, pictures: Pictures) -> None:
        super().__init__(parent)
        self._pictures = pictures
        self._worker = Worker(self, threads=1)
        self._inked: dict[Recipe, Inked | str | None] = {}
        self._strokes: dict[Recipe, tuple[Floats, ...] | None] = {}

    @property
    def reading(self) -> bool:
        """Whether something is still to come."""
        return any(one is None for one in (*self._inked.values(), *self._strokes.values()))

    def of(self, recipe: Recipe, drawing: Drawing) -> Inked | str:
        """What a picture shows of the object, or why that cannot be told; until it was read, that
        it is being read."""
        if recipe in self._inked:
            known = self._inked[recipe]
            return known if known is not None else READING
        pyramid = self._pictures.pyramids.get(recipe)
        if pyramid is None:
            return READING
        self._inked[recipe] = None

        def done(found: Inked | str) -> None:
            self._inked[recipe] = found
            self.ready.emit()

        def failed(error: Exception) -> None:
            done(named(drawing, error) if isinstance(error, OutlineError) else str(error))

        self._worker.run(partial(inked, pyramid), done, failed)
        return READING

    def strokes_of(self, recipe: Recipe) -> tuple[Floats, ...] | None:
        """All lines of a picture, in its pixels; None until it was read, and none where it cannot
        be."""
        pyramid = self._pictures.pyramids.get(recipe)
        if recipe not in self._strokes and pyramid is not None:
            self._strokes[recipe] = None

            def done(found: list[Floats]) -> None:
                self._strokes[recipe] = tuple(found)
                self.ready.emit()

            self._worker.run(partial(strokes, pyramid), done, lambda error: done([]))
        return self._strokes.get(recipe)
