"""A mesh of half a million vertices in the real window: the interface thread's time from an event
to the last OpenGL call, drawing itself left out, beside a bare NumPy pass over the same arrays."""

from __future__ import annotations

import statistics
import time
import tracemalloc
from collections.abc import Callable
from pathlib import Path

import moderngl
import numpy as np
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from benchmarks.scenes import ball
from benchmarks.timing import report, row
from dimetron.app.shell.window import Window
from dimetron.app.start import application
from dimetron.app.tools import aim
from dimetron.app.work.settings import Settings
from dimetron.document.edits import with_mesh
from dimetron.document.model import Document
from dimetron.mesh.index import indexed
from dimetron.mesh.patch import Patch
from dimetron.mesh.select import Kind

_PART, _MOVES = 2000, 200
#: Moves before memory is counted, so that what is kept once is there.
_WARM = 8


class _Bench:
    """The window with the mesh, and a hand at its mouse."""

    def __init__(self) -> None:
        application()
        self.window = Window(Settings())
        doc, self.id = with_mesh(Document(), ball(500, 1000), "ball")
        self.window.session.open(doc, None)
        self.window.show()
        QTest.qWaitForWindowExposed(self.window)
        self.board, self.session = self.window.board, self.window.session
        self.board.fit_all()
        QTest.qWait(2500)
        self.session.choose((self.id,))

    @property
    def mesh(self) -> object:
        return self.session.committed.mesh(self.id).mesh

    def spot(self) -> QPointF:
        """Where a face at the front is seen."""
        rect = self.board.rects()["elevation"]
        x, y = self.board.sight.camera("elevation", rect).project((20.0, -95.0, 110.0))
        return QPointF(rect.x + x, rect.y + y)

    def send(self, kind: QEvent.Type, at: QPointF) -> None:
        button = Qt.MouseButton.LeftButton
        where = QPointF(self.board.mapToGlobal(at.toPoint()))
        event = QMouseEvent(kind, at, where, button, button, Qt.KeyboardModifier.NoModifier)
        QApplication.sendEvent(self.board, event)

    def timed(self, work: Callable[[], None], clock: Callable[[], float]) -> float:
        """CPU milliseconds for an event and the frame that follows it."""
        self.board.makeCurrent()
        render, copy = moderngl.VertexArray.render, moderngl.Context.copy_framebuffer
        moderngl.VertexArray.render = lambda *a, **k: None
        moderngl.Context.copy_framebuffer = lambda *a, **k: None
        begin = clock()
        work()
        self.board.paintGL()
        spent = (clock() - begin) * 1000
        moderngl.VertexArray.render, moderngl.Context.copy_framebuffer = render, copy
        self.board._scenes.clear()
        return spent

    def drag(self, steps: int) -> float:
        start = self.spot()
        self.send(QEvent.Type.MouseButtonPress, start)
        places = [start + QPointF(6 + step, step / 2) for step in range(steps)]
        move = QEvent.Type.MouseMove
        spent = [self.timed(lambda at=at: self.send(move, at), time.thread_time) for at in places]
        self.window.navigation.escape()
        QTest.qWait(50)
        return statistics.median(spent[2:])


def main() -> None:
    bench = _Bench()
    mesh = bench.mesh
    count = len(mesh.positions)
    begin = time.process_time()
    indexed(mesh.positions, mesh.triangles)
    index_ms = (time.process_time() - begin) * 1000
    pass_ms = _median(lambda: (mesh.positions + 1.0).astype(np.float32))
    near = np.argsort(((mesh.positions - [20, -95, 110]) ** 2).sum(axis=1))[:_PART]
    part = np.sort(near).astype(np.int32)
    bench.window.navigation.take("shape")
    rows = [row(f"index of {count // 1000}k vertices", index_ms, pass_ms, "1000 ms")]
    pick_ms = _pick(bench)
    rows.append(row("pick a face, an edge, a vertex", pick_ms, pass_ms, "5 ms"))
    bench.session.select(Kind.VERTEX, part)
    ours = bench.drag(30)
    bare = _median(lambda: mesh.positions[part] + 1.0)
    rows.append(row(f"move {_PART} vertices", ours, bare, "8 ms"))
    bench.session.select(Kind.WHOLE, part[:0])
    rows.append(row("move all of them", bench.drag(30), pass_ms, "40 ms"))
    rows.append(row("extrude a face", _extrude(bench), pass_ms, "60 ms"))
    rows.append(_memory(bench, part))
    report(*rows)
    bench.session.mark_saved(bench.session.committed, Path("x"))
    bench.window.close()


def _median(work: Callable[[], object]) -> float:
    spent = []
    for _ in range(9):
        begin = time.thread_time()
        work()
        spent.append((time.thread_time() - begin) * 1000)
    return statistics.median(spent)


def _pick(bench: _Bench) -> float:
    """The slowest of the three kinds."""
    at = bench.spot()
    event = bench.board.event_at(at, Qt.KeyboardModifier.NoModifier)
    workbench, item = bench.window.workbench, bench.session.chosen_mesh
    aim.mesh_at(bench.session.document, event)
    shading = bench.board.sight.shading
    assert not shading[event.slot].opaque
    return max(
        _median(lambda k=kind: aim.part_at(workbench, item, k, event))
        for kind in (Kind.FACE, Kind.EDGE, Kind.VERTEX)
    )


def _extrude(bench: _Bench) -> float:
    bench.window.navigation.take("extrude")
    bench.session.select(Kind.FACE, np.zeros(0, np.int32))
    start = bench.spot()
    bench.send(QEvent.Type.MouseButtonPress, start)
    spent = []
    for step in range(12):
        at = start + QPointF(6 + step, step / 2)
        before = bench.session.document

        def work(at: QPointF = at, before: Document = before) -> None:
            bench.send(QEvent.Type.MouseMove, at)

        # Its worker's time counts.
        spent.append(bench.timed(work, time.process_time))
    bench.window.navigation.escape()
    QTest.qWait(100)
    return statistics.median(spent[2:])


def _memory(bench: _Bench, part: np.ndarray) -> dict[str, object]:
    """What many moves of a few vertices take, against what they changed."""
    session = bench.session
    tracemalloc.start()
    before = 0.0
    for step in range(_WARM + _MOVES):
        if step == _WARM:
            before = tracemalloc.get_traced_memory()[0]
        positions = session.committed.mesh(bench.id).mesh.positions[part] + [0.0, -0.1, 0.0]
        session.move(bench.id, Patch(part, positions))
        session.commit(session.document, "Move")
    held = (tracemalloc.get_traced_memory()[0] - before) / 1e6
    tracemalloc.stop()
    assert len(session.history.steps) > _MOVES
    return row(f"memory of {_MOVES} moves (MB)", held, _MOVES * _PART * 24 / 1e6, "3.0")


if __name__ == "__main__":
    main()
