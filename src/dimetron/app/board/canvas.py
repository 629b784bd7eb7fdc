"""The panes on the GPU: each is drawn only when what it shows changed, then all are composed.

The panes live in one multisampled framebuffer that keeps its contents; composing resolves it and
puts overlays, projection lines and borders on top.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import moderngl
import numpy as np

from dimetron.app.board.layout import Rect
from dimetron.app.board.pointing import Place, marks, thrown_lines
from dimetron.geometry.camera import OrbitCamera
from dimetron.mesh.arrays import Floats, Mask
from dimetron.render import compass
from dimetron.render.ink import Sheet
from dimetron.render.marks import put_place
from dimetron.render.overlays import Overlay
from dimetron.render.palette import Palette
from dimetron.render.renderer import Renderer
from dimetron.render.scene import PaneScene
from dimetron.render.tiles import TileKey

SAMPLES = 4


@dataclass(slots=True)
class _Target:
    """A framebuffer and what stands in it: the scene and place of each pane that is finished."""

    size: tuple[int, int]
    framebuffer: moderngl.Framebuffer
    parts: tuple[moderngl.Renderbuffer, moderngl.Renderbuffer]
    drawn: dict[str, tuple[PaneScene, Rect]]

    def release(self) -> None:
        self.framebuffer.release()
        for part in self.parts:
            part.release()


class Canvas:
    def __init__(self, ctx: moderngl.Context) -> None:
        self.ctx = ctx
        self.renderer = Renderer(ctx)
        self._targets: dict[int, _Target] = {}
        self._shown: _Target | None = None
        #: Tiles that stand in each pane.
        self._used: dict[str, set[TileKey]] = {}
        #: What is drawn over the panes and stays as it is, by name, with what it was made for.
        self._sheets: dict[str, tuple[tuple[object, ...], Sheet]] = {}
        self._depths: dict[str, tuple[PaneScene, Floats]] = {}
        #: Whether a processor draws instead of a graphics card.
        self.software = any(
            name in str(ctx.info["GL_RENDERER"]).lower()
            for name in ("llvmpipe", "softpipe", "swrast")
        )
        #: Panes drawn so far, for tests and measurements.
        self.panes_drawn = 0

    def draw(self, scenes: Mapping[str, PaneScene], rects: Mapping[str, Rect], ratio: float,
             size: tuple[int, int], smooth: bool = True) -> bool:  # fmt: skip
        """Draw the panes whose scene or place changed. True if finer tiles are still to come.

        Without ``smooth`` edges are jagged and a frame takes half the time in software OpenGL.
        """
        target = self._shown = self._prepared(size, SAMPLES if smooth else 0)
        waiting = False
        for slot, scene in scenes.items():
            known = target.drawn.get(slot)
            if known is not None and known[0] is scene and known[1] == rects[slot]:
                continue
            target.framebuffer.use()
            box = device_box(rects[slot], ratio, size[1])
            target.framebuffer.viewport = box
            target.framebuffer.scissor = box
            more = self.renderer.draw(scene)
            self._used[slot] = self.renderer.tiles.used
            target.framebuffer.scissor = None
            self.panes_drawn += 1
            target.drawn.pop(slot, None)
            if more:
                waiting = True
            else:
                target.drawn[slot] = scene, rects[slot]
        for slot in [s for s in target.drawn if s not in scenes]:
            del target.drawn[slot]
        if not waiting:
            self._used = {slot: keys for slot, keys in self._used.items() if slot in scenes}
            self.renderer.tiles.trim(set().union(*self._used.values()))
        return waiting

    def _prepared(self, size: tuple[int, int], samples: int) -> _Target:
        known = self._targets.get(samples)
        if known is not None and known.size == size:
            return known
        if known is not None:
            known.release()
        used = min(samples, self.ctx.max_samples)
        colour = self.ctx.renderbuffer(size, samples=used)
        depth = self.ctx.depth_renderbuffer(size, samples=used)
        made = _Target(size, self.ctx.framebuffer([colour], depth), (colour, depth), {})
        self._targets[samples] = made
        return made

    def compose(
        self,
        screen: moderngl.Framebuffer,
        scenes: Mapping[str, PaneScene],
        rects: Mapping[str, Rect],
        ratio: float,
        overlays: Sequence[Overlay],
        place: Place | None,
        palette: Palette,
        hot: str | None = None,
    ) -> None:
        """Panes, then on top the overlays, the place the pointer means, and the orientation mark
        with its ``hot`` point."""
        assert self._shown is not None
        size = self._shown.size
        lines = thrown_lines(scenes, place) if place is not None else {}
        points = marks(scenes, place) if place is not None else {}
        self.ctx.copy_framebuffer(screen, self._shown.framebuffer)
        screen.use()
        for slot, scene in scenes.items():
            screen.viewport = device_box(rects[slot], ratio, size[1])
            screen.scissor = screen.viewport
            sheet = Sheet(scene.camera.size, ratio)
            if slot in lines:
                sheet.lines(lines[slot], (*palette.accent[:3], 0.85), 1.0, dash=4.0)
            if slot in points:
                put_place(sheet, *points[slot], palette)
            self.renderer.pen.draw(sheet)
            if isinstance(scene.camera, OrbitCamera):
                self.renderer.pen.draw(self._compass(scene.camera, ratio, palette, hot))
            self.renderer.draw_overlays(scene, slot, overlays)
        screen.scissor = None
        screen.viewport = (0, 0, *size)
        self._borders(rects, size, ratio, palette)

    def _compass(
        self, camera: OrbitCamera, ratio: float, palette: Palette, hot: str | None
    ) -> Sheet:
        def draw(sheet: Sheet) -> None:
            compass.draw(sheet, camera, palette, self.renderer.pen, hot)

        return self._kept_sheet("compass", (camera, ratio, palette, hot), camera.size, ratio, draw)

    def _kept_sheet(
        self,
        name: str,
        key: tuple[object, ...],
        size: tuple[float, float],
        ratio: float,
        draw: Callable[[Sheet], None],
    ) -> Sheet:
        """What was drawn by that name before, as long as the key is the same."""
        known = self._sheets.get(name)
        if known is None or known[0] != key:
            sheet = Sheet(size, ratio)
            draw(sheet)
            known = self._sheets[name] = key, sheet
        return known[1]

    def _borders(
        self, rects: Mapping[str, Rect], size: tuple[int, int], ratio: float, palette: Palette
    ) -> None:
        if len(rects) < 2:
            return
        inner = size[0] / ratio, size[1] / ratio

        def draw(sheet: Sheet) -> None:
            _put_borders(sheet, rects, palette)

        key = (*rects.values(), size, ratio, palette)
        self.renderer.pen.draw(self._kept_sheet("borders", key, inner, ratio, draw))

    def in_sight(self, scene: PaneScene, points: Floats) -> Mask:
        """(n,) which world points (n, 3) no mesh of the scene hides, to the pixel."""
        if not len(points):
            return np.zeros(0, bool)
        depths = self._depth_of("", scene)
        clip = scene.camera.clip_matrix(np.zeros(3), scene.half_depth)
        at = np.concatenate([points, np.ones((len(points), 1))], axis=1) @ clip.T
        seen = at[:, 2] / at[:, 3]
        px = scene.camera.project(points) * scene.pixel_ratio
        h, w = depths.shape
        column = np.nan_to_num(px[:, 0], nan=-1.0).astype(int)
        row = np.nan_to_num(px[:, 1], nan=-1.0).astype(int)
        inside = (column >= 0) & (column < w) & (row >= 0) & (row < h) & (px >= 0).all(axis=1)
        # The farthest of the pixels around: a vertex on an outline lies half beside its surface.
        around = np.full(len(points), -1.0)
        for dy in (-1, 0, 1):
            for dx in (-1, 0, 1):
                r, c = (row + dy).clip(0, h - 1), (column + dx).clip(0, w - 1)
                around = np.maximum(around, depths[r, c])
        return np.asarray(inside & (seen <= around + 1e-4))

    def surface_point(self, slot: str, scene: PaneScene, px: tuple[float, float]) -> Floats | None:
        """The point (3,) of the nearest mesh under a pane pixel; None if there is none.

        The depth picture is kept, so pointing about in a pane that rests costs nothing.
        """
        if not scene.meshes:
            return None
        depths = self._depth_of(slot, scene)
        h, w = depths.shape
        column, row = (int(n * scene.pixel_ratio) for n in px)
        if not (0 <= column < w and 0 <= row < h) or depths[row, column] >= 1:
            return None
        width, height = scene.camera.size
        clip = np.array([px[0] / width * 2 - 1, 1 - px[1] / height * 2, depths[row, column], 1.0])
        point = np.linalg.solve(scene.camera.clip_matrix(np.zeros(3), scene.half_depth), clip)
        return np.asarray(point[:3] / point[3])

    def _depth_of(self, slot: str, scene: PaneScene) -> Floats:
        known = self._depths.get(slot)
        if known is None or known[0] is not scene:
            known = self._depths[slot] = scene, self.renderer.depth_picture(scene)
        return known[1]

    def keep_only(self, scenes: Mapping[str, PaneScene]) -> None:
        self.renderer.keep_only(scenes.values())


def _put_borders(sheet: Sheet, rects: Mapping[str, Rect], palette: Palette) -> None:
    for r in rects.values():
        if r.x > 0:
            x = r.x - 0.5
            sheet.lines([[[x, r.y - 1], [x, r.y + r.h]]], palette.border, 1.2)
        if r.y > 0:
            y = r.y - 0.5
            sheet.lines([[[r.x - 1, y], [r.x + r.w, y]]], palette.border, 1.2)


def device_box(rect: Rect, ratio: float, height: int) -> tuple[int, int, int, int]:
    """A rect from the top-left corner in logical pixels to OpenGL's from the lower left."""
    x, w = round(rect.x * ratio), round(rect.w * ratio)
    y, h = round(rect.y * ratio), round(rect.h * ratio)
    return x, height - y - h, w, h
