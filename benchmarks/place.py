"""The board to work in all day: six 12-megapixel drawings and 500k triangles, what panning redraws,
how much texture memory is held, how steady a deep zoom is, and one very large drawing."""

from __future__ import annotations

import time
from dataclasses import replace

import moderngl
import numpy as np
from PIL import Image

from benchmarks.frame import SIZE, board_frame, measured
from benchmarks.scenes import THREE, drawings
from benchmarks.timing import fact, report, row
from dimetron.app.board.canvas import Canvas
from dimetron.app.board.layout import Layout
from dimetron.app.board.sight import Sight
from dimetron.app.tools.slots import ELEVATION
from dimetron.document import edits
from dimetron.document.model import Document, Source, new_id
from dimetron.geometry.camera import OrthoCamera
from dimetron.geometry.views import View
from dimetron.imaging.pyramid import build
from dimetron.render.headless import offscreen, read_picture
from dimetron.render.palette import DAY
from dimetron.render.scene import PaneScene, Shading, document_box, pane_scene, space_box

TWELVE = (4000, 3000)
#: Where the edge that must stay put lies in the pane.
_EDGE_AT = 200.375


def six_frame() -> dict[str, object]:
    setup = board_frame(500, 500, TWELVE, tuple(View))
    return measured("board frame, 6 x 12 Mpx, 500k triangles", setup, 7)


def panning() -> list[dict[str, object]]:
    """Panes drawn by a pan, and texture memory, over a zoom into the drawings and back."""
    doc, pyramids = drawings(*TWELVE, THREE)
    rects = Layout().rects(*SIZE)
    sight = Sight().fitted(document_box(doc), space_box(doc), rects)
    canvas = Canvas(moderngl.create_standalone_context(backend="egl"))
    known: dict[str, PaneScene] = {}

    def show(sight: Sight) -> int:
        before = canvas.panes_drawn
        for slot, rect in rects.items():
            camera = sight.camera(slot, rect)
            if slot not in known or known[slot].camera != camera:
                known[slot] = pane_scene(doc, camera, sight.shading[slot], pyramids)
        while canvas.draw(known, rects, 1.0, SIZE):
            pass
        return canvas.panes_drawn - before

    show(sight)
    camera = sight.camera(ELEVATION, rects[ELEVATION])
    assert isinstance(camera, OrthoCamera)
    across = show(sight.panned(ELEVATION, camera, (7.0, 0.0)))
    free = sight.with_tie(0, False)
    show(free)
    alone = show(free.panned(ELEVATION, free.camera(ELEVATION, rects[ELEVATION]), (9.0, 0.0)))
    worst = 0.0
    for step in np.concatenate([np.linspace(0, 1, 12), np.linspace(1, 0, 12)]):
        show(replace(sight, mm_per_px=sight.mm_per_px * 1000**-step))
        tiles = canvas.renderer.tiles
        in_use = sum(tiles.bytes_of([key]) for key in set().union(*canvas._used.values()))
        worst = max(worst, tiles.texture_bytes / max(in_use, 6 << 20))
    return [
        fact("panes drawn by a pan across that one other shares", f"{across} of 4", "2"),
        fact("the same, not tied", f"{alone} of 4", "1"),
        fact("texture memory over the level in use, worst of a zoom", f"{worst:.2f}", "1.5"),
    ]


def steadiness() -> list[dict[str, object]]:
    """How far an edge of a drawing and a line of the grid wander in a zoom to 1/1000."""
    pixels = np.full((3000, 4000), 255, np.uint8)
    pixels[:, :1237] = 0
    doc, pyramids = Document(), {}
    source = Source(new_id(), "edge.png", "png", (4000, 3000), "0" * 64, b"x", 0.06)
    doc, id_ = edits.with_drawing(doc, source, View.FRONT)
    drawing = replace(doc.drawing(id_), opacity=1.0)
    doc = replace(doc, drawings=(drawing,))
    pyramids[doc.recipe(drawing)] = build(Image.fromarray(pixels))
    edge = drawing.placement.to_plane((1237.0, 1400.0))
    size = (400, 60)
    worst = 0.0
    with offscreen(size) as (renderer, target):
        for scale in 0.6 * 1000 ** -np.linspace(0, 1, 40):
            across = (size[0] / 2 - _EDGE_AT) * scale
            focus = (float(edge[0]) + across, 0.0, float(edge[1]))
            camera = OrthoCamera(View.FRONT, focus, float(scale), size)
            scene = pane_scene(doc, camera, Shading.SOLID, pyramids, palette=DAY, grid=False)
            target.use()
            while renderer.draw(scene):
                pass
            line = np.asarray(read_picture(target).convert("L"), float)[30]
            worst = max(worst, abs(_crossing(line) - _EDGE_AT))
    what = "edge of a drawing off its place, zoom to 1/1000, worst"
    return [fact(what, f"{worst:.3f} px", "0.1")]


def _crossing(line: np.ndarray) -> float:
    """Where a row of pixels goes from dark to light."""
    first = int(_EDGE_AT) - 40
    near = line[first : first + 80] / 255
    if near[0] < 0.01 and near[-1] > 0.99:
        # All of the edge is there: as far as its darkness reaches.
        return first + float((1 - near).sum())
    # A pixel of the drawing is wider than that: a line through the grey between two of them.
    slope, at_zero = np.polyfit(first + np.arange(80) + 0.5, near, 1)
    return float((0.5 - at_zero) / slope)


def large() -> list[dict[str, object]]:
    """A drawing of 20000 x 20000 pixels: made ready, and zoomed to single pixels."""
    picture = Image.new("L", (20000, 20000), 255)
    picture.paste(0, (0, 9000, 20000, 9002))
    begin = time.perf_counter()
    pyramid = build(picture)
    ready = (time.perf_counter() - begin) * 1000
    begin = time.perf_counter()
    picture.copy()
    bare = (time.perf_counter() - begin) * 1000
    doc = Document()
    source = Source(new_id(), "huge.png", "png", picture.size, "0" * 64, b"x", 0.02)
    doc, id_ = edits.with_drawing(doc, source, View.FRONT)
    drawing = replace(doc.drawing(id_), opacity=1.0)
    doc = replace(doc, drawings=(drawing,))
    at = drawing.placement.to_plane((10000.0, 9001.0))
    pyramids = {doc.recipe(drawing): pyramid}
    size = (800, 700)
    worst = 0.0
    with offscreen(size) as (renderer, target):
        for scale in 0.6 * (0.6 / 0.0025) ** -np.linspace(0, 1, 30):
            camera = OrthoCamera(View.FRONT, (float(at[0]), 0.0, float(at[1])), float(scale), size)
            scene = pane_scene(doc, camera, Shading.SOLID, pyramids, palette=DAY, grid=False)
            target.use()
            begin = time.perf_counter()
            renderer.draw(scene)
            renderer.ctx.finish()
            worst = max(worst, (time.perf_counter() - begin) * 1000)
            while renderer.draw(scene):
                pass
        shown = np.asarray(read_picture(target).convert("L"))
        mb = renderer.tiles.texture_bytes / 2**20
    sharp = int((shown[:, 400] < 128).sum())
    return [
        row("20000 x 20000 made ready to draw, against copying it once", ready, bare, "-"),
        row("its longest first frame in a zoom from whole to 8 px a pixel", worst, None, "-"),
        fact("a 2 px line at 8 px a pixel is so many rows high", f"{sharp}", "16"),
        fact("texture memory it takes after the zoom", f"{mb:.0f} MB", "-"),
    ]


def main() -> None:
    report(six_frame(), *panning(), *steadiness(), *large())


if __name__ == "__main__":
    main()
