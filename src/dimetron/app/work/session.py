"""The open project: its history, what is chosen, and the signals that tell of changes."""

from __future__ import annotations

import enum
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from dimetron.app.work.looking_over import LookingOver
from dimetron.document.evenness import kept_even
from dimetron.document.formulas import InkOf, evaluated, no_ink
from dimetron.document.history import History, new_history
from dimetron.document.making import edited_by_hand, remade
from dimetron.document.model import Document, Drawing, MeshObject, with_item
from dimetron.document.spool import FolderSpool
from dimetron.document.tying import tied
from dimetron.imaging.figure.kind import Kind as DrawnKind
from dimetron.mesh.arrays import Ints
from dimetron.mesh.evening import even_patch
from dimetron.mesh.hiding import selectable
from dimetron.mesh.patch import Patch
from dimetron.mesh.select import Kind, Selection, none
from dimetron.mesh.topology import Topology
from dimetron.render.scene import Picked


class Severity(enum.Enum):
    """How a notice is meant. REFUSED: why nothing came of what was just done; the next thing that
    is done answers it."""

    TOLD = "told"
    WARNING = "warning"
    REFUSED = "refused"


class Session(QObject):
    """``changed``: the document shown is another one. ``changing``: the same while dragging.
    ``moving``: while dragging, vertices of a mesh are elsewhere and nothing else is."""

    changed = Signal()
    #: Another document is about to be shown, whatever is under way on this one; whether it is
    #: another project's.
    replacing = Signal(bool)
    changing = Signal()
    moving = Signal()
    chosen_changed = Signal()
    noticed = Signal(str, Severity)
    #: Words, and (title, what it does) of each answer.
    asked = Signal(str, object)
    #: It is to be shown what counts as ink of other drawings.
    ink_shown_changed = Signal()
    #: A drawing's id: it is to be given another picture.
    picture_wanted = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.spool = FolderSpool()
        self.looking_over = LookingOver(self)
        self._history = new_history(Document(), self.spool)
        self._preview: Document | None = None
        #: The mesh whose vertices are elsewhere, and the document with that, once it is asked for.
        self._patch: tuple[str, Patch] | None = None
        self._patched: Document | None = None
        self._saved: Document = self._history.document
        self.path: Path | None = None
        #: Another object for each project that is opened.
        self.project = object()
        self._chosen: tuple[str, ...] = ()
        self._part = Selection(Kind.WHOLE, none())
        self._picked: Picked | None = None
        self._picked_of: Topology | None = None
        #: A drawing whose placement was copied, and its size in pixels.
        self.copied: tuple[Drawing, tuple[int, int]] | None = None
        #: Where drawings' ink lies, for numbers that follow from it.
        self.ink_of: InkOf = no_ink
        #: What drawings consist of, as far as it is told yet.
        self.kind_of: Callable[[Document, Drawing], DrawnKind | None] = lambda doc, drawing: None
        #: Drawings whose ink is about to be used: it is shown what counts.
        self.ink_shown: tuple[str, ...] = ()

    @property
    def document(self) -> Document:
        """What is shown: the preview while a gesture runs, else the current step."""
        if self._patch is None:
            return self.unmoved
        if self._patched is None:
            id_, patch = self._patch
            mesh = patch.applied(self.committed.mesh(id_).mesh)
            self._patched = with_item(self.committed, id_, mesh=mesh)
        return self._patched

    @property
    def unmoved(self) -> Document:
        """The same without ``patch``, which costs nothing to see."""
        return self._preview or self._history.document

    @property
    def patch(self) -> tuple[str, Patch] | None:
        """A mesh by its id, and its vertices that are elsewhere while it is dragged."""
        return self._patch

    @property
    def previewing(self) -> bool:
        """Whether a gesture shows something that is no step yet."""
        return self._preview is not None or self._patch is not None

    @property
    def committed(self) -> Document:
        """The document of the current step."""
        return self._history.document

    @property
    def history(self) -> History:
        """The steps, and which is the current one."""
        return self._history

    @property
    def dirty(self) -> bool:
        """Whether there is something that was not saved."""
        return self._history.document is not self._saved

    @property
    def title(self) -> str:
        """What the project is called: its file's name, if it has one."""
        return self.path.name if self.path else "Untitled"

    def open(self, document: Document, path: Path | None, *, saved: bool = True) -> None:
        """Begin with another document; its history starts here."""
        self.replacing.emit(True)
        self.spool.close()
        self._history = new_history(document, self.spool)
        self._drop_preview()
        self._saved = document if saved else Document()
        self.path = path
        self.project = object()
        self._chosen = ()
        self._part = Selection(Kind.WHOLE, none())
        self._tell_all()

    def mark_saved(self, document: Document, path: Path) -> None:
        """A document was saved to a file; later steps are not."""
        self._saved, self.path = document, path
        self.changed.emit()

    def preview(self, document: Document) -> None:
        """Show a document without making a step of it."""
        document, _ = self._settled(document)
        if self._patch is not None or document is not self.unmoved:
            self._drop_preview()
            self._preview = document
            self.changing.emit()

    def move(self, id_: str, patch: Patch) -> None:
        """Show a mesh of the current step with vertices elsewhere. Raises LookupError if it has no
        such mesh or vertices."""
        mesh = self.committed.mesh(id_).mesh
        if len(patch.vertices) and patch.vertices[-1] >= len(mesh.positions):
            raise LookupError(id_)
        self._drop_preview()
        self._patch = id_, even_patch(mesh, self.committed.mesh(id_).even, patch)
        self.moving.emit()

    def _drop_preview(self) -> None:
        self._preview = self._patch = self._patched = None

    def commit(self, document: Document, label: str) -> None:
        """Make one step of history. Ends a preview."""
        was, before = self.document, self.committed
        document, said = self._settled(document)
        self._drop_preview()
        self._history = self._history.committed(document, label)
        if was is not self.document or document is self.document:
            self._after_change()
        freed = [edited_by_hand(item) for item in _freed(before, document)]
        if freed:
            self._ask_to_keep(" ".join(dict.fromkeys((*freed, *said))))
        else:
            for words in said:
                self.tell(words)

    def _ask_to_keep(self, words: str) -> None:
        """Whether meshes that were edited by hand shall stay so: from then on what they were made
        of does not change them."""
        step = self.committed

        def take_back() -> None:
            if self.committed is step:
                self.undo()
            else:
                self.warn("Something else was done since; undo that first.")

        self.asked.emit(words, (("Keep the edit", lambda: None), ("Take it back", take_back)))

    def _settled(self, document: Document) -> tuple[Document, tuple[str, ...]]:
        """With numbers that follow from others, tied points, and meshes that follow from outlines
        as they are now; and what is to be said of those."""
        document = evaluated(document, self.committed, ink_of=self.ink_of)
        return remade(kept_even(tied(document), self.committed), self.committed)

    def recommit(self, document: Document, label: str) -> None:
        """Make the current step of history another one, as done with other numbers."""
        document, _ = self._settled(document)
        self._drop_preview()
        self._history = self._history.replaced(document, label)
        self._after_change()

    def amend(self, document: Document) -> None:
        """Change the current step without making one; nothing to undo."""
        if not self.previewing:
            self._history = self._history.amended(document)
            self._after_change()

    def show_ink(self, ids: tuple[str, ...]) -> None:
        """Show what counts as ink of drawings, before it is used; of none any more."""
        if ids != self.ink_shown:
            self.ink_shown = ids
            self.ink_shown_changed.emit()

    def ink_known(self) -> None:
        """More is known of the drawings' ink: what follows from it settles."""
        document = evaluated(self.committed, ink_of=self.ink_of)
        if document is not self.committed:
            self.amend(document)

    def cancel(self) -> None:
        """Drop a preview."""
        if self.previewing:
            self._drop_preview()
            self._after_change()

    def undo(self) -> None:
        """Back to the step before."""
        self.replacing.emit(False)
        self._step(self._history.undone())

    def redo(self) -> None:
        """Forth to the step after."""
        self.replacing.emit(False)
        self._step(self._history.redone())

    def go_to(self, number: int) -> None:
        """To another step, back or forth; the same if there is no such step."""
        history = self._history
        if number == history.at or not 0 <= number < len(history.steps):
            return
        self.replacing.emit(False)
        while history.at != number:
            before = history.at
            history = history.undone() if number < before else history.redone()
            if history.at == before:
                break
        self._step(history)

    def _step(self, to: History) -> None:
        self._drop_preview()
        self._history = to
        self._after_change()

    def _after_change(self) -> None:
        before = self._chosen, self._part
        self._chosen = tuple(i for i in self._chosen if self.document.item(i) is not None)
        mesh = self.chosen_mesh
        if mesh is None:
            if len(self._part.indices):
                self._part = Selection(self._part.kind, none())
        else:
            self._part = selectable(mesh.mesh, self._part)
        another = before[0] != self._chosen or before[1] is not self._part
        if another:
            self._picked = None
        self.changed.emit()
        if another:
            self.chosen_changed.emit()

    def _tell_all(self) -> None:
        self._picked = None
        self.changed.emit()
        self.chosen_changed.emit()

    @property
    def chosen(self) -> tuple[str, ...]:
        """Ids of the chosen items."""
        return self._chosen

    @property
    def chosen_drawing(self) -> Drawing | None:
        """The chosen drawing, if just one item is chosen and it is one."""
        item = self.document.item(self._chosen[0]) if len(self._chosen) == 1 else None
        return item if isinstance(item, Drawing) else None

    @property
    def chosen_mesh(self) -> MeshObject | None:
        """The chosen mesh, if just one item is chosen and it is one."""
        item = self.document.item(self._chosen[0]) if len(self._chosen) == 1 else None
        return item if isinstance(item, MeshObject) else None

    def choose(self, ids: tuple[str, ...]) -> None:
        """Choose items; nothing is selected of them then."""
        if ids != self._chosen:
            self._chosen = ids
            self._part = Selection(self._part.kind, none())
            self._picked = None
            self.chosen_changed.emit()

    @property
    def kind(self) -> Kind:
        """What is selected: vertices, edges, faces, or meshes as a whole."""
        return self._part.kind

    @property
    def selected(self) -> Ints:
        """Indices of the selected vertices, edges or faces of the chosen mesh."""
        return self._part.indices

    @property
    def part(self) -> Selection:
        """What is selected of the chosen mesh."""
        return self._part

    def select(self, kind: Kind, indices: Ints, last: int = -1) -> None:
        """Select parts of the chosen mesh; what it does not have is left out. last: the one that
        was picked last, by itself."""
        mesh = self.chosen_mesh
        part = Selection(kind, indices, last)
        self._part = selectable(mesh.mesh, part) if mesh is not None else Selection(kind, none())
        self._picked = None
        self.chosen_changed.emit()

    @property
    def picked(self) -> Picked:
        """What is chosen and selected, as far as the document shown has it: a preview may have
        other faces than what was selected in."""
        item = self.unmoved.item(self._chosen[0]) if len(self._chosen) == 1 else None
        mesh = item if isinstance(item, MeshObject) else None
        of = None if mesh is None else mesh.mesh.topology
        if self._picked is None or self._picked_of is not of:
            part = self._part if mesh is None else selectable(mesh.mesh, self._part)
            self._picked = Picked(frozenset(self._chosen), part.kind, part.indices)
            self._picked_of = of
        return self._picked

    def tell(self, words: str) -> None:
        """Say something that is no trouble."""
        self.noticed.emit(words, Severity.TOLD)

    def refuse(self, words: str) -> None:
        """Say why nothing came of what was just done."""
        self.noticed.emit(words, Severity.REFUSED)

    def warn(self, words: str) -> None:
        """Say that something went wrong, or will."""
        self.noticed.emit(words, Severity.WARNING)


def _freed(before: Document, after: Document) -> list[MeshObject]:
    """The meshes, as they were, that were changed and do not remember any more how they were
    made."""
    were = {m.id: m for m in before.meshes if m.made is not None}
    return [
        were[m.id]
        for m in after.meshes
        if m.made is None and m.id in were and were[m.id].mesh is not m.mesh
    ]
