"""Operations on the chosen mesh: previewed, done, changed while their numbers stay open, done
again."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, Signal

from dimetron.app.work.numbers import number_words
from dimetron.app.work.session import Session
from dimetron.app.work.step import AT_ONCE, Step, Task
from dimetron.app.work.worker import Waited
from dimetron.document.edits import with_mesh
from dimetron.document.model import Document, MeshObject, with_item
from dimetron.document.naming import without
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited, Note
from dimetron.mesh.operation import Operation
from dimetron.mesh.select import Kind


class Operating(QObject):
    """``busy`` tells what is being made, in words; none when it is there."""

    busy = Signal(str)
    #: The last operation is another one, or has other numbers.
    stepped = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self._numbers: dict[str, Any] = {}
        self._step: Step | None = None
        self._task: Task | None = None
        self._shown: tuple[Any, Edited] | None = None
        self._finish_with: Any = None
        self._waited = Waited(self, self._told)
        self._said = False
        session.changed.connect(self._look)

    # The last one.

    @property
    def step(self) -> Step | None:
        """The last operation, while its numbers can still be changed."""
        step = self._step
        return step if step is not None and step.document is self._session.committed else None

    def _look(self) -> None:
        if self._step is not None and self.step is None:
            self.close()

    def close(self) -> None:
        """Its numbers are as they should be."""
        self._step = None
        self.stepped.emit()

    def change(self, how: Any) -> None:
        """Do the last operation anew with other numbers, from what was there before it."""
        step = self.step
        if step is None:
            raise MeshError("There is nothing to change any more; do it once more.")

        def keep(done: Edited) -> None:
            # Whatever else was done meanwhile stands.
            if self.step is step:
                if not self._selects(step.task, done):
                    doc = self._with(step.task, done)
                    self._session.recommit(doc, self._label(step.task.operation, how))
                self._stepped(step.task, how, done)

        self._ask(step.task, how, keep)

    def again(self) -> None:
        """The last operation with the same numbers, on what is selected now."""
        if self._step is not None:
            self.do(self._step.task.operation, self._step.how)

    def show(self, note: Note) -> None:
        """Select what a note of the last operation is about."""
        step = self.step
        if step is not None and len(note.where):
            self._session.choose((step.task.item.id,))
            self._session.select(note.kind, note.where)

    @property
    def can_repeat(self) -> bool:
        return self._step is not None and self.can_do(self._step.task.operation)

    def can_do(self, operation: Operation) -> bool:
        """Whether as many meshes are chosen as it needs."""
        count = len(self._meshes())
        return count > 1 if operation.several else count == 1

    def _meshes(self) -> list[MeshObject]:
        """The chosen meshes, if nothing else is chosen."""
        items = [self._session.document.item(id_) for id_ in self._session.chosen]
        meshes = [item for item in items if isinstance(item, MeshObject)]
        return meshes if len(meshes) == len(items) else []

    # One under way.

    def numbers(self, operation: Operation) -> Any:
        """The numbers it was done with last, or its usual ones."""
        return self._numbers.get(operation.name) or operation.made()

    def remember(self, operation: Operation, how: Any) -> None:
        self._numbers[operation.name] = how

    def begin(self, operation: Operation) -> Task:
        """What the operation will be done to. Raises MeshError if nothing is chosen for it."""
        meshes = self._meshes()
        if operation.several and len(meshes) < 2:
            raise MeshError("Choose two meshes or more first: Shift and a click adds one.")
        if not operation.several and len(meshes) != 1:
            raise MeshError("Choose a mesh first.")
        for item in meshes:
            if not self._session.committed.free(item):
                raise MeshError(f"{item.name} is held; let go of it on its card first.")
        item, *others = (self._session.committed.mesh(m.id) for m in meshes)
        operation.parts(item.mesh, self._session.part)
        self._shown, self._finish_with = None, None
        asides = self._asides(item) if operation.asides else ()
        self._task = Task(operation, item, self._session.part, tuple(others), asides)
        return self._task

    def _asides(self, item: MeshObject) -> tuple[MeshObject, ...]:
        """The shown meshes that are set aside. Raises MeshError if none is."""
        doc = self._session.committed
        found = [m for m in doc.meshes if m.guide and m.id != item.id and doc.visible(m)]
        if not found:
            raise MeshError("Set the mesh to lay it on aside first, on its card.")
        return tuple(found)

    def do(self, operation: Operation, how: Any) -> None:
        """All at once. Raises MeshError."""
        self.begin(operation)
        self.finish(how)

    def preview(self, how: Any) -> None:
        """Show it with these numbers. Raises MeshError."""
        task = self._task
        if task is not None:
            self._ask(task, how, lambda done: self._show(task, how, done))

    def finish(self, how: Any) -> None:
        """Make a step of what was begun. Raises MeshError."""
        task = self._task
        if task is None:
            return
        if self._shown is not None and self._shown[0] == how:
            self._commit(task, how, self._shown[1])
            return
        self._finish_with = how
        self._ask(task, how, lambda done: self._show(task, how, done))

    def abandon(self) -> None:
        """Drop what is under way."""
        self._task = self._shown = self._finish_with = None
        self._say("")
        self._session.cancel()

    def _say(self, words: str) -> None:
        if words or self._said:
            self._said = bool(words)
            self.busy.emit(words)

    def _show(self, task: Task, how: Any, done: Edited) -> None:
        if task is not self._task:
            return
        now = self._session.committed.item(task.item.id)
        if not isinstance(now, MeshObject) or now.mesh is not task.item.mesh:
            self.abandon()
            words = f"{task.item.name} became another one meanwhile; do it once more."
            self._session.warn(words)
            return
        self._shown = how, done
        if self._finish_with == how:
            self._commit(task, how, done)
        elif self._finish_with is None:
            self._session.preview(self._with(task, done))

    def _commit(self, task: Task, how: Any, done: Edited) -> None:
        self._task = self._shown = self._finish_with = None
        if not self._selects(task, done):
            self._session.commit(self._with(task, done), self._label(task.operation, how))
        self._stepped(task, how, done)

    @staticmethod
    def _selects(task: Task, done: Edited) -> bool:
        """Whether all that it does is to select."""
        return done.mesh is task.item.mesh and not done.others and not task.others

    def _stepped(self, task: Task, how: Any, done: Edited) -> None:
        session = self._session
        chosen = done.selection
        # What was chosen as a whole stays so, unless it was to select something of it.
        parts = chosen.kind is not Kind.WHOLE and (
            task.chosen.kind is not Kind.WHOLE or self._selects(task, done)
        )
        if task.others:
            session.choose((task.item.id,))
        if parts and session.chosen == (task.item.id,):
            session.select(chosen.kind, chosen.indices)
        self._numbers[task.operation.name] = how
        selects = self._selects(task, done)
        notes = done.notes if selects else (*done.notes, *task.left_by(done))
        self._step = Step(task, how, session.committed, notes, selects)
        self.stepped.emit()

    def _with(self, task: Task, done: Edited) -> Document:
        doc = with_item(self._session.committed, task.item.id, mesh=done.mesh)
        doc = without(doc, tuple(other.id for other in task.others))
        for mesh in done.others:
            doc, id_ = with_mesh(doc, mesh, task.item.name)
            doc = with_item(doc, id_, group=task.item.group)
        return doc

    def _label(self, operation: Operation, how: Any) -> str:
        first = next((p for p in operation.parameters if p.counts(how)), None)
        told = () if first is None else (first,)
        words = number_words(told, how, self._session.document.unit)
        return " ".join([operation.title, *words])

    def _ask(self, task: Task, how: Any, keep: Callable[[Edited], None]) -> None:
        meshes = [task.item.mesh, *(other.mesh for other in (*task.others, *task.asides))]

        def work() -> Edited:
            done = task.run(how)
            done.mesh.ready()
            return done

        corners = sum(len(mesh.topology.corners) for mesh in meshes)
        if corners < AT_ONCE and not task.operation.slow:
            keep(work())
            return
        there: list[bool] = []

        def kept(done: Edited) -> None:
            there.append(True)
            keep(done)

        self._waited.ask((task, how), work, kept)
        if not there:
            self._say(f"{task.operation.title}…")

    def _told(self, wrong: str) -> None:
        """A worker's answer came, or it failed."""
        self._say("")
        if wrong:
            self._task = self._shown = self._finish_with = None
            self._session.cancel()
            self._session.warn(wrong)
