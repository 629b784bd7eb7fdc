"""A folder of pictures with thumbnails, in place of the sheet: choose some and bring them in."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, QSize, Qt, Signal
from PySide6.QtGui import QIcon, QKeyEvent, QPixmap
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QListView,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from dimetron.app.work.settings import Settings
from dimetron.app.work.worker import Worker

_SIDE = 148


class Browser(QWidget):
    """``wanted``: paths to bring in. ``closed``: the person is done with it."""

    wanted = Signal(object)
    closed = Signal()

    def __init__(self, settings: Settings, parent: QObject | None = None) -> None:
        super().__init__()
        self.setObjectName("browser")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._settings = settings
        self._worker = Worker(self, threads=1)
        self._folder = Path()
        self._turn = 0
        self.where = QLabel()
        self.where.setProperty("class", "soft")
        self.words = QLabel()
        self.words.setProperty("class", "soft")
        self.words.setWordWrap(True)
        up = _button("One up", "To the folder above", lambda: self.show_folder(self._folder.parent))
        other = _button("Another folder…", "Choose a folder", self._choose)
        done = _button("Close", "Back to the sheet", self.closed.emit)
        self.bring = _button("Bring in", "Bring in what is chosen as sheets", self._bring)
        self.bring.setProperty("main", True)
        self.list = QListWidget()
        self.list.setViewMode(QListView.ViewMode.IconMode)
        self.list.setResizeMode(QListView.ResizeMode.Adjust)
        self.list.setMovement(QListView.Movement.Static)
        self.list.setSelectionMode(QListWidget.SelectionMode.ExtendedSelection)
        self.list.setIconSize(QSize(_SIDE, _SIDE))
        self.list.setGridSize(QSize(_SIDE + 26, _SIDE + 40))
        self.list.setWordWrap(True)
        blank = QPixmap(_SIDE, _SIDE)
        blank.fill(Qt.GlobalColor.transparent)
        self._blank = QIcon(blank)
        self.list.setAccessibleName("Pictures of the folder")
        self.list.itemActivated.connect(self._activated)
        self.list.itemSelectionChanged.connect(self._count)
        top = QHBoxLayout()
        for part in (up, other):
            top.addWidget(part)
        top.addWidget(self.where, 1)
        for part in (self.bring, done):
            top.addWidget(part)
        box = QVBoxLayout(self)
        box.setContentsMargins(12, 10, 12, 10)
        box.addLayout(top)
        box.addWidget(self.words)
        box.addWidget(self.list, 1)

    def open(self) -> None:
        """Show the folder that pictures last came from."""
        last = self._settings.text("folders/pictures", "")
        self.show_folder(Path(last) if last and Path(last).is_dir() else Path.home())

    def show_folder(self, folder: Path) -> None:
        from dimetron.imaging.errors import PictureError
        from dimetron.imaging.thumbs import pictures_in

        self._turn += 1
        self.list.clear()
        self._folder = folder
        self.where.setText(str(folder))
        try:
            inner = sorted((p for p in folder.iterdir() if _is_folder(p)), key=lambda p: p.name)
            pictures = pictures_in(folder)
        except (OSError, PictureError) as error:
            self.words.setText(f"This folder cannot be read: {error}")
            return
        empty = "No pictures in this folder." if not pictures else ""
        self.words.setText(empty)
        self.words.setVisible(bool(empty))
        for path in inner:
            self._add(path, f"{path.name}/")
        for path in pictures:
            self._ask(self._add(path, path.name), path)
        self._settings.set("folders/pictures", str(folder))
        self._count()

    def _add(self, path: Path, title: str) -> QListWidgetItem:
        item = QListWidgetItem(self._blank, title)
        item.setSizeHint(QSize(_SIDE + 20, _SIDE + 34))
        item.setData(Qt.ItemDataRole.UserRole, str(path))
        item.setToolTip(str(path))
        self.list.addItem(item)
        return item

    def _ask(self, item: QListWidgetItem, path: Path) -> None:
        """Make a thumbnail on the worker; it is dropped if another folder is shown by then."""
        turn = self._turn
        row = self.list.row(item)

        def work() -> object:
            if turn != self._turn:
                return None
            from dimetron.imaging.thumbs import thumbnail_of

            return thumbnail_of(path, _SIDE * 2)

        self._worker.run(work, partial(self._show, turn, row), partial(self._failed, turn, row))

    def _show(self, turn: int, row: int, image: object) -> None:
        if turn != self._turn or image is None:
            return
        from dimetron.app.sheet.view import qimage
        from dimetron.imaging.prepare import pixels_of

        pixmap = QPixmap.fromImage(qimage(pixels_of(image), 2.0))  # type: ignore[arg-type]
        self.list.item(row).setIcon(QIcon(pixmap))

    def _failed(self, turn: int, row: int, error: Exception) -> None:
        if turn == self._turn:
            item = self.list.item(row)
            item.setToolTip(str(error))
            item.setText(f"{item.text()} (no preview)")

    def chosen(self) -> list[Path]:
        paths = [Path(i.data(Qt.ItemDataRole.UserRole)) for i in self.list.selectedItems()]
        return [p for p in paths if not p.is_dir()]

    def _count(self) -> None:
        count = len(self.chosen())
        self.bring.setEnabled(count > 0)
        self.bring.setText(f"Bring in {count}" if count > 1 else "Bring in")

    def _bring(self) -> None:
        if self.chosen():
            self.wanted.emit(self.chosen())

    def _activated(self, item: QListWidgetItem) -> None:
        path = Path(item.data(Qt.ItemDataRole.UserRole))
        if path.is_dir():
            self.show_folder(path)
        else:
            self.wanted.emit([path])

    def _choose(self) -> None:
        name = QFileDialog.getExistingDirectory(self, "Choose a folder", str(self._folder))
        if name:
            self.show_folder(Path(name))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Backspace:
            self.show_folder(self._folder.parent)
        else:
            super().keyPressEvent(event)

    def wait(self) -> None:
        self._worker.wait()


def _is_folder(path: Path) -> bool:
    try:
        return path.is_dir() and not path.name.startswith(".")
    except OSError:
        return False


def _button(title: str, hint: str, run: object) -> QPushButton:
    button = QPushButton(title)
    button.setToolTip(hint)
    button.clicked.connect(lambda: run())  # type: ignore[operator]
    return button
