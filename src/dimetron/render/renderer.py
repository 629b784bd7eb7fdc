"""One pane's scene into a framebuffer, and overlays over it."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace

import moderngl
import numpy as np

from dimetron.document.parts import Order
from dimetron.geometry.camera import Camera, OrbitCamera, OrthoCamera
from dimetron.mesh.arrays import Floats
from dimetron.mesh.select import Kind
from dimetron.render import grid
from dimetron.render.ink import OVER, TIMES, Pen, Sheet
from dimetron.render.marks import put_overlays
from dimetron.render.meshes import MeshStore
from dimetron.render.overlays import Overlay
from dimetron.render.palette import DAY, Colour
from dimetron.render.scene import MeshItem, PaneScene, PlaneItem, Shading
from dimetron.render.tiles import Point, TileStore, clip_space

#: How strongly a drawing's ink shows over a mesh.
_INK_OVER_SOLID, _INK_OVER_SEE_THROUGH = 0.45, 1.0
#: Outline of a chosen drawing, in pixels.
_CHOSEN_WIDTH = 1.5
#: What is left of a drawing that is cleared inside the meshes' outline.
_CLEARED = 0.1
#: Planes closer to edge-on than this (cosine) are drawn as a line.
_EDGE_ON = 1e-3
#: OpenGL's name of the first clipping plane.
_CLIP_PLANE = 0x3000


class Renderer:
    """Owns the stores of one OpenGL context. Draw only while that context is current."""

    def __init__(self, ctx: moderngl.Context) -> None:
        self.ctx = ctx
        self.tiles = TileStore(ctx)
        self.meshes = MeshStore(ctx)
        self.pen = Pen(ctx)
        self._clipped: tuple[PaneScene, Floats, dict[int, list[Point]]] | None = None

    def keep_only(self, scenes: Iterable[PaneScene]) -> None:
        """Drop what none of the scenes shows any more."""
        shown = list(scenes)
        self.meshes.keep_only({item.id for scene in shown for item in scene.meshes})
        planes = (plane for scene in shown for plane in scene.planes)
        self.tiles.keep_only([p.pyramid for p in planes if p.pyramid is not None])

    def draw(self, scene: PaneScene) -> bool:
        """Draw into the bound framebuffer and viewport. True if finer tiles are still to come."""
        self.tiles.begin_frame()
        if isinstance(scene.camera, OrthoCamera):
            self._draw_flat(scene, scene.camera)
        else:
            self._draw_space(scene, scene.camera)
        return self.tiles.waiting

    def _draw_flat(self, scene: PaneScene, camera: OrthoCamera) -> None:
        palette = scene.palette
        self._clear(palette.pane)
        lines = grid.flat(camera, scene.unit, palette, scene.pixel_ratio) if scene.grid else None
        if lines is not None:
            self.pen.draw(lines.grid)
        edge_on = [p for p in scene.planes if _is_edge_on(p, camera)]
        self._flat_planes_and_meshes(scene, [p for p in scene.planes if p not in edge_on])
        over = Sheet(camera.size, scene.pixel_ratio)
        self._lined(over, scene)
        self._edge_on(over, scene, edge_on)
        if lines is not None:
            self.pen.draw(lines.axes)
        self._frame_chosen(over, scene)
        self.pen.draw(over)
        if lines is not None:
            self.pen.draw(lines.numbers)

    def _flat_planes_and_meshes(self, scene: PaneScene, planes: Sequence[PlaneItem]) -> None:
        behind = [p for p in planes if p.showing.order is Order.BEHIND]
        if scene.meshes and any(p.showing.clear for p in planes):
            self._depth_only(scene)
        for plane in behind:
            self._covering(scene, plane)
        self._meshes(scene, [p for p in behind if not p.showing.clear])
        for plane in planes:
            if plane.showing.order is Order.FRONT:
                self._covering(scene, plane)
            elif plane.showing.order is Order.DEPTH:
                self._at_its_depth(scene, plane)

    def _covering(self, scene: PaneScene, plane: PlaneItem) -> None:
        """A drawing that no mesh hides; one that is cleared is faint where a mesh is."""
        ctx = self.ctx
        if not (plane.showing.clear and scene.meshes):
            ctx.enable_only(moderngl.BLEND)
            self._plane(scene, plane)
            return
        ctx.enable_only(moderngl.BLEND | moderngl.DEPTH_TEST)
        far = _at_far_end(scene, plane)
        self._write_depth(False)
        for test, share in (("<=", 1.0), (">", _CLEARED)):
            ctx.depth_func = test
            self._plane(scene, replace(far, opacity=far.opacity * share))
        self._write_depth(True)
        ctx.depth_func = "<="

    def _at_its_depth(self, scene: PaneScene, plane: PlaneItem) -> None:
        ctx = self.ctx
        if scene.shading is Shading.WIRE:
            self._depth_only(scene)
        ctx.enable_only(moderngl.BLEND | moderngl.DEPTH_TEST)
        ctx.depth_func = "<="
        self._write_depth(False)
        self._plane(scene, plane)
        self._write_depth(True)

    def _depth_only(self, scene: PaneScene) -> None:
        """The meshes' depth without their colour."""
        ctx = self.ctx
        ctx.enable_only(moderngl.DEPTH_TEST)
        ctx.depth_func = "<="
        ctx.fbo.color_mask = False, False, False, False
        with self._cut(scene):
            for item in scene.faced:
                self.meshes.draw_faces(scene, item, scene.palette.clay, 0.0)
        ctx.fbo.color_mask = True, True, True, True

    @contextmanager
    def _cut(self, scene: PaneScene) -> Iterator[None]:
        """What is drawn meanwhile is cut off at the scene's section."""
        if scene.section is None:
            yield
            return
        self.ctx.enable_direct(_CLIP_PLANE)
        try:
            yield
        finally:
            self.ctx.disable_direct(_CLIP_PLANE)

    def _lined(self, sheet: Sheet, scene: PaneScene, over: bool | None = None) -> None:
        """What is drawn with lines; over: only what lies over all else, or only the rest."""
        palette = scene.palette
        for item in scene.lined:
            if over is not None and item.over != over:
                continue
            role, width = item.drawn
            colour = palette.selection if item.chosen else getattr(palette, role)
            for line in item.lines:
                sheet.path(scene.camera.project(line), colour, width)

    def _edge_on(self, sheet: Sheet, scene: PaneScene, planes: Sequence[PlaneItem]) -> None:
        """Drawings seen from their edge: a line where they stand."""
        for plane in planes:
            ring = np.concatenate([plane.corners, plane.corners[:1]])
            colour = (*scene.palette.accent[:3], plane.opacity)
            sheet.path(scene.camera.project(ring), colour, 1.4)

    def _draw_space(self, scene: PaneScene, camera: OrbitCamera) -> None:
        palette = scene.palette
        self._clear(palette.pane_deep)
        if scene.grid:
            self.pen.draw(grid.ground(camera, scene.unit, palette, scene.pixel_ratio))
        under = Sheet(camera.size, scene.pixel_ratio)
        self._lined(under, scene, over=False)
        self.pen.draw(under)
        self._meshes(scene, ())
        # Far ones first; they hide nothing from each other but cover what lies behind. Only meshes
        # hide them; testing for that is what takes longest where a processor draws.
        depth = moderngl.DEPTH_TEST if scene.meshes else moderngl.NOTHING
        self.ctx.enable_only(moderngl.BLEND | depth)
        self.ctx.depth_func = "<="
        self._write_depth(False)
        for plane in _far_first(scene.planes, camera):
            self._plane(scene, plane)
        self._write_depth(True)
        over = Sheet(camera.size, scene.pixel_ratio)
        self._lined(over, scene, over=True)
        self._frame_chosen(over, scene)
        self.pen.draw(over)

    def _clear(self, colour: Colour) -> None:
        """Only the pane's own part of the framebuffer."""
        self.ctx.fbo.clear(*colour, depth=1.0, viewport=self.ctx.fbo.viewport)

    def _write_depth(self, on: bool) -> None:
        self.ctx.fbo.depth_mask = on

    def _plane(self, scene: PaneScene, plane: PlaneItem, over: float = 0.0) -> None:
        ends = self._in_clip_space(scene, plane)
        if over:
            # Colour times ink: paper leaves the mesh as it is, lines darken it.
            self.ctx.blend_func = TIMES
        else:
            self.ctx.blend_func = OVER
        if plane.pyramid is None:
            if not over:
                tint = scene.palette.missing
                self.tiles.fill(ends, (*tint[:3], tint[3] * plane.opacity))
            return
        size = (
            scene.camera.size[0] * scene.pixel_ratio,
            scene.camera.size[1] * scene.pixel_ratio,
        )
        ink, alone = plane.showing.tint, plane.showing.ink_alone
        if alone and ink is None and not plane.pyramid.medium.kind.areas:
            # The board's ink is seen on it by day and by night; over a mesh it must darken.
            board = (DAY if over else scene.palette).ink
            ink = round(board[0] * 255), round(board[1] * 255), round(board[2] * 255)
        self.tiles.draw(plane.pyramid, ends, size, plane.opacity, over, ink, alone)

    def _in_clip_space(self, scene: PaneScene, plane: PlaneItem) -> list[Point]:
        """The corners of a plane; those of all planes of a scene are worked out at once."""
        if self._clipped is None or self._clipped[0] is not scene:
            clip = scene.camera.clip_matrix(np.zeros(3), scene.half_depth)
            all_corners = np.array([p.corners for p in scene.planes]).reshape(-1, 4, 3)
            known = zip(scene.planes, clip_space(all_corners, clip), strict=True)
            self._clipped = scene, clip, {id(p.corners): ends for p, ends in known}
        _, clip, ends = self._clipped
        found = ends.get(id(plane.corners))
        return clip_space(plane.corners[None], clip)[0] if found is None else found

    def _meshes(self, scene: PaneScene, inked: Sequence[PlaneItem]) -> None:
        """The meshes, and over them the ink of drawings that lie behind them."""
        if not scene.meshes:
            return
        ctx = self.ctx
        with self._cut(scene):
            if scene.shading is not Shading.WIRE:
                self._faces(scene, isinstance(scene.camera, OrthoCamera))
        if scene.shading is not Shading.WIRE:
            self._ink_over(scene, inked)
        ctx.enable_only(moderngl.BLEND)
        ctx.blend_func = OVER
        if scene.shading.opaque:
            ctx.enable(moderngl.DEPTH_TEST)
            ctx.depth_func = "<="
        with self._cut(scene):
            for item in scene.meshes:
                self._lines(scene, item)

    def _faces(self, scene: PaneScene, flat: bool) -> None:
        ctx = self.ctx
        ctx.enable_only(moderngl.DEPTH_TEST | moderngl.BLEND)
        ctx.blend_func = OVER
        ctx.depth_func = "<="
        faint = any(self._face_colour(scene, item, flat)[3] < 1 for item in scene.faced)
        if faint:
            # Depth first, so that only the nearest surface tints what lies behind the mesh.
            ctx.fbo.color_mask = False, False, False, False
            for item in scene.faced:
                self.meshes.draw_faces(scene, item, scene.palette.clay, 0.0)
            ctx.fbo.color_mask = True, True, True, True
        for item in scene.faced:
            self.meshes.draw_faces(
                scene, item, self._face_colour(scene, item, flat), _relief(scene)
            )

    def _face_colour(self, scene: PaneScene, item: MeshItem, flat: bool) -> Colour:
        red, green, blue, alpha = self._look_colour(scene, item, flat)
        return red, green, blue, alpha * item.opacity

    def _look_colour(self, scene: PaneScene, item: MeshItem, flat: bool) -> Colour:
        palette, look = scene.palette, scene.mesh_look
        base: Colour = getattr(palette, look.colour)
        if item.colour:
            base = (*_channels(item.colour), base[3])
        if item.chosen and item.kind is Kind.WHOLE:
            base = _mixed(base, palette.selection, 0.25)
        if scene.shading is Shading.SILHOUETTE:
            base = _mixed(base, palette.ink, 0.55)
        if scene.shading is not Shading.SEE_THROUGH:
            return (*base[:3], 1.0 if look.opacity is None else look.opacity)
        if flat and look.opacity is None:
            # Light enough for a drawing's ink to be read on it.
            return _mixed(base, _mixed(palette.veil, base, 0.25), 0.8)
        return (*base[:3], 0.4 if look.opacity is None else look.opacity)

    def _ink_over(self, scene: PaneScene, planes: Sequence[PlaneItem]) -> None:
        """The drawings' lines once more, only where a mesh was drawn."""
        if not planes:
            return
        ctx = self.ctx
        through = scene.shading is Shading.SEE_THROUGH
        over = _INK_OVER_SEE_THROUGH if through else _INK_OVER_SOLID
        # The planes stand at the far end of the depth range; meshes are nearer.
        ctx.enable_only(moderngl.DEPTH_TEST | moderngl.BLEND)
        ctx.depth_func = ">"
        self._write_depth(False)
        for plane in planes:
            self._plane(scene, _at_far_end(scene, plane), over)
        self._write_depth(True)
        ctx.depth_func = "<="

    def _lines(self, scene: PaneScene, item: MeshItem) -> None:
        palette = scene.palette
        strength = {Shading.LINED: 0.75, Shading.SEE_THROUGH: 0.65, Shading.WIRE: 0.85}
        edge = palette.clay_edge if scene.shading is not Shading.WIRE else palette.accent
        if item.chosen and item.kind is Kind.WHOLE:
            edge = palette.selection
        over_surface = item.lines and not item.faces
        if scene.shading is Shading.WIRE:
            shown = item.lines or not item.faces
        else:
            shown = item.lines and (scene.shading in strength or over_surface)
        if shown:
            share = strength.get(scene.shading, 0.5) * item.opacity
            self.meshes.draw_edges(scene, item, (*edge[:3], share))
        if item.chosen and item.kind is Kind.VERTEX:
            self.meshes.draw_vertices(scene, item, palette)
        self.meshes.draw_selected(scene, item, palette)

    def _frame_chosen(self, sheet: Sheet, scene: PaneScene) -> None:
        for plane in scene.planes:
            if plane.chosen:
                ring = np.concatenate([plane.corners, plane.corners[:1]])
                sheet.path(scene.camera.project(ring), scene.palette.selection, _CHOSEN_WIDTH)

    def depth_picture(self, scene: PaneScene) -> Floats:
        """(h, w) depth in clip space of the nearest mesh, 1 where there is none; top row first."""
        ctx = self.ctx
        w, h = (max(1, round(n * scene.pixel_ratio)) for n in scene.camera.size)
        texture = ctx.depth_texture((w, h))
        target = ctx.framebuffer(depth_attachment=texture)
        target.use()
        target.clear(depth=1.0)
        ctx.enable_only(moderngl.DEPTH_TEST)
        ctx.depth_func = "<="
        with self._cut(scene):
            for item in scene.faced:
                self.meshes.draw_faces(scene, item, scene.palette.clay, 0.0)
        depths = np.frombuffer(texture.read(alignment=1), "f4").reshape(h, w)[::-1]
        target.release()
        texture.release()
        return np.asarray(depths, np.float64) * 2 - 1

    def draw_overlays(self, scene: PaneScene, slot: str, overlays: Iterable[Overlay]) -> None:
        """Over a finished pane: marks of the tools, in pane pixels."""
        sheet = Sheet(scene.camera.size, scene.pixel_ratio)
        put_overlays(sheet, scene, slot, overlays, self.pen)
        self.pen.draw(sheet)


def _relief(scene: PaneScene) -> float:
    if scene.shading is Shading.SILHOUETTE:
        return 0.0
    return 1.0 if scene.shading.opaque else 0.6


def _channels(colour: str) -> tuple[float, float, float]:
    """Of "#rrggbb", each 0 to 1."""
    red, green, blue = (int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5))
    return red, green, blue


def _mixed(a: Colour, b: Colour, share: float) -> Colour:
    r, g, bl, al = (x * (1 - share) + y * share for x, y in zip(a, b, strict=True))
    return r, g, bl, al


def _at_far_end(scene: PaneScene, plane: PlaneItem) -> PlaneItem:
    """The same plane just within the far end of the depth range."""
    camera: Camera = scene.camera
    depth = camera.depths(plane.corners)[:, None]
    corners = plane.corners + camera.forward * (0.9995 * scene.half_depth - depth)
    return replace(plane, corners=corners)


def _far_first(planes: Sequence[PlaneItem], camera: OrbitCamera) -> list[PlaneItem]:
    if not planes:
        return []
    middles = np.stack([plane.corners for plane in planes]).mean(axis=1)
    return [planes[i] for i in np.argsort(-camera.depths(middles), kind="stable")]


def _is_edge_on(plane: PlaneItem, camera: Camera) -> bool:
    a, b, _, d = plane.corners.tolist()
    x, y, z = (b[i] - a[i] for i in range(3))
    u, v, w = (d[i] - a[i] for i in range(3))
    normal = y * w - z * v, z * u - x * w, x * v - y * u
    along = sum(n * f for n, f in zip(normal, camera.forward.tolist(), strict=True))
    return abs(along) < _EDGE_ON * math.hypot(*normal)
