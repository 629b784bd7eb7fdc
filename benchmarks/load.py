"""A heavy load: 200 drawings of 2000 x 2000, and a mesh of a million faces. Rendered from a script,
drawn on the board, opened in the window, exported; each against the bare minimum."""

from __future__ import annotations

import io
import os
import tempfile
import time
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

import moderngl
import numpy as np
from PIL import Image, ImageDraw

from benchmarks.frame import SIZE, Bare
from benchmarks.timing import fact, in_turn, report, row
from dimetron.app.board.canvas import Canvas
from dimetron.app.board.layout import Layout
from dimetron.app.board.sight import Sight
from dimetron.document import edits
from dimetron.document.container import load, save
from dimetron.document.model import Document, source_from
from dimetron.formats.export import export
from dimetron.geometry.views import View
from dimetron.imaging.pyramid import Pyramid
from dimetron.imaging.recipe import Recipe
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.render.headless import pyramids_of, render_picture
from dimetron.render.scene import PaneScene, document_box, pane_scene, space_box

if TYPE_CHECKING:
    from collections.abc import Iterator

COUNT, SIDE, ACROSS = 200, 2000, 1000


def many_drawings() -> Document:
    rng, doc, views = np.random.default_rng(1), Document(), list(View)
    for number in range(COUNT):
        picture = Image.new("L", (SIDE, SIDE), 245)
        pen = ImageDraw.Draw(picture)
        for _ in range(30):
            pen.line([tuple(rng.integers(0, SIDE, 2)) for _ in range(3)], fill=30, width=4)
        out = io.BytesIO()
        picture.save(out, "PNG", compress_level=3)
        source = source_from(out.getvalue(), f"{number}.png", "png", (SIDE, SIDE), 0.2)
        doc, _ = edits.with_drawing(doc, source, views[number % 6])
    return doc


def million_faces() -> Mesh:
    grid = np.stack(np.meshgrid(np.arange(ACROSS + 1), np.arange(ACROSS + 1), indexing="ij"), -1)
    at = grid.reshape(-1, 2) * 0.3
    height = 20 * np.sin(at[:, 0] / 20) * np.cos(at[:, 1] / 30)
    first = np.arange(ACROSS)[:, None] * (ACROSS + 1) + np.arange(ACROSS)
    faces = np.stack([first, first + ACROSS + 1, first + ACROSS + 2, first + 1], -1)
    return from_faces(np.column_stack([at, height]), faces.reshape(-1, 4).astype(np.int32))


@contextmanager
def _projects() -> Iterator[tuple[Path, Path]]:
    with tempfile.TemporaryDirectory() as folder:
        many, million = Path(folder) / "many.dimetron", Path(folder) / "million.dimetron"
        save(many_drawings(), many)
        save(edits.with_mesh(Document(), million_faces(), "million")[0], million)
        yield many, million


def _sight(doc: Document) -> tuple[Sight, dict]:
    rects = Layout().rects(*SIZE)
    return Sight().fitted(document_box(doc), space_box(doc), rects), rects


def _scenes(
    doc: Document, pyramids: dict[Recipe, Pyramid], sight: Sight, rects: dict
) -> dict[str, PaneScene]:
    return {
        slot: pane_scene(doc, sight.camera(slot, rect), sight.shading[slot], pyramids)
        for slot, rect in rects.items()
    }


def _drawing(what: str, doc: Document, rounds: int) -> tuple[dict[str, object], float]:
    """A row of the board against a bare draw, and how long the bare one takes (ms)."""
    # Ids that tell the bare side which texture is meant.
    named = tuple(replace(d, id=doc.sheet(d.sheet).source) for d in doc.drawings)
    doc = replace(doc, drawings=named)
    pyramids = pyramids_of(doc)
    ctx = moderngl.create_standalone_context(backend="egl")
    sight, rects = _sight(doc)
    scenes = _scenes(doc, pyramids, sight, rects)
    mesh = doc.meshes[0].mesh if doc.meshes else from_faces([[0, 0, 0]] * 3, [[0, 1, 2]])
    canvas, screen = Canvas(ctx), ctx.framebuffer([ctx.renderbuffer(SIZE)])
    bare = Bare(ctx, scenes, rects, mesh, pyramids)

    def ours() -> None:
        # Another value each time: nothing that was derived from it before helps.
        shown = _scenes(replace(doc), pyramids, sight, rects)
        while canvas.draw(shown, rects, 1.0, SIZE):
            pass
        canvas.compose(screen, shown, rects, 1.0, (), None, next(iter(shown.values())).palette)
        ctx.finish()

    one, other = in_turn(ours, lambda: bare.draw(screen), rounds)
    ctx.release()
    return row(what, one, other, "1.3"), other


def _rendering(what: str, path: Path, bare_draw_ms: float) -> dict[str, object]:
    """``render`` from the file to the picture, against decoding it and a bare draw."""

    def ours() -> None:
        render_picture(load(path).document, View.FRONT, SIZE)

    def decode() -> None:
        doc = load(path).document
        for source in doc.sources:
            Image.open(io.BytesIO(source.data or b"")).load()

    one, other = in_turn(ours, decode, 2)
    return row(what, one, other + bare_draw_ms, "2.0")


def _stalls(path: Path, drawings: int) -> tuple[float, float]:
    """(ms) until all is shown, and the longest the window stood still but for the drawing."""
    from PySide6.QtCore import QTimer
    from PySide6.QtTest import QTest

    from dimetron.app.board.widget import Board
    from dimetron.app.shell.window import Window
    from dimetron.app.start import application
    from dimetron.app.work.settings import Settings

    drawn = 0.0
    real = Board.paintGL

    def timed(board: Board) -> None:
        nonlocal drawn
        begin = time.perf_counter()
        real(board)
        drawn += time.perf_counter() - begin

    Board.paintGL = timed  # type: ignore[method-assign]
    application()
    window = Window(Settings())
    window.resize(1280, 800)
    window.show()
    QTest.qWaitForWindowExposed(window)
    QTest.qWait(500)
    longest, last, before = 0.0, time.perf_counter(), drawn

    def beat() -> None:
        nonlocal longest, last, before
        now = time.perf_counter()
        longest = max(longest, now - last - (drawn - before))
        last, before = now, drawn

    timer = QTimer()
    timer.timeout.connect(beat)
    # Not at every turn: that would take the interpreter from the worker.
    timer.start(5)
    begin = time.perf_counter()
    window.files.open(path)
    while time.perf_counter() - begin < 120:
        QTest.qWait(1)
        time.sleep(0.001)
        doc = window.session.document
        there = len(window.pictures.pyramids) >= drawings and not window.pictures.busy
        if there and len(window.tray.cards) >= max(1, drawings) and (doc.drawings or doc.meshes):
            break
    took = time.perf_counter() - begin
    QTest.qWait(1500)
    Board.paintGL = real  # type: ignore[method-assign]
    window.close()
    window.deleteLater()
    QTest.qWait(10)
    return took * 1000, longest * 1000


def _obj(doc: Document, folder: Path) -> dict[str, object]:
    mesh = doc.meshes[0].mesh

    def bare() -> None:
        with (folder / "bare.obj").open("w") as out:
            np.savetxt(out, mesh.positions, fmt="v %.9g %.9g %.9g")
            np.savetxt(out, mesh.topology.corners.reshape(-1, 4) + 1, fmt="f %d %d %d %d")
            os.fsync(out.fileno())

    one, other = in_turn(lambda: export(doc, folder / "ours.obj"), bare, 1)
    return row("OBJ of a million faces, against NumPy’s savetxt", one, other, "2.0")


def main() -> None:
    with _projects() as (many, million):
        first, many_ms = _drawing("board frame, 200 drawings of 4 Mpx", load(many).document, 9)
        second, faces_ms = _drawing("board frame, a million faces", load(million).document, 3)
        words = "against decode and bare draw"
        rows = [
            first,
            second,
            _rendering(f"render 200 drawings, {words}", many, many_ms / 4),
            _rendering(f"render a million faces, {words}", million, faces_ms / 4),
            _obj(load(million).document, many.parent),
        ]
        for what, path, count in (("200 drawings", many, COUNT), ("a million faces", million, 0)):
            took, longest = _stalls(path, count)
            rows.append(fact(f"opening {what} in the window", f"{took:.0f} ms", ""))
            rows.append(fact("  longest stall but for drawing", f"{longest:.0f} ms", "100 ms"))
        report(*rows)


if __name__ == "__main__":
    main()
