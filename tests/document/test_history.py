"""History keeps little, and gives back exactly what was."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.document.edits import with_mesh, without_item
from dimetron.document.history import History, new_history
from dimetron.document.model import Document, with_item
from dimetron.document.spool import FolderSpool
from dimetron.mesh.layers import Layer, On
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box

BALL = by_name("subdivide")(box((-1, -1, -1), (1, 1, 1)), levels=4).mesh


class Shelf:
    """A spool in memory."""

    def __init__(self) -> None:
        self.kept: dict[str, bytes] = {}

    def put(self, data: bytes) -> str:
        key = str(len(self.kept))
        self.kept[key] = data
        return key

    def get(self, key: str) -> bytes:
        if key not in self.kept:
            raise FileNotFoundError(key)
        return self.kept[key]


def told(doc: Document) -> list[tuple[object, ...]]:
    """What a document holds of meshes, to be compared."""
    return [
        (
            item.id,
            item.name,
            item.mesh.positions.tobytes(),
            item.mesh.topology.corners.tobytes(),
            {name: layer.values.tobytes() for name, layer in item.mesh.layers.items()},
        )
        for item in doc.meshes
    ]


def changed(doc: Document, how: str, number: int) -> Document:
    if how == "add" or not doc.meshes:
        return with_mesh(doc, box((number, 0, 0), (number + 1, 1, 1)), f"box {number}")[0]
    item = doc.meshes[number % len(doc.meshes)]
    if how == "name":
        return with_item(doc, item.id, name=f"n{number}")
    if how == "remove":
        return without_item(doc, item.id)
    mesh: Mesh = item.mesh
    if how == "move":
        some = np.array([number % len(mesh.positions)], np.int32)
        mesh = mesh.with_moved(some, mesh.positions[some] + 0.25)
    elif how == "faces":
        mesh = by_name("subdivide")(mesh).mesh if number % 3 == 0 else by_name("flip")(mesh).mesh
    else:
        mask = Layer(On.VERTEX, np.full(len(mesh.positions), number / 9, np.float32))
        mesh = mesh.with_layer("mask", mask)
    return with_item(doc, item.id, mesh=mesh)


ways = st.sampled_from(["add", "move", "move", "faces", "name", "remove", "layer"])


@given(st.lists(st.tuples(ways, st.integers(0, 8)), max_size=9), st.booleans())
def test_any_steps_are_had_back_exactly(steps: list[tuple[str, int]], tight: bool) -> None:
    history = new_history(Document(), Shelf(), budget=0 if tight else 1 << 20)
    was = [told(history.document)]
    for number, (how, which) in enumerate(steps):
        history = history.committed(changed(history.document, how, which), str(number))
        was.append(told(history.document))
    for expected in reversed(was):
        assert told(history.document) == expected
        history = history.undone()
    assert history.undo_label is None
    for number, expected in enumerate(was):
        assert told(history.document) == expected
        assert history.redo_label == (str(number) if number < len(steps) else None)
        history = history.redone()


def moved(history: History, times: int) -> History:
    id_ = history.document.meshes[0].id
    some = np.arange(20, dtype=np.int32)
    for number in range(times):
        mesh = history.document.mesh(id_).mesh
        mesh = mesh.with_moved(some, mesh.positions[some] + 0.5)
        history = history.committed(with_item(history.document, id_, mesh=mesh), f"Move {number}")
    return history


def test_a_move_keeps_what_moved_and_no_more() -> None:
    history = moved(new_history(with_mesh(Document(), BALL, "ball")[0]), 50)
    assert history.nbytes == 50 * 20 * (3 * 8 + 4)
    assert history.nbytes < BALL.positions.nbytes


def test_a_document_that_somebody_holds_is_had_back_itself() -> None:
    first = with_mesh(Document(), BALL, "ball")[0]
    history = moved(new_history(first), 1)
    held = history.document
    back = history.undone()
    assert back.document is first
    assert back.redone().document is held


def test_beyond_the_budget_the_oldest_are_laid_aside_and_had_again(tmp_path: Path) -> None:
    spool = FolderSpool()
    history = new_history(with_mesh(Document(), BALL, "ball")[0], spool, budget=200_000)
    id_ = history.document.meshes[0].id
    was = [told(history.document)]
    for number in range(6):
        mesh = by_name("flip")(history.document.mesh(id_).mesh).mesh
        doc = with_item(history.document, id_, mesh=mesh)
        history = history.committed(doc, str(number))
        was.append(told(doc))
    assert history.nbytes <= 200_000
    for expected in reversed(was):
        assert told(history.document) == expected
        history = history.undone()
    spool.close()
    assert not spool._folder.exists()


def test_what_cannot_be_laid_aside_is_let_go_of_and_the_rest_stays() -> None:
    class Full(Shelf):
        def put(self, data: bytes) -> str:
            raise OSError("no space left on device")

    history = new_history(with_mesh(Document(), BALL, "ball")[0], Full(), budget=0)
    for number in range(3):
        mesh = by_name("flip")(history.document.meshes[0].mesh).mesh
        doc = with_item(history.document, history.document.meshes[0].id, mesh=mesh)
        history = history.committed(doc, str(number))
    assert history.undo_label is None
    assert len(history.steps) == 1
    assert len(history.document.meshes) == 1


def test_a_step_that_is_lost_ends_the_history_there() -> None:
    shelf = Shelf()
    history = new_history(with_mesh(Document(), BALL, "ball")[0], shelf, budget=0)
    for number in range(2):
        mesh = by_name("flip")(history.document.meshes[0].mesh).mesh
        doc = with_item(history.document, history.document.meshes[0].id, mesh=mesh)
        history = history.committed(doc, str(number))
    now = told(history.document)
    shelf.kept.clear()
    history = history.undone()
    assert told(history.document) == now
    assert history.undo_label is None


@pytest.mark.parametrize("times", [1, 3])
def test_a_step_done_another_way_is_still_one_step(times: int) -> None:
    first = with_mesh(Document(), BALL, "ball")[0]
    history = moved(new_history(first), 2)
    for _ in range(times):
        other = with_item(history.document, first.meshes[0].id, name="other")
        history = history.replaced(other, "Otherwise")
    assert len(history.steps) == 3
    assert history.undo_label == "Otherwise"
    assert history.undone().undo_label == "Move 0"
    assert history.redo_label is None
