"""Rendering without a window, for scripts: a view of a document as a picture."""

from __future__ import annotations

import contextlib
import ctypes
import os
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from typing import TYPE_CHECKING

import moderngl
from PIL import Image

from dimetron.document.model import Document
from dimetron.geometry.camera import OrbitCamera
from dimetron.geometry.views import View
from dimetron.imaging.errors import PictureError
from dimetron.imaging.memory import there_is
from dimetron.imaging.prepare import pyramid_on
from dimetron.imaging.pyramid import Pyramid, build
from dimetron.imaging.read import decode
from dimetron.imaging.recipe import Recipe, frame_of
from dimetron.render.palette import DAY, Palette
from dimetron.render.renderer import Renderer
from dimetron.render.scene import (
    PaneScene,
    Shading,
    document_box,
    fitted_orbit,
    fitted_ortho,
    pane_scene,
    space_box,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

SAMPLES = 4
#: Pictures decoded at a time.
_DECODERS = min(4, os.cpu_count() or 1)


class NoOpenGL(RuntimeError):
    """This machine offers no OpenGL 3.3 to draw with."""


class TooLarge(ValueError):
    """A picture of this size cannot be drawn on this machine."""


@contextmanager
def offscreen(size: tuple[int, int]) -> Iterator[tuple[Renderer, moderngl.Framebuffer]]:
    """A renderer and a framebuffer of its own. Raises NoOpenGL or TooLarge."""
    # Colour and depth of each sample, and the picture they become, twice.
    if not there_is(size[0] * size[1] * (8 * SAMPLES + 2 * 4)):
        raise _too_large(size)
    ctx = _context()
    try:
        if max(size) > min(ctx.info["GL_MAX_RENDERBUFFER_SIZE"], *ctx.info["GL_MAX_VIEWPORT_DIMS"]):
            raise _too_large(size)
        try:
            target = ctx.framebuffer(
                [ctx.renderbuffer(size, samples=SAMPLES)],
                ctx.depth_renderbuffer(size, samples=SAMPLES),
            )
        except moderngl.Error as error:
            raise _too_large(size) from error
        target.use()
        yield Renderer(ctx), target
    finally:
        ctx.release()
        _let_go()


def _let_go() -> None:
    """A context stays the thread's own after it is released, and a window that is opened later in
    the same process, by another way to the screen, could not have one."""
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL("libEGL.so.1").eglReleaseThread()


def _too_large(size: tuple[int, int]) -> TooLarge:
    return TooLarge(
        f"{size[0]} × {size[1]} pixels are more than this machine can draw; ask for less."
    )


def _context() -> moderngl.Context:
    for options in ({"backend": "egl"}, {}):
        try:
            return moderngl.create_standalone_context(require=330, **options)
        except Exception:  # noqa: BLE001 - every backend raises its own kind
            continue
    raise NoOpenGL("OpenGL 3.3 is needed to draw and this machine offers none; install Mesa.")


def read_picture(target: moderngl.Framebuffer) -> Image.Image:
    """The framebuffer's colours as an RGB picture, top row first."""
    ctx, size = target.ctx, target.size
    plain = ctx.framebuffer([ctx.renderbuffer(size)])
    ctx.copy_framebuffer(plain, target)
    picture = Image.frombytes("RGB", size, plain.read(components=3, alignment=1))
    plain.release()
    return picture.transpose(Image.Transpose.FLIP_TOP_BOTTOM)


def pyramids_of(doc: Document) -> dict[Recipe, Pyramid]:
    """The pictures of all image planes; those that cannot be decoded are left out."""

    drawings = dict.fromkeys(doc.recipe(drawing) for drawing in doc.planes)
    # Decoding runs outside the interpreter's lock; a page that several are cut from is read once.
    raw = {recipe.raw for recipe in drawings}
    with ThreadPoolExecutor(_DECODERS) as pool:
        pages = dict(zip(raw, pool.map(lambda recipe: _page(doc, recipe), raw), strict=True))

        def made(recipe: Recipe) -> Pyramid | None:
            page = pages[recipe.raw]
            if page is None or recipe.plain:
                return page
            try:
                return pyramid_on(page, frame_of(recipe), recipe.tone, recipe.figure)
            except PictureError:
                return None

        pyramids = dict(zip(drawings, pool.map(made, drawings), strict=True))
    return {recipe: pyramid for recipe, pyramid in pyramids.items() if pyramid is not None}


def _page(doc: Document, recipe: Recipe) -> Pyramid | None:
    """A page as it came; None if it is lost or cannot be decoded."""
    source = doc.source(recipe.source)
    if source.data is None:
        return None
    try:
        return build(decode(source.data, source.name, recipe.page).image)
    except PictureError:
        return None


def scene_of(
    doc: Document,
    view: View | None,
    size: tuple[int, int],
    pyramids: Mapping[Recipe, Pyramid],
    shading: Shading = Shading.SEE_THROUGH,
    palette: Palette = DAY,
) -> PaneScene:
    """A pane fitted to the document: a principal view, or 3D for None."""
    box = document_box(doc)
    if view is None:
        orbit = fitted_orbit(space_box(doc), OrbitCamera(size=size))
        return pane_scene(doc, orbit, Shading.LINED, pyramids, unit=doc.unit, palette=palette)
    camera = fitted_ortho(box, view, size)
    return pane_scene(doc, camera, shading, pyramids, unit=doc.unit, palette=palette)


def render_picture(doc: Document, view: View | None, size: tuple[int, int]) -> Image.Image:
    """One view of a document, fitted, as an RGB picture. Raises NoOpenGL."""
    scene = scene_of(doc, view, size, pyramids_of(doc))
    with offscreen(size) as (renderer, target):
        renderer.tiles.at_once()
        renderer.draw(scene)
        return read_picture(target)
