"""Decoded pictures by source id, made on a worker; the board waits without blocking."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from dimetron.app.work import Worker
from dimetron.document.model import Document, Source

if TYPE_CHECKING:
    from dimetron.imaging.pyramid import Pyramid


def _decoded(source: Source) -> tuple[Pyramid, tuple[str, ...]]:
    assert source.data is not None
    from dimetron.imaging.pyramid import build
    from dimetron.imaging.read import decode

    picture = decode(source.data, source.name)
    return build(picture.image), picture.notes


class Pictures(QObject):
    ready = Signal(str)
    noted = Signal(str)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        # One at a time: two large pictures at once would need twice the memory.
        self._worker = Worker(self, threads=1)
        self.pyramids: dict[str, Pyramid] = {}
        self._asked: set[str] = set()

    def follow(self, doc: Document) -> None:
        """Begin to decode what is new in the document."""
        for source in doc.sources:
            if source.data is not None and source.id not in self._asked:
                self._ask(source)

    def give(self, source: Source, pyramid: Pyramid) -> None:
        """Take over a picture that was decoded while it was brought in."""
        self._asked.add(source.id)
        self.pyramids[source.id] = pyramid
        self.ready.emit(source.id)

    def _ask(self, source: Source) -> None:
        self._asked.add(source.id)

        def done(answer: tuple[Pyramid, tuple[str, ...]]) -> None:
            self.pyramids[source.id] = answer[0]
            for note in answer[1]:
                self.noted.emit(f"{source.name}: {note}.")
            self.ready.emit(source.id)

        def failed(error: Exception) -> None:
            self.noted.emit(str(error) or f"{source.name} cannot be shown.")

        self._worker.run(lambda: _decoded(source), done, failed)

    def forget_all(self) -> None:
        """When another project is opened; ids are never reused, so late answers do no harm."""
        self.pyramids.clear()
        self._asked.clear()

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
