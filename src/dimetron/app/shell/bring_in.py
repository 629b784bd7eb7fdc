"""Bringing pictures in: from files, from a drop, from the clipboard; decoded on a worker."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QObject, QSize, Qt, Signal
from PySide6.QtGui import QImage, QImageReader, QPixmap
from PySide6.QtWidgets import QFileDialog, QGridLayout, QLabel, QWidget

from dimetron.app.work.pictures import Pictures
from dimetron.app.work.session import Session
from dimetron.app.work.worker import Worker
from dimetron.document import edits, loosening, placing
from dimetron.document.model import Drawing, Source, source_from
from dimetron.geometry.views import AnyView, View
from dimetron.imaging.endings import ENDINGS
from dimetron.imaging.errors import Stopped

if TYPE_CHECKING:
    from dimetron.imaging.pyramid import Pyramid

#: Words in a file's name that tell the view it shows.
_VIEW_WORDS = {
    View.FRONT: ("front",),
    View.BACK: ("back", "rear"),
    View.LEFT: ("left",),
    View.RIGHT: ("right", "side"),
    View.TOP: ("top", "plan"),
    View.BOTTOM: ("bottom", "underside", "below"),
}
#: What Qt draws a preview of, by its own names.
_PREVIEWED = ("png", "jpeg", "bmp", "gif", "webp", "tiff")
_ENDINGS = " ".join(f"*{ending}" for ending in ENDINGS)


def view_from_name(name: str) -> View | None:
    """The view that a file's name tells, if it does."""
    lowered = name.lower()
    return next((v for v, words in _VIEW_WORDS.items() if any(w in lowered for w in words)), None)


@dataclass(frozen=True, slots=True)
class Wish:
    """A picture to bring in: its bytes or where they are, and the view it is for; None brings it
    in as a sheet, if it is not to be a loose picture or the new picture of a drawing."""

    name: str
    view: AnyView | None
    path: Path | None = None
    data: bytes | None = None
    #: Comes in as a loose picture.
    loose: bool = False
    #: The drawing it becomes the picture of.
    into: str = ""


@dataclass(frozen=True, slots=True)
class _Read:
    source: Source
    pyramid: Pyramid
    notes: tuple[str, ...]
    wish: Wish
    batch: _Batch


@dataclass(slots=True)
class _Batch:
    """What was asked for together is stopped together."""

    stopped: bool = False


def _read(wish: Wish, batch: _Batch) -> _Read:
    if batch.stopped:
        raise Stopped(f"{wish.name} was stopped.")
    # The window starts without the decoders; the first picture loads them on this worker.
    from dimetron.imaging.files import file_bytes
    from dimetron.imaging.pyramid import build
    from dimetron.imaging.read import read

    data = wish.data
    if data is None:
        assert wish.path is not None
        data = file_bytes(wish.path)
    info, picture = read(data, wish.name, stop=lambda: batch.stopped)
    source = source_from(data, wish.name, info.extension, picture.size_px, info.mm_per_px)
    return _Read(source, build(picture.image), picture.notes, wish, batch)


class Bringer(QObject):
    """Reads wishes one by one and adds each as a drawing or a sheet when it is there. ``busy``:
    says what goes on and how it can be stopped."""

    sheet_came = Signal(str)

    def __init__(
        self,
        session: Session,
        pictures: Pictures,
        busy: Callable[[str, Callable[[], None]], None],
        parent: QObject,
    ) -> None:
        super().__init__(parent)
        self._session = session
        self._pictures = pictures
        self._busy = busy
        self._worker = Worker(self, threads=1)
        self._left = 0
        self._batch = _Batch()

    @property
    def active(self) -> bool:
        return self._left > 0

    def stop(self) -> None:
        """Cancel: what is still being read is not added."""
        self._batch.stopped = True

    def bring(self, wishes: Sequence[Wish]) -> None:
        if self._batch.stopped:
            self._batch = _Batch()
        self._left += len(wishes)
        for wish in wishes:
            self._worker.run(partial(_read, wish, self._batch), self._add, self._refuse)
        self._tell()

    def _tell(self) -> None:
        words = "" if not self._left else f"Reading {self._left} picture"
        self._busy(words + ("s…" if self._left > 1 else "…") if words else "", self.stop)

    def _add(self, read: _Read) -> None:
        self._left -= 1
        words = ""
        if not read.batch.stopped:
            words = self._added(read)
        self._tell()
        if words:
            self._session.warn(words)
        for note in read.notes:
            self._session.tell(f"{read.source.name}: {note}.")

    def _added(self, read: _Read) -> str:
        """Make a step of it; returns what should be said about it."""
        doc, wish, words = self._session.committed, read.wish, ""
        as_sheet = wish.view is None and not wish.loose and not wish.into
        if wish.into and isinstance(doc.item(wish.into), Drawing):
            id_ = wish.into
            doc, sheet = edits.with_sheet(doc, read.source)
            doc, words = placing.with_picture(doc, id_, sheet)
            recipe = doc.recipe(doc.drawing(id_))
        elif wish.loose:
            doc, id_ = loosening.with_loose(doc, read.source)
            recipe = doc.recipe(next(p for p in doc.loose if p.id == id_))
        elif wish.view is None:
            doc, id_ = edits.with_sheet(doc, read.source)
            recipe = doc.recipe(doc.sheet(id_))
        else:
            doc, id_ = edits.with_drawing(doc, read.source, wish.view)
            recipe = doc.recipe(doc.drawing(id_))
        self._pictures.give(recipe.raw, read.pyramid)
        self._session.commit(doc, f"Bring in {read.source.name}")
        if as_sheet:
            self.sheet_came.emit(id_)
        else:
            self._session.choose((id_,))
        return words

    def _refuse(self, error: Exception) -> None:
        self._left -= 1
        self._tell()
        if isinstance(error, Stopped):
            return
        if isinstance(error, MemoryError):
            self._session.warn("A picture needs more memory than there is; reduce it first.")
        else:
            self._session.warn(str(error))


def wishes_for(paths: Sequence[Path], view: AnyView | None) -> list[Wish]:
    """One file goes where it was dropped; several go by their names, else there too."""
    found = []
    for path in paths:
        named = view_from_name(path.name)
        chosen = (view or named) if len(paths) == 1 else (named or view)
        found.append(Wish(path.name, chosen or View.FRONT, path=path))
    return found


def clipboard_wish(image: QImage, view: AnyView | None) -> Wish | None:
    """A picture from the clipboard as a PNG; None if there is none."""
    if image.isNull():
        return None
    store = QByteArray()
    buffer = QBuffer(store)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG", 80)  # type: ignore[call-overload]
    return Wish("pasted.png", view, data=bytes(store.data()))


class PictureDialog(QFileDialog):
    """Choose pictures, with a preview of the one under the cursor; and files of ``others``, which
    are endings with their dot."""

    def __init__(self, parent: QWidget, folder: str, others: Sequence[str] = ()) -> None:
        title, kinds = "Bring in drawings", f"Pictures ({_ENDINGS})"
        if others:
            endings = " ".join(f"*{ending}" for ending in others)
            title = "Bring in drawings and meshes"
            kinds = f"Pictures and meshes ({_ENDINGS} {endings});;{kinds};;Meshes ({endings})"
        super().__init__(parent, title, folder, kinds)
        self.setOption(QFileDialog.Option.DontUseNativeDialog)
        self.setFileMode(QFileDialog.FileMode.ExistingFiles)
        self.resize(880, 480)
        self.preview = QLabel("No picture chosen")
        self.preview.setFixedWidth(240)
        self.preview.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.preview.setWordWrap(True)
        self.preview.setProperty("class", "soft")
        grid = self.layout()
        if isinstance(grid, QGridLayout):
            grid.addWidget(self.preview, 1, 3)
        self.currentChanged.connect(self._show)

    def _show(self, path: str) -> None:
        # Decoded at preview size where the format allows it; a bomb's header is enough to stop.
        # Neither what may never end (a pipe) nor what may take for ever (a drawing) is looked into.
        if not Path(path).is_file() or Path(path).suffix.lower() in (".svg", ".pdf"):
            self.preview.setText("No preview")
            return
        reader = QImageReader(path)
        reader.setAutoTransform(True)
        size = reader.size()
        known = bytes(reader.format().data()).decode("ascii", "replace") in _PREVIEWED
        if not known or not size.isValid() or size.width() * size.height() > 100_000_000:
            self.preview.setText("No preview")
            return
        reader.setScaledSize(size.scaled(QSize(230, 230), Qt.AspectRatioMode.KeepAspectRatio))
        image = reader.read()
        if image.isNull():
            self.preview.setText("Not a picture, or damaged")
        else:
            self.preview.setPixmap(QPixmap.fromImage(image))
