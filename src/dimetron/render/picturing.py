"""Scenes as pictures to keep: of any size, on their ground or on none."""

from __future__ import annotations

import math
from dataclasses import replace

import moderngl
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from dimetron.geometry.camera import Camera, OrbitCamera, clamped_zoom
from dimetron.mesh.arrays import Floats
from dimetron.render.headless import read_picture
from dimetron.render.palette import colour
from dimetron.render.renderer import Renderer
from dimetron.render.scene import PaneScene, Shading

_BLACK, _WHITE = colour("#000000"), colour("#FFFFFF")
#: Room round what is turned, as a share of the picture.
_ROOM = 0.06
#: How much larger the near side looks in perspective, at most.
_NEARER = 1.35
#: Rows of a picture that are reckoned with at a time.
_ROWS = 256


def of_size(camera: Camera, size: tuple[int, int]) -> Camera:
    """The camera for a picture of another size that shows all it showed."""
    scale = max(camera.size[0] / size[0], camera.size[1] / size[1])
    wanted = clamped_zoom(camera.mm_per_px * scale)
    return replace(camera, size=(float(size[0]), float(size[1])), mm_per_px=wanted)


def with_look(
    scene: PaneScene, drawings: bool, grid: bool, shading: Shading | None = None
) -> PaneScene:
    """The scene with or without its drawings and its grid, nothing of it chosen."""
    planes = tuple(replace(p, chosen=False) for p in scene.planes) if drawings else ()
    meshes = tuple(replace(m, chosen=False, selected=m.selected[:0]) for m in scene.meshes)
    lined = tuple(replace(line, chosen=False) for line in scene.lined)
    return replace(
        scene,
        planes=planes,
        meshes=meshes,
        lined=lined,
        grid=grid,
        shading=shading or scene.shading,
        pixel_ratio=1.0,
    )


def drawn(
    renderer: Renderer, target: moderngl.Framebuffer, scene: PaneScene, clear: bool
) -> Image.Image:
    """The scene as a picture: RGB on its ground, or RGBA on none. Drawn into ``target``."""
    renderer.tiles.at_once()
    if not clear:
        renderer.draw(scene)
        return read_picture(target)
    # What looks the same on black and on white is there; where they differ the ground is seen.
    grounds = []
    for ground in (_BLACK, _WHITE):
        palette = replace(scene.palette, pane=ground, pane_deep=ground)
        renderer.draw(replace(scene, palette=palette))
        grounds.append(np.asarray(read_picture(target)))
    return _without_ground(*grounds)


def _without_ground(on_black: NDArray[np.uint8], on_white: NDArray[np.uint8]) -> Image.Image:
    """(h, w, 3) on either ground."""
    found = np.empty((*on_black.shape[:2], 4), np.uint8)
    # A large picture is not held as larger numbers as a whole.
    for at in range(0, len(found), _ROWS):
        rows = slice(at, at + _ROWS)
        dark, light = on_black[rows].astype(np.float32), on_white[rows].astype(np.float32)
        alpha = np.clip(255 - (light - dark).mean(axis=2, keepdims=True), 0, 255)
        colours = np.clip(dark * 255 / np.maximum(alpha, 1), 0, 255)
        found[rows] = np.rint(np.concatenate([colours, alpha], axis=2)).astype(np.uint8)
    return Image.fromarray(found, "RGBA")


def turned_about(camera: OrbitCamera, box: Floats, size: tuple[int, int]) -> OrbitCamera:
    """The camera so that a world box (2, 3) fills the picture and stays in it, once it is turned
    all round."""
    wide, deep, high = (float(side) for side in box[1] - box[0])
    across, tilt = math.hypot(wide, deep), math.radians(camera.elevation_deg)
    tall = across * abs(math.sin(tilt)) + high * math.cos(tilt)
    room = 1 - 2 * _ROOM
    if camera.perspective:
        # What comes near looks larger.
        room /= _NEARER
    scale = clamped_zoom(max(across / (size[0] * room), tall / (size[1] * room), 1e-5))
    x, y, z = (float(v) for v in box.mean(axis=0))
    of = float(size[0]), float(size[1])
    return replace(camera, target=(x, y, z), mm_per_px=scale, size=of)


def extent_of(scene: PaneScene) -> Floats | None:
    """(2, 3) lowest and highest place of what a scene shows; None of nothing."""
    parts = [item.mesh.bounds for item in scene.faced] + [plane.corners for plane in scene.planes]
    if not parts:
        return None
    points = np.concatenate(parts)
    return np.stack([points.min(axis=0), points.max(axis=0)])
