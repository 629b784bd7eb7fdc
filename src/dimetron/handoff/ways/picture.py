"""A view as a picture."""

from __future__ import annotations

import io
from dataclasses import dataclass, replace

from PIL import Image

from dimetron.geometry.views import View
from dimetron.handoff.way import Given, HandOffError, Way
from dimetron.mesh.parameters import choice, count, switch
from dimetron.render.headless import offscreen, pyramids_of, scene_of
from dimetron.render.palette import DAY
from dimetron.render.picturing import drawn, of_size, with_look
from dimetron.render.scene import PaneScene, Shading

#: Pictures are no larger than this on a side.
LARGEST = 16384
_VIEWS = (
    ("pane", "the last pane"),
    ("space", "3D as it stands"),
    *((view.value, f"{view.title}, all of it") for view in View),
    *((f"look {number}", f"look {number}, kept") for number in range(1, 10)),
)
SHADINGS = (("own", "as it is"), *((shading.value, shading.value) for shading in Shading))


@dataclass(frozen=True)
class PictureOptions:
    """How a picture is taken."""

    view: str = choice("pane", _VIEWS, title="of")
    width: int = count(1600, low=16, high=LARGEST, title="width", hint="In pixels")
    height: int = count(1200, low=16, high=LARGEST, title="height", hint="In pixels")
    shading: str = choice("own", SHADINGS, title="meshes")
    drawings: bool = switch(True, title="drawings")
    grid: bool = switch(False, title="grid")
    clear: bool = switch(
        False, title="clear ground", hint="Nothing where nothing is, as a PNG has it"
    )


def taken(given: Given, how: PictureOptions) -> Image.Image:
    """The picture. Raises HandOffError, NoOpenGL, TooLarge."""
    size = how.width, how.height
    shading = None if how.shading == "own" else Shading(how.shading)
    scene = with_look(_scene(given, how.view, size), how.drawings, how.grid, shading)
    given.progress(0.2)
    with offscreen(size) as (renderer, target):
        return drawn(renderer, target, scene, how.clear)


def _scene(given: Given, view: str, size: tuple[int, int]) -> PaneScene:
    if view in (v.value for v in View):
        pyramids = given.pyramids or pyramids_of(given.doc)
        palette = given.palette or DAY
        return scene_of(given.doc, View(view), size, pyramids, palette=palette)
    scene = given.scenes.get(view)
    if scene is None:
        raise HandOffError(f"There is no {view} to take a picture of; choose another.")
    return replace(scene, camera=of_size(scene.camera, size))


def write(given: Given, how: PictureOptions) -> dict[str, bytes]:
    """See ``Way.write``. Raises HandOffError, NoOpenGL, TooLarge."""
    out = io.BytesIO()
    taken(given, how).save(out, "PNG")
    return {f"{given.stem}.png": out.getvalue()}


WAY = Way(
    "picture",
    "Picture",
    "Picture…",
    "A pane, a view or a kept look as a picture of any size",
    50,
    PictureOptions,
    lambda how: ".png",
    write,
    copies=True,
)
