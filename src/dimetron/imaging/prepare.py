"""The prepared picture: a frame's pixels taken from the sheet, toned; whole, or as it is seen."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
from PIL import Image

from dimetron.imaging.errors import check_size
from dimetron.imaging.figure.said import AS_FOUND, Figure
from dimetron.imaging.flat import Matrix, Points, between_centres, bulged, inverse, projected
from dimetron.imaging.frame import Frame
from dimetron.imaging.pyramid import Pyramid, build, read_as
from dimetron.imaging.read import Pixels
from dimetron.imaging.tone import Tone
from dimetron.imaging.toning import Plane, light_of, toned

#: Bytes a pixel while it is cut out and toned, in colours.
_NEEDED = 12
#: Rows made at a time, so that memory stays small and a worker can be stopped in between.
_BAND = 1024


def prepared(image: Image.Image, frame: Frame, tone: Tone) -> Image.Image:
    """The whole prepared picture, L, RGB or RGBA. An untouched one is ``image`` itself.

    Raises PictureError if there is not the memory for it."""
    if frame.untouched and tone.plain:
        return image
    check_size(frame.size_px, "The prepared picture", "resample it to less", _NEEDED)
    pixels = cut_out(image, frame)
    return image_of(toned(pixels, tone))


def pyramid_on(page: Pyramid, frame: Frame, tone: Tone, figure: Figure = AS_FOUND) -> Pyramid:
    """The prepared picture of a page at all resolutions; an untouched one is the page itself.
    ``figure``: what was said about what is drawn on the page. Raises PictureError."""
    picture = prepared(page.levels[0], frame, tone)
    page = read_as(page, figure)
    if picture is page.levels[0]:
        return page
    # What a page consists of its parts do, even one that shows little of its ground.
    seen = page.medium.seen(shares_of(page, frame), frame.size_px)
    if seen.kind.areas and (tone.plain or seen.cut is not None):
        return build(picture, seen)
    # Another tone may turn light to dark and change the inks; strokes stay where they are.
    light, inks = (figure.light, seen.inks) if tone.plain else (None, ())
    made = build(picture, figure=Figure(seen.kind, light))
    medium = replace(made.medium, inks=inks, paper=seen.paper, touches=seen.touches)
    return replace(made, medium=medium)


def shares_of(page: Pyramid, frame: Frame) -> Matrix:
    """(3, 3) from a frame's pixels to shares of the page; its bulge is too slight for a ground."""
    w, h = page.size_px
    return np.diag([1 / w, 1 / h, 1.0]) @ inverse(frame.matrix)


def cut_out(image: Image.Image, frame: Frame) -> Pixels:
    """(h, w, c) pixels of the frame; beyond the sheet its typical paper."""
    w, h = frame.size_px
    if frame.whole_pixels:
        left, top = (-round(v) for v in frame.matrix[:2, 2])
        if left >= 0 and top >= 0 and left + w <= image.width and top + h <= image.height:
            return pixels_of(image.crop((left, top, left + w, top + h)))
    source, to_source = _needed(image, 1.0, inverse(frame.matrix), (w, h), frame)
    out = np.empty((h, w, source.shape[2]), np.uint8)
    for row in range(0, h, _BAND):
        rows = min(_BAND, h - row)
        shift = np.array([[1, 0, 0], [0, 1, row], [0, 0, 1.0]])
        out[row : row + rows] = warped(source, to_source @ shift, (w, rows), frame)
    return out


def warped(
    source: Pixels, to_source: Matrix, size: tuple[int, int], frame: Frame, level_scale: float = 1.0
) -> Pixels:
    """(h, w, c) of ``size`` (w, h): each pixel from where ``to_source`` (3, 3) and the frame's
    bulge put it in the sheet. ``source`` may be a reduced level, of pixels ``level_scale`` wide."""
    border = paper_colour(source)
    if frame.bulge == 0:
        down = np.diag([1 / level_scale, 1 / level_scale, 1.0])
        matrix = between_centres(down @ to_source)
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        out = cv2.warpPerspective(
            source, matrix, size, flags=flags, borderMode=cv2.BORDER_CONSTANT, borderValue=border
        )
    else:
        x, y = np.meshgrid(np.arange(size[0]) + 0.5, np.arange(size[1]) + 0.5)
        flat = projected(to_source, np.stack([x, y], axis=-1))
        at = bulged(flat, frame.source_px, frame.bulge) / level_scale - 0.5
        out = cv2.remap(
            source,
            at[..., 0].astype(np.float32),
            at[..., 1].astype(np.float32),
            cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_CONSTANT,
            borderValue=border,
        )
    return np.asarray(out).reshape(size[1], size[0], source.shape[2])


def paper_colour(source: Pixels) -> tuple[float, ...]:
    """The typical colour along a picture's edge; clear where it has clear parts."""
    if source.shape[2] == 4:
        return (255.0, 255.0, 255.0, 0.0)
    step = max(1, max(source.shape) // 400)
    rim = np.concatenate(
        [source[0, ::step], source[-1, ::step], source[::step, 0], source[::step, -1]]
    )
    return tuple(float(v) for v in np.median(rim, axis=0))


def preview(
    pyramid: Pyramid,
    frame: Frame,
    tone: Tone,
    corner: tuple[float, float],
    px_per_px: float,
    size: tuple[int, int],
    light: Plane | None = None,
) -> Pixels:
    """What is seen of a prepared picture at view resolution: (h, w, c) of ``size`` (w, h).

    corner: the prepared pixel at the view's top-left; px_per_px: view pixels for each of them;
    light: see ``sheet_light``. The nearest finer level is read, so the cost follows the view.
    """
    level = level_for(pyramid, px_per_px)
    shrunk = pyramid.size_px[0] / pyramid.levels[level].size[0]
    view = np.array([[1 / px_per_px, 0, corner[0]], [0, 1 / px_per_px, corner[1]], [0, 0, 1.0]])
    to_source = inverse(frame.matrix) @ view
    source, to_source = _needed(pyramid.levels[level], shrunk, to_source, size, frame)
    pixels = warped(source, to_source, size, frame, shrunk)
    seen_light = None
    if light is not None and tone.even:
        down = np.diag([light.shape[1] / frame.size_px[0], light.shape[0] / frame.size_px[1], 1.0])
        grid = cv2.warpAffine(
            light,
            (down @ view)[:2],
            size,
            flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_REPLICATE,
        )
        seen_light = np.asarray(grid, np.float32).reshape(size[1], size[0], -1)
    return toned(pixels, tone, seen_light, 1 / px_per_px)


def level_for(pyramid: Pyramid, px_per_px: float) -> int:
    """The level that is fine enough where a pixel shows so large."""
    level = 0
    while level + 1 < len(pyramid.levels) and px_per_px * 2 ** (level + 1) <= 1.0:
        level += 1
    return level


def _needed(
    image: Image.Image,
    shrunk: float,
    to_source: Matrix,
    size: tuple[int, int],
    frame: Frame,
) -> tuple[Pixels, Matrix]:
    """Only the part of a level that is needed, and the map into it."""
    if frame.bulge != 0:
        return pixels_of(image), to_source
    w, h = size
    corners: Points = projected(to_source, np.array([[0, 0], [w, 0], [w, h], [0, h]])) / shrunk
    if not np.isfinite(corners).all():
        return pixels_of(image), to_source
    low = np.clip(np.floor(corners.min(axis=0)) - 2, 0, None).astype(int)
    high = np.minimum(np.ceil(corners.max(axis=0)) + 2, image.size).astype(int)
    if (high - low).min() < 2:
        low, high = np.zeros(2, int), np.array(image.size)
    part = pixels_of(image.crop((int(low[0]), int(low[1]), int(high[0]), int(high[1]))))
    shift = np.array([[1, 0, -low[0] * shrunk], [0, 1, -low[1] * shrunk], [0, 0, 1.0]])
    return part, shift @ to_source


def sheet_light(pyramid: Pyramid, frame: Frame, side_px: int = 240) -> Plane:
    """The light on a prepared sheet at a small size (h, w, c), for ``preview``."""
    w, h = frame.size_px
    scale = min(1.0, side_px / max(w, h))
    size = max(1, round(w * scale)), max(1, round(h * scale))
    small = preview(pyramid, frame, Tone(), (0.0, 0.0), scale, size)
    return light_of(small[..., :3] if small.shape[2] >= 3 else small)


def pixels_of(image: Image.Image) -> Pixels:
    """(h, w, c) pixels of an L, RGB or RGBA image."""
    pixels = np.asarray(image)
    return pixels[..., None] if pixels.ndim == 2 else pixels


def image_of(pixels: Pixels) -> Image.Image:
    """An L, RGB or RGBA image of (h, w, c) pixels."""
    return Image.fromarray(pixels[..., 0] if pixels.shape[2] == 1 else np.ascontiguousarray(pixels))
