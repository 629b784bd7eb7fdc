"""Decoded and prepared pictures by their recipe, made on a worker; nothing waits for them."""

from __future__ import annotations

from collections import deque
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from dimetron.app.work.worker import Worker
from dimetron.document.aligning import Box
from dimetron.document.model import Document, Drawing, Source
from dimetron.imaging.errors import Stopped
from dimetron.imaging.figure.kind import Kind
from dimetron.imaging.recipe import Recipe, frame_of

if TYPE_CHECKING:
    from dimetron.imaging.pyramid import Pyramid
    from dimetron.imaging.tighten import Inked

#: Prepared pictures that nothing shows any more are kept for undo, up to so many.
_SPARE = 16
#: Handed to the worker at a time, of what may be hundreds.
_AHEAD = 8


class Pictures(QObject):
    """``pyramids`` holds the page of every sheet as it came, and every drawing as prepared."""

    ready = Signal(object)  # Recipe
    noted = Signal(str)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        # One at a time: two large pictures at once would need twice the memory.
        self._worker = Worker(self, threads=1)
        self.pyramids: dict[Recipe, Pyramid] = {}
        self._asked: set[Recipe] = set()
        #: What is to be made after what is being made.
        self._queue: deque[tuple[Recipe, Source]] = deque()
        self._being_made = 0
        self._wanted: frozenset[Recipe] = frozenset()
        #: Pages as they came, for the worker, which makes one picture after the other.
        self._pages: dict[Recipe, Pyramid] = {}
        self._inks: dict[Recipe, Inked | None] = {}

    def follow(self, doc: Document) -> None:
        """Begin to make what is new in the document; forget what has long left it."""
        pages = [doc.recipe(sheet).raw for sheet in doc.sheets]
        drawings = [doc.recipe(item) for item in doc.pictured]
        self._wanted = frozenset((*pages, *drawings))
        for recipe in (*pages, *drawings):
            source = doc.source(recipe.source)
            if source.data is not None and recipe not in self._asked:
                self._asked.add(recipe)
                self._queue.append((recipe, source))
        self._feed()
        spare = [recipe for recipe in self.pyramids if recipe not in self._wanted]
        for recipe in spare[: max(0, len(spare) - _SPARE)]:
            self._forget(recipe)

    def _forget(self, recipe: Recipe) -> None:
        self.pyramids.pop(recipe, None)
        self._pages.pop(recipe, None)
        self._inks.pop(recipe, None)
        self._asked.discard(recipe)

    def give(self, recipe: Recipe, pyramid: Pyramid) -> None:
        """Take over a page that was decoded while it was brought in."""
        self._asked.add(recipe)
        self._pages[recipe] = pyramid
        self.pyramids[recipe] = pyramid
        self.ready.emit(recipe)

    def ink(self, doc: Document, drawing: Drawing) -> Box | None:
        """Where a drawing's ink lies, in its pixels; None while the picture is not there or if it
        holds none."""
        found = self.inked(doc, drawing)
        return None if found is None else found.box

    def inked(self, doc: Document, drawing: Drawing) -> Inked | None:
        """The same with the strokes that are left out; found once for each picture."""
        recipe = doc.recipe(drawing)
        pyramid = self.pyramids.get(recipe)
        if pyramid is None:
            return None
        if recipe not in self._inks:
            from dimetron.imaging.tighten import inked

            self._inks[recipe] = inked(pyramid)
        return self._inks[recipe]

    def kind(self, doc: Document, drawing: Drawing) -> Kind | None:
        """What a drawing consists of; None while the picture is not there."""
        pyramid = self.pyramids.get(doc.recipe(drawing))
        return None if pyramid is None else pyramid.medium.kind

    def _feed(self) -> None:
        """So much to the worker that it has something to do while the window is busy."""
        while self._queue and self._being_made < _AHEAD:
            self._ask(*self._queue.popleft())

    def _ask(self, recipe: Recipe, source: Source) -> None:
        self._being_made += 1

        def done(answer: tuple[Pyramid, tuple[str, ...]] | None) -> None:
            self._being_made -= 1
            self._feed()
            if answer is None:
                self._asked.discard(recipe)
                return
            self.pyramids[recipe] = answer[0]
            for note in answer[1]:
                self.noted.emit(f"{source.name}: {note}.")
            self.ready.emit(recipe)

        def failed(error: Exception) -> None:
            self._being_made -= 1
            self._feed()
            if isinstance(error, Stopped):
                self._asked.discard(recipe)
                return
            self.noted.emit(str(error) or f"{source.name} cannot be shown.")

        self._worker.run(partial(self._make, recipe, source), done, failed)

    def _make(self, recipe: Recipe, source: Source) -> tuple[Pyramid, tuple[str, ...]] | None:
        """On the worker: the picture and what was odd about its file; None if it is stale."""
        if recipe not in self._wanted:
            return None
        page, notes = self._page(recipe.raw, source)
        if recipe.plain:
            return page, notes
        from dimetron.imaging.prepare import pyramid_on

        return pyramid_on(page, frame_of(recipe), recipe.tone, recipe.figure), ()

    def _unwanted(self, source: str) -> bool:
        return all(recipe.source != source for recipe in self._wanted)

    def _page(self, raw: Recipe, source: Source) -> tuple[Pyramid, tuple[str, ...]]:
        known = self._pages.get(raw)
        if known is not None:
            return known, ()
        from dimetron.imaging.pyramid import build
        from dimetron.imaging.read import decode

        assert source.data is not None
        unwanted = partial(self._unwanted, source.id)
        picture = decode(source.data, source.name, raw.page, stop=unwanted)
        page = self._pages[raw] = build(picture.image)
        return page, picture.notes

    def stop(self) -> None:
        """The window closes: nothing is wanted any more."""
        self._wanted = frozenset()
        self._queue.clear()

    def leave(self, project: bool) -> None:
        """When another project is about to be opened; ids are never reused, so late answers do no
        harm."""
        if project:
            self.pyramids.clear()
            self._pages.clear()
            self._inks.clear()
            self._asked.clear()
            self._queue.clear()

    @property
    def busy(self) -> bool:
        return self._worker.busy

    def wait(self) -> None:
        self._worker.wait()


def thumbnail(pyramid: Pyramid) -> QImage:
    """The coarsest level as an image of its own."""
    image = pyramid.levels[-1]
    w, h = image.size
    kind = {
        "L": (1, QImage.Format.Format_Grayscale8),
        "RGB": (3, QImage.Format.Format_RGB888),
        "RGBA": (4, QImage.Format.Format_RGBA8888),
    }
    channels, form = kind[image.mode]
    return QImage(image.tobytes(), w, h, w * channels, form).copy()
