"""The session: previews, commits, selection and the signals they send. No window is needed."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtTest import QSignalSpy
from PySide6.QtWidgets import QApplication

from dimetron.app.work.session import Session
from dimetron.document.edits import with_mesh, without_item
from dimetron.document.model import Document, with_item
from dimetron.mesh.edited import without_faces
from dimetron.mesh.patch import Patch
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind


@pytest.fixture
def made(qapp: QApplication) -> tuple[Session, str]:
    session = Session()
    doc, id_ = with_mesh(Document(), box((0, 0, 0), (1, 1, 1)), "body")
    session.open(doc, None)
    return session, id_


def test_a_preview_is_shown_and_leaves_no_step(made: tuple[Session, str]) -> None:
    session, id_ = made
    changing, changed = QSignalSpy(session.changing), QSignalSpy(session.changed)
    shown = with_item(session.committed, id_, name="other")
    session.preview(shown)
    assert session.document is shown
    assert session.committed is not shown
    assert not session.dirty
    assert (changing.count(), changed.count()) == (1, 0)
    session.cancel()
    assert session.document is session.committed
    assert session.history.undo_label is None
    session.cancel()
    assert changed.count() == 1


def test_a_gesture_is_one_step(made: tuple[Session, str]) -> None:
    session, id_ = made
    for name in ("a", "b", "c"):
        session.preview(with_item(session.committed, id_, name=name))
    session.commit(session.document, "Rename body")
    assert session.history.undo_label == "Rename body"
    assert len(session.history.steps) == 2
    session.undo()
    assert session.document.mesh(id_).name == "body"
    session.redo()
    assert session.document.mesh(id_).name == "c"


def test_moved_vertices_are_shown_beside_the_document(made: tuple[Session, str]) -> None:
    session, id_ = made
    moving, changing = QSignalSpy(session.moving), QSignalSpy(session.changing)
    before = session.committed.mesh(id_).mesh
    some = np.array([0, 3], np.int32)
    for height in (7.0, 9.0):
        session.move(id_, Patch(some, np.full((2, 3), height)))
    assert (moving.count(), changing.count()) == (2, 0)
    assert session.previewing
    assert session.unmoved is session.committed
    assert session.patch is not None
    shown = session.document.mesh(id_).mesh
    assert session.document is session.document, "made once"
    assert np.array_equal(shown.positions[some], np.full((2, 3), 9.0))
    assert np.array_equal(shown.positions[1], before.positions[1])
    session.commit(session.document, "Move")
    assert (session.patch, session.previewing) == (None, False)
    assert session.history.undo_label == "Move"
    session.move(id_, Patch(some, np.zeros((2, 3))))
    session.cancel()
    assert session.document.mesh(id_).mesh is shown
    for wrong in (("gone", some), (id_, np.array([8], np.int32))):
        with pytest.raises(LookupError):
            session.move(wrong[0], Patch(wrong[1], np.zeros((len(wrong[1]), 3))))


def test_a_step_is_done_another_way(made: tuple[Session, str]) -> None:
    session, id_ = made
    session.commit(with_item(session.committed, id_, name="a"), "Rename")
    session.recommit(with_item(session.committed, id_, name="b"), "Rename otherwise")
    assert session.document.mesh(id_).name == "b"
    assert session.history.undo_label == "Rename otherwise"
    session.undo()
    assert session.document.mesh(id_).name == "body"


def test_dirty_follows_what_was_saved(made: tuple[Session, str]) -> None:
    session, id_ = made
    first = session.committed
    session.commit(with_item(first, id_, name="x"), "Rename")
    assert session.dirty
    session.mark_saved(session.committed, Path("a.dimetron"))
    assert not session.dirty
    assert session.title == "a.dimetron"
    session.undo()
    assert session.dirty
    session.redo()
    assert not session.dirty


def test_choices_and_selections_survive_only_what_they_fit(made: tuple[Session, str]) -> None:
    session, id_ = made
    session.choose((id_,))
    session.select(Kind.FACE, np.arange(6, dtype=np.int32))
    kept = session.picked
    session.commit(with_item(session.committed, id_, name="y"), "Rename")
    assert session.picked is kept, "nothing about the selection changed"
    fewer = without_faces(session.document.mesh(id_).mesh, np.array([0, 1], np.int32)).mesh
    session.commit(with_item(session.committed, id_, mesh=fewer), "Delete faces")
    assert list(session.selected) == [0, 1, 2, 3]
    session.commit(without_item(session.committed, id_), "Delete")
    assert session.chosen == ()
    assert len(session.selected) == 0
    session.undo()
    assert session.chosen == ()


def test_choosing_another_drops_the_parts(made: tuple[Session, str]) -> None:
    session, id_ = made
    doc, other = with_mesh(session.committed, box((2, 0, 0), (3, 1, 1)), "lid")
    session.commit(doc, "Add a lid")
    session.choose((id_,))
    session.select(Kind.VERTEX, np.array([1], np.int32))
    session.choose((other,))
    assert session.kind is Kind.VERTEX
    assert len(session.selected) == 0
    session.choose((id_, other))
    assert session.chosen_mesh is None
