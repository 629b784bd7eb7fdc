"""A view of the meshes as a picture of known scale, to be placed as a drawing."""

from __future__ import annotations

from dataclasses import replace

import moderngl
import numpy as np
from PIL import Image, ImageFilter

from dimetron.document.model import Document
from dimetron.geometry.camera import OrthoCamera
from dimetron.geometry.placement import Placement
from dimetron.geometry.views import AnyView
from dimetron.mesh.outline import feature_edges
from dimetron.mesh.select import Kind, none
from dimetron.render.palette import DAY, Palette, colour
from dimetron.render.renderer import Renderer
from dimetron.render.scene import MeshItem, PaneScene, Section, Shading
from dimetron.render.taken import NothingToTake, Snapshot, Taken

LONGEST_PX = 2400
#: Room around the meshes, as a share of the picture.
_MARGIN = 0.04
_SAMPLES = 8
#: Width of the lines of a snapshot; thinner ones would fade when seen from afar.
_LINE_PX = 5


_WHITE, _DARK = colour("#FFFFFF"), colour("#22313B")
_PAPERS: dict[Taken, Palette] = {
    Taken.SILHOUETTE: replace(DAY, pane=_WHITE, clay=_DARK, ink=_DARK),
    Taken.LINES: replace(DAY, pane=_WHITE, clay=_WHITE, ink=_WHITE, selection=_DARK),
    Taken.SHADED: replace(DAY, pane=_WHITE, clay=colour("#C9CFD2"), clay_edge=_DARK),
}


def snapshot(
    renderer: Renderer, doc: Document, view: AnyView, how: Taken, section: Section | None = None
) -> Snapshot:
    """The shown meshes squarely along a view. Raises NothingToTake."""
    shown = [m for m in doc.meshes if doc.visible(m) and m.mesh.topology.face_count]
    if not shown:
        raise NothingToTake("There is no mesh to take a snapshot of; show or add one first.")
    points = np.concatenate([m.mesh.positions for m in shown])
    low, high = (view.to_plane(points).min(axis=0), view.to_plane(points).max(axis=0))
    extent = np.maximum(high - low, 1e-3) * (1 + 2 * _MARGIN)
    mm_per_px = float(extent.max()) / _longest(renderer.ctx)
    w, h = (max(1, int(np.ceil(side / mm_per_px))) for side in extent)
    middle = view.to_world((low + high) / 2)
    camera = OrthoCamera(view, _triple(middle), mm_per_px, (float(w), float(h)))
    away = np.abs((points - middle) @ view.directions.forward).max()
    items = tuple(
        MeshItem(m.id, m.mesh, True, Kind.EDGE, feature_edges(m.mesh, view.directions.forward))
        if how is Taken.LINES
        else MeshItem(m.id, m.mesh, selected=none())
        for m in shown
    )
    shading = Shading.SOLID if how is Taken.SHADED else Shading.SILHOUETTE
    scene = PaneScene(
        camera,
        shading,
        (),
        items,
        float(away) * 1.2 + 10.0,
        palette=_PAPERS[how],
        grid=False,
        section=section,
    )
    placement = Placement(mm_per_px, (w / 2, h / 2), _pair((low + high) / 2))
    picture = _drawn(renderer, scene, (w, h))
    if how is Taken.LINES:
        picture = picture.filter(ImageFilter.MinFilter(_LINE_PX))
    return Snapshot(picture, placement)


def _longest(ctx: moderngl.Context) -> int:
    return int(min(LONGEST_PX, ctx.info["GL_MAX_TEXTURE_SIZE"]))


def _drawn(renderer: Renderer, scene: PaneScene, size: tuple[int, int]) -> Image.Image:
    ctx = renderer.ctx
    samples = min(_SAMPLES, ctx.max_samples)
    parts = ctx.renderbuffer(size, samples=samples), ctx.depth_renderbuffer(size, samples=samples)
    target = ctx.framebuffer([parts[0]], parts[1])
    plain_part = ctx.renderbuffer(size)
    plain = ctx.framebuffer([plain_part])
    try:
        target.use()
        ctx.viewport = (0, 0, *size)
        renderer.draw(scene)
        ctx.copy_framebuffer(plain, target)
        picture = Image.frombytes("RGB", size, plain.read(components=3, alignment=1))
    finally:
        for gone in (target, plain, plain_part, *parts):
            gone.release()
    return picture.convert("L").transpose(Image.Transpose.FLIP_TOP_BOTTOM)


def _pair(at: np.ndarray) -> tuple[float, float]:
    return float(at[0]), float(at[1])


def _triple(at: np.ndarray) -> tuple[float, float, float]:
    return float(at[0]), float(at[1]), float(at[2])
