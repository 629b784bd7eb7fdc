"""How pictures, meshes and projects arrive at the window: by dialog, paste or drop."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Qt
from PySide6.QtWidgets import QApplication, QDialog, QWidget

from dimetron.app.board.widget import Board
from dimetron.app.kit.dropped import local_files
from dimetron.app.shell.bring_in import Bringer, PictureDialog, Wish, clipboard_wish, wishes_for
from dimetron.app.shell.files import Files
from dimetron.app.shell.mesh_bringer import MeshBringer
from dimetron.app.shell.outline_bringer import DROPPED, OutlineBringer
from dimetron.app.tools.base import BoardEvent
from dimetron.app.work.session import Session
from dimetron.app.work.settings import Settings
from dimetron.document.container import SUFFIX
from dimetron.geometry.views import AnyView, View


class Arrivals(QObject):
    def __init__(
        self,
        window: QWidget,
        session: Session,
        board: Board,
        files: Files,
        bringer: Bringer,
        mesh_bringer: MeshBringer,
        outline_bringer: OutlineBringer,
        settings: Settings,
        preparing: Callable[[], bool],
    ) -> None:
        super().__init__(window)
        self._window = window
        self._session = session
        self._board = board
        self._files = files
        self._bringer = bringer
        self._mesh_bringer = mesh_bringer
        self._outline_bringer = outline_bringer
        self._settings = settings
        self._preparing = preparing
        board.dropped.connect(self._on_dropped)
        session.picture_wanted.connect(self.choose_picture_for)

    def choose(self) -> None:
        paths = self._chosen_files(meshes=True)
        if paths:
            self._bring(paths, None)

    def choose_outlines(self) -> None:
        """Bring in the curves of SVG and DXF files as outlines."""
        self._outline_bringer.ask()

    def _chosen_files(self, meshes: bool = False) -> list[Path]:
        """meshes: whether mesh files may be chosen, too."""
        folder = self._settings.text("folders/pictures", "")
        dialog = PictureDialog(self._window, folder, mesh_endings() if meshes else ())
        if dialog.exec() != QDialog.DialogCode.Accepted:
            return []
        paths = [Path(name) for name in dialog.selectedFiles()]
        if paths:
            self._settings.set("folders/pictures", str(paths[0].parent))
        return paths

    def choose_picture_for(self, drawing: str) -> None:
        """Give a drawing a newer picture from a file; it keeps its place and width."""
        for path in self._chosen_files()[:1]:
            self._bringer.bring([Wish(path.name, None, path=path, into=drawing)])

    def choose_loose(self) -> None:
        """Bring in pictures that are not to be aligned."""
        self.bring_loose(self._chosen_files())

    def bring_loose(self, paths: list[Path]) -> None:
        paths = self._without_meshes(paths)
        self._bringer.bring([Wish(path.name, None, path=path, loose=True) for path in paths])

    def paste(self) -> None:
        """A picture, or copied picture files, onto the pane under the pointer."""
        clipboard = QApplication.clipboard()
        mime = clipboard.mimeData()
        files = local_files(mime)
        if files:
            self._bring(files, self._pointed_view())
            return
        view = None if self._preparing() else self._pointed_view() or View.FRONT
        wish = clipboard_wish(clipboard.image(), view)
        if wish is None:
            self._session.warn("There is no picture on the clipboard; copy one first.")
        else:
            self._bringer.bring([wish])

    def _pointed_view(self) -> AnyView | None:
        at = self._board.mapFromGlobal(self._board.cursor().pos())
        event = self._board.event_at(at.toPointF(), Qt.KeyboardModifier.NoModifier)
        return event.view if event is not None else None

    def _on_dropped(self, paths: list[Path], event: BoardEvent | None) -> None:
        if len(paths) == 1 and paths[0].suffix == SUFFIX:
            self._files.leave(lambda: self._files.open(paths[0]))
            return
        self._bring(paths, event.view if event is not None else None)

    def drop_on_desk(self, paths: list[Path]) -> None:
        """Pictures dropped on the sheet view come in as sheets."""
        self._on_dropped(paths, None)

    def _bring(self, paths: list[Path], view: AnyView | None) -> None:
        """As sheets in Prepare; else each onto the plane of a view. Meshes are asked about."""
        for path in (p for p in paths if p.suffix.lower() in DROPPED):
            self._outline_bringer.bring(path, view)
        paths = [path for path in paths if path.suffix.lower() not in DROPPED]
        paths = self._without_meshes(paths)
        if self._preparing():
            self._bringer.bring([Wish(path.name, None, path=path) for path in paths])
        else:
            self._bringer.bring(wishes_for(paths, view))

    def _without_meshes(self, paths: list[Path]) -> list[Path]:
        """The pictures among them; the meshes come in their own way."""
        endings = mesh_endings()
        meshes = [path for path in paths if path.suffix.lower() in endings]
        if meshes:
            self._mesh_bringer.bring(meshes)
        return [path for path in paths if path not in meshes]


def mesh_endings() -> tuple[str, ...]:
    from dimetron.formats.format import readers  # not before something comes

    return tuple(readers())
