"""Dragging one vertex of a 50k-face mesh in the real window: from the event to the drawn frame,
against that window's frame of the same panes alone."""

from __future__ import annotations

import statistics
import time

import numpy as np
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from benchmarks.scenes import ball
from benchmarks.timing import report, row
from dimetron.app.shell.window import Window
from dimetron.app.start import application
from dimetron.app.work.settings import Settings
from dimetron.document.edits import with_mesh
from dimetron.document.model import Document
from dimetron.mesh.select import Kind


def main() -> None:
    application()
    window = Window(Settings())
    doc, id_ = with_mesh(Document(), ball(224, 224), "ball")
    window.session.open(doc, None)
    window.show()
    QTest.qWaitForWindowExposed(window)
    window.navigation.take("shape")
    window.session.choose((id_,))
    window.session.select(Kind.VERTEX, np.zeros(0, np.int32))
    board = window.board
    board.fit_all()
    QTest.qWait(300)
    mesh = doc.meshes[0].mesh
    rect = board.rects()["elevation"]
    camera = board.sight.camera("elevation", rect)
    vertex = int(np.argmin(np.abs(mesh.positions - [60, -80, 100]).sum(axis=1)))
    x, y = camera.project(mesh.positions[vertex])
    start = QPointF(rect.x + x, rect.y + y)

    def send(kind: QEvent.Type, at: QPointF) -> None:
        button = Qt.MouseButton.LeftButton
        where = QPointF(board.mapToGlobal(at.toPoint()))
        event = QMouseEvent(kind, at, where, button, button, Qt.KeyboardModifier.NoModifier)
        QApplication.sendEvent(board, event)

    def finish() -> None:
        board.repaint()
        board.makeCurrent()
        board.canvas.ctx.finish()

    send(QEvent.Type.MouseButtonPress, start)
    drags, frames = [], []
    for step in range(1, 31):
        begin = time.perf_counter()
        send(QEvent.Type.MouseMove, start + QPointF(5 + step, step / 2))
        finish()
        drags.append((time.perf_counter() - begin) * 1000)
        board._scenes.clear()
        board.makeCurrent()
        begin = time.perf_counter()
        # Not by repainting: Qt leaves out a second paint of what it has just shown.
        board.paintGL()
        board.canvas.ctx.finish()
        frames.append((time.perf_counter() - begin) * 1000)
    send(QEvent.Type.MouseButtonRelease, start + QPointF(36, 15))
    moved = window.session.committed.meshes[0].mesh
    assert not np.array_equal(moved.positions[vertex], mesh.positions[vertex])
    ours, bare = statistics.median(drags[3:]), statistics.median(frames[3:])
    report(row(f"drag a vertex of {mesh.topology.face_count // 1000}k faces", ours, bare, "1.5"))
    window.session.mark_saved(window.session.committed, __import__("pathlib").Path("x"))
    window.close()


if __name__ == "__main__":
    main()
