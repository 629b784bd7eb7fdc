"""A turntable: the meshes turned once round, as an animation or a row of pictures."""

from __future__ import annotations

import io
from collections.abc import Iterator
from dataclasses import dataclass, replace

from PIL import Image

from dimetron.geometry.camera import OrbitCamera
from dimetron.handoff.way import Given, HandOffError, Way
from dimetron.handoff.ways.picture import SHADINGS
from dimetron.mesh.parameters import angle, choice, count, number, only, switch
from dimetron.render.headless import offscreen, pyramids_of
from dimetron.render.palette import DAY
from dimetron.render.picturing import drawn, extent_of, turned_about, with_look
from dimetron.render.scene import PaneScene, Shading, pane_scene

_LARGEST, _MOST = 4096, 720
#: How large WebP allows a side to be is far more; how well pictures are kept, of 100.
_QUALITY = 88


@dataclass(frozen=True)
class TurntableOptions:
    """How it turns."""

    kind: str = choice(
        "webp", (("webp", "WebP, animated"), ("png", "PNGs in a folder")), title="format"
    )
    width: int = count(800, low=16, high=_LARGEST, hint="In pixels")
    height: int = count(800, low=16, high=_LARGEST, hint="In pixels")
    frames: int = count(36, low=2, high=_MOST, title="pictures", hint="For once round")
    seconds: float = number(
        4.0, low=0.1, high=600.0, title="seconds", when=only("kind", "webp"), hint="For once round"
    )
    elevation: float = angle(20.0, low=-89.0, high=89.0, title="from above")
    shading: str = choice("own", SHADINGS, title="meshes")
    drawings: bool = switch(False, title="drawings")
    clear: bool = switch(False, title="clear ground", hint="Nothing where nothing is")


def turned(given: Given, how: TurntableOptions) -> Iterator[Image.Image]:
    """The pictures, one after the other, the object turning to the right as seen from above.
    Raises HandOffError, NoOpenGL, TooLarge, and what ``progress`` raises."""
    size = how.width, how.height
    scene = _scene(given, how, size)
    with offscreen(size) as (renderer, target):
        for at in range(how.frames):
            given.progress(at / how.frames)
            camera = scene.camera
            assert isinstance(camera, OrbitCamera)
            by = replace(camera, azimuth_deg=camera.azimuth_deg + 360 * at / how.frames)
            yield drawn(renderer, target, replace(scene, camera=by), how.clear)


def _scene(given: Given, how: TurntableOptions, size: tuple[int, int]) -> PaneScene:
    own = given.scenes.get("space")
    if own is None:
        pyramids = pyramids_of(given.doc) if how.drawings else {}
        own = pane_scene(
            given.doc, OrbitCamera(), Shading.LINED, pyramids, palette=given.palette or DAY
        )
    shading = None if how.shading == "own" else Shading(how.shading)
    shown = with_look(own, how.drawings, False, shading)
    box = extent_of(shown)
    if box is None:
        raise HandOffError("There is nothing to turn; show a mesh first.")
    camera = own.camera if isinstance(own.camera, OrbitCamera) else OrbitCamera()
    camera = turned_about(replace(camera, elevation_deg=how.elevation), box, size)
    return replace(shown, camera=camera)


def write(given: Given, how: TurntableOptions) -> dict[str, bytes]:
    """See ``Way.write``. Raises what ``turned`` raises."""
    if how.kind == "webp":
        first, *rest = turned(given, how)
        out = io.BytesIO()
        each = max(1, round(1000 * how.seconds / how.frames))
        first.save(
            out, "WEBP", save_all=True, append_images=rest, duration=each, loop=0, quality=_QUALITY
        )
        return {f"{given.stem}.webp": out.getvalue()}
    files = {}
    for number_, picture in enumerate(turned(given, how), 1):
        out = io.BytesIO()
        picture.save(out, "PNG", compress_level=4)
        files[f"turn-{number_:03}.png"] = out.getvalue()
    return files


WAY = Way(
    "turntable",
    "Turntable",
    "Turntable…",
    "The meshes turned once round, as an animation or pictures",
    60,
    TurntableOptions,
    lambda how: ".webp" if how.kind == "webp" else "",
    write,
)
