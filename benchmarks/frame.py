"""A board frame: three 4-megapixel drawings and a 100k-triangle mesh, against a bare moderngl draw
of the same buffers into the same panes."""

from __future__ import annotations

from dataclasses import replace

import moderngl
import numpy as np

from benchmarks.scenes import THREE, ball, drawings, with_mesh
from benchmarks.timing import in_turn, report, row
from dimetron.app.board.canvas import SAMPLES, Canvas, device_box
from dimetron.app.board.layout import Layout
from dimetron.app.board.sight import Sight
from dimetron.app.tools.slots import FLAT_SLOTS
from dimetron.geometry.camera import OrthoCamera
from dimetron.geometry.views import View
from dimetron.render.scene import document_box, pane_scene, space_box

SIZE = (822, 733)

_VERTEX = """
#version 330
uniform mat4 m; in vec3 p; out vec3 v;
void main() { v = p; gl_Position = m * vec4(p, 1.0); }
"""
_FRAGMENT = """
#version 330
in vec3 v; out vec4 c;
void main() {
    vec3 n = normalize(cross(dFdx(v), dFdy(v)));
    c = vec4(vec3(0.5, 0.8, 0.7) * (0.6 + 0.4 * abs(n.z)), 1.0);
}
"""
_LINE = """
#version 330
out vec4 c; void main() { c = vec4(0.1, 0.3, 0.3, 1.0); }
"""
_QUAD = """
#version 330
uniform vec4 o; uniform vec4 a; uniform vec4 d; out vec2 t;
void main() {
    t = vec2(gl_VertexID & 1, gl_VertexID >> 1);
    gl_Position = o + t.x * a + t.y * d;
}
"""
_PICTURE = """
#version 330
uniform sampler2D s; in vec2 t; out vec4 c; void main() { c = vec4(texture(s, t).rgb, 0.85); }
"""


class Bare:
    """The same buffers and mip-mapped textures, four panes, one draw call each."""

    def __init__(self, ctx: moderngl.Context, scenes: dict, rects: dict, mesh, pyramids) -> None:
        self.ctx = ctx
        points = ctx.buffer(mesh.positions.astype("f4").tobytes())
        faces = ctx.buffer(mesh.triangles.astype("i4").tobytes())
        edges = ctx.buffer(mesh.topology.edges.astype("i4").tobytes())
        self.solid, self.line = ctx.program(_VERTEX, _FRAGMENT), ctx.program(_VERTEX, _LINE)
        self.faces = ctx.vertex_array(self.solid, [(points, "3f", "p")], faces)
        self.edges = ctx.vertex_array(self.line, [(points, "3f", "p")], edges)
        self.paper = ctx.program(_QUAD, _PICTURE)
        self.quad = ctx.vertex_array(self.paper, [])
        self.textures = {}
        for recipe, pyramid in pyramids.items():
            pixels = pyramid.levels[0].tobytes()
            channels = len(pyramid.levels[0].getbands())
            texture = ctx.texture(pyramid.size_px, channels, pixels, alignment=1)
            texture.build_mipmaps()
            texture.filter = (moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR)
            self.textures[recipe.source] = texture
        self.scenes, self.rects = scenes, rects
        self.target = ctx.framebuffer(
            [ctx.renderbuffer(SIZE, samples=SAMPLES)],
            ctx.depth_renderbuffer(SIZE, samples=SAMPLES),
        )
        # What the panes show, worked out beforehand: the bare side only draws.
        self.panes = [self._pane(slot) for slot in scenes]

    def _pane(self, slot: str) -> tuple:
        scene = self.scenes[slot]
        matrix = scene.camera.clip_matrix(np.zeros(3), scene.half_depth)
        quads = []
        for plane in scene.planes:
            ends = np.c_[plane.corners, np.ones(4)] @ matrix.T
            quads.append((plane.id, ends[0], ends[1] - ends[0], ends[3] - ends[0]))
        return device_box(self.rects[slot], 1, SIZE[1]), matrix.T.astype("f4").tobytes(), quads

    def draw(self, screen: moderngl.Framebuffer) -> None:
        ctx = self.ctx
        self.target.use()
        for box, matrix, quads in self.panes:
            self.target.viewport = box
            self.target.clear(0.9, 0.9, 0.9, 1.0, viewport=box)
            ctx.enable_only(moderngl.BLEND)
            for source, o, a, d in quads:
                self.paper["o"].value, self.paper["a"].value = tuple(o), tuple(a)
                self.paper["d"].value = tuple(d)
                self.textures[source].use(0)
                self.quad.render(moderngl.TRIANGLE_STRIP, vertices=4)
            ctx.enable_only(moderngl.DEPTH_TEST)
            self.solid["m"].write(matrix)
            self.faces.render()
            self.line["m"].write(matrix)
            self.edges.render(moderngl.LINES)
        ctx.copy_framebuffer(screen, self.target)
        ctx.finish()


def board_frame(
    rings: int, segments: int, size: tuple[int, int] = (2000, 2000), views: tuple[View, ...] = THREE
) -> tuple:
    """Context, scene maker, rects, document and pictures of one board."""
    doc, pyramids = drawings(*size, views)
    # Ids that tell the bare side which texture is meant.
    named = tuple(replace(d, id=doc.sheet(d.sheet).source) for d in doc.drawings)
    doc = with_mesh(replace(doc, drawings=named), ball(rings, segments))
    rects = Layout().rects(*SIZE)
    sight = Sight().fitted(document_box(doc), space_box(doc), rects)
    ctx = moderngl.create_standalone_context(backend="egl")

    def scenes(doc=doc) -> dict:
        return {
            slot: pane_scene(doc, sight.camera(slot, rect), sight.shading[slot], pyramids)
            for slot, rect in rects.items()
        }

    return ctx, scenes, rects, doc, pyramids


def measured(what: str, setup: tuple, rounds: int) -> dict[str, object]:
    """A row of one board against its bare twin."""
    ctx, scenes, rects, doc, pyramids = setup
    canvas = Canvas(ctx)
    screen = ctx.framebuffer([ctx.renderbuffer(SIZE)])
    bare = Bare(ctx, scenes(), rects, doc.meshes[0].mesh, pyramids)
    assert all(isinstance(s.camera, OrthoCamera) for k, s in scenes().items() if k in FLAT_SLOTS)

    def ours() -> None:
        shown = scenes()
        while canvas.draw(shown, rects, 1.0, SIZE):
            pass
        palette = next(iter(shown.values())).palette
        canvas.compose(screen, shown, rects, 1.0, (), None, palette)
        ctx.finish()

    one, other = in_turn(ours, lambda: bare.draw(screen), rounds)
    return row(what, one, other, "1.3")


def main() -> None:
    report(measured("board frame, 3 x 4 Mpx, 100k triangles", board_frame(224, 224), 15))


if __name__ == "__main__":
    main()
