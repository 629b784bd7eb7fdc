"""From starting the process to the first drawn frame, against a bare PySide6 and OpenGL window."""

from __future__ import annotations

import statistics
import subprocess
import sys
import time

from benchmarks.timing import report, row

_BARE = """
import sys
from PySide6.QtGui import QSurfaceFormat
from PySide6.QtWidgets import QApplication
from PySide6.QtOpenGLWidgets import QOpenGLWidget
f = QSurfaceFormat(); f.setVersion(3, 3); f.setProfile(QSurfaceFormat.CoreProfile)
QSurfaceFormat.setDefaultFormat(f)
app = QApplication([])
class W(QOpenGLWidget):
    def paintGL(self):
        g = self.context().functions()
        g.glClearColor(0.9, 0.9, 0.9, 1.0); g.glClear(0x4000)
        print("frame", flush=True)
w = W(); w.resize(1280, 800); w.show()
app.exec()
"""
_OURS = """
from dimetron.cli import main
main([], framed=lambda: print("frame", flush=True))
"""


def first_frame(code: str) -> float:
    begin = time.perf_counter()
    process = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE)
    assert process.stdout is not None
    line = process.stdout.readline()
    took = (time.perf_counter() - begin) * 1000
    # Settings are written once the window rests; the next start reads them.
    time.sleep(0.8)
    process.kill()
    process.wait()
    process.stdout.close()
    assert line == b"frame\n"
    return took


def main() -> None:
    both: tuple[list[float], list[float]] = ([], [])
    for turn in range(8):
        for times, code in zip(both, (_OURS, _BARE), strict=True):
            took = first_frame(code)
            if turn:
                times.append(took)
    report(row("start to first frame", *map(statistics.median, both), "2.5"))


if __name__ == "__main__":
    main()
