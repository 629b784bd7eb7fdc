"""Pictures of any size as tiles of their pyramid: only what is seen, at the level it is seen at.

Tiles are uploaded a few per frame; until one is there, the part of a coarser tile that covers it
stands in. Tiles that were not used for longest are dropped beyond a memory budget.
"""

from __future__ import annotations

import math
from collections import OrderedDict
from collections.abc import Iterable
from typing import TYPE_CHECKING, NamedTuple

import moderngl
import numpy as np

from dimetron.mesh.mesh import Floats
from dimetron.render import shaders

if TYPE_CHECKING:
    from dimetron.imaging.pyramid import Pyramid

TILE = 512
#: Pixels of the neighbours around each tile, so that smoothing finds them across the seam.
GUTTER = 2
BUDGET_BYTES = 384 << 20
#: Memory held against the bytes in use, and what is always held.
SPARE, LEAST_BYTES = 1.45, 8 << 20
#: A texture with its first halved copy, against one without.
_HALVED = 1.25
#: Uploaded in one frame at most, so that a frame stays short.
UPLOAD_BYTES = 6 << 20

TileKey = tuple[int, int, int, int]


class _Tile(NamedTuple):
    texture: moderngl.Texture
    pyramid: Pyramid
    bytes: int


class TileStore:
    def __init__(self, ctx: moderngl.Context) -> None:
        self._ctx = ctx
        self._program = ctx.program(shaders.TILE_VERTEX, shaders.TILE_FRAGMENT)
        self._flat = ctx.program(shaders.TILE_VERTEX, shaders.FLAT_FRAGMENT)
        self._quad = ctx.vertex_array(self._program, [])
        self._flat_quad = ctx.vertex_array(self._flat, [])
        self._tiles: OrderedDict[TileKey, _Tile] = OrderedDict()
        self._bytes = 0
        self._unhurried = False
        self._room: float = UPLOAD_BYTES
        self.waiting = False
        #: What was drawn since the frame began.
        self.used: set[TileKey] = set()

    @property
    def texture_bytes(self) -> int:
        return self._bytes

    def at_once(self) -> None:
        """Upload whatever is needed in one frame: nobody watches."""
        self._unhurried = True

    def begin_frame(self) -> None:
        self._room = math.inf if self._unhurried else UPLOAD_BYTES
        self.waiting = False
        self.used = set()

    def bytes_of(self, keys: Iterable[TileKey]) -> int:
        """Bytes of tiles without their halved copies."""
        tiles = (self._tiles.get(key) for key in keys)
        return sum(int(tile.bytes / _HALVED) for tile in tiles if tile is not None)

    def trim(self, used: set[TileKey]) -> None:
        """Drop the tiles that have not been used for longest, until what is held is little more
        than what is in use."""
        most = max(self.bytes_of(used) * SPARE, LEAST_BYTES)
        for key in list(self._tiles):
            if self._bytes <= most:
                break
            if key not in used:
                self._release(key)

    def _release(self, key: TileKey) -> None:
        tile = self._tiles.pop(key)
        tile.texture.release()
        self._bytes -= tile.bytes

    def fill(self, corners: Floats, clip: Floats, colour: tuple[float, ...]) -> None:
        """A plain parallelogram with world corners (4, 3); ``clip`` maps world to clip space."""
        ends = _clip_space(corners, clip)
        self._flat["u_colour"].value = colour
        self._place(self._flat, ends[0], ends[1] - ends[0], ends[3] - ends[0])
        self._flat_quad.render(moderngl.TRIANGLE_STRIP, vertices=4)

    def draw(
        self,
        pyramid: Pyramid,
        corners: Floats,
        clip: Floats,
        size: tuple[float, float],
        fade: float,
        over: float = 0.0,
        tint: tuple[int, int, int] | None = None,
    ) -> None:
        """Draw a picture on world corners (4, 3) into a pane of ``size`` device pixels."""
        ends = _clip_space(corners, clip)
        origin, across, down = ends[0], ends[1] - ends[0], ends[3] - ends[0]
        level = _level(pyramid, ends, size)
        w, h = pyramid.size_px
        self._program["u_fade"].value = fade
        self._program["u_over"].value = over
        ink = (0.0, 0.0, 0.0, 0.0) if tint is None else (*(c / 255 for c in tint), 1.0)
        self._program["u_tint"].value = ink
        step = TILE << level
        u0, u1, v0, v1 = _seen_part(origin, across, down)
        for ty in range(int(v0 * h // step), math.ceil(v1 * h / step)):
            for tx in range(int(u0 * w // step), math.ceil(u1 * w / step)):
                x0, y0 = tx * step, ty * step
                x1, y1 = min(w, x0 + step), min(h, y0 + step)
                o = origin + across * (x0 / w) + down * (y0 / h)
                a, d = across * ((x1 - x0) / w), down * ((y1 - y0) / h)
                if _out_of_sight(o, a, d):
                    continue
                key, texture = self._best(pyramid, level, tx, ty)
                self._program["u_texture"].value = _texture_box(key, texture, x0, y0, x1, y1)
                self._place(self._program, o, a, d)
                texture.use(0)
                self._quad.render(moderngl.TRIANGLE_STRIP, vertices=4)

    def _place(
        self, program: moderngl.Program, origin: Floats, across: Floats, down: Floats
    ) -> None:
        program["u_origin"].value = tuple(origin)
        program["u_across"].value = tuple(across)
        program["u_down"].value = tuple(down)

    def _best(
        self, pyramid: Pyramid, level: int, tx: int, ty: int
    ) -> tuple[TileKey, moderngl.Texture]:
        """The wanted tile, or the finest coarser one that is there or can be uploaded now."""
        coarsest = len(pyramid.levels) - 1
        for k in range(level, coarsest + 1):
            key = (id(pyramid), k, tx >> (k - level), ty >> (k - level))
            tile = self._tiles.get(key)
            if tile is None and (self._room > 0 or k == coarsest):
                tile = self._upload(pyramid, key)
            if tile is not None:
                self._tiles.move_to_end(key)
                self.used.add(key)
                return key, tile.texture
            self.waiting = True
        raise AssertionError("the coarsest tile is always uploaded")

    def _upload(self, pyramid: Pyramid, key: TileKey) -> _Tile:
        _, level, tx, ty = key
        w, h = pyramid.levels[level].size
        left, top = tx * TILE - GUTTER, ty * TILE - GUTTER
        right, bottom = min((tx + 1) * TILE, w) + GUTTER, min((ty + 1) * TILE, h) + GUTTER
        cut = np.ascontiguousarray(pyramid.part(level, left, top, right, bottom))
        channels = cut.shape[2]
        texture = self._ctx.texture((cut.shape[1], cut.shape[0]), channels, cut, alignment=1)
        if channels == 1:
            texture.swizzle = "RRR1"
        texture.build_mipmaps(0, 1)
        texture.filter = (moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR)
        texture.repeat_x = texture.repeat_y = False
        size = int(cut.nbytes * _HALVED)
        tile = self._tiles[key] = _Tile(texture, pyramid, size)
        self._bytes += size
        self._room -= size
        self._drop_oldest()
        return tile

    def _drop_oldest(self) -> None:
        while self._bytes > BUDGET_BYTES and len(self._tiles) > 1:
            self._release(next(iter(self._tiles)))

    def keep_only(self, pyramids: list[Pyramid]) -> None:
        """Drop the tiles of pictures that are gone."""
        wanted = {id(p) for p in pyramids}
        for key in [k for k in self._tiles if k[0] not in wanted]:
            self._release(key)


def _clip_space(corners: Floats, clip: Floats) -> Floats:
    return np.concatenate([corners, np.ones((len(corners), 1))], axis=1) @ clip.T


def _level(pyramid: Pyramid, ends: Floats, size: tuple[float, float]) -> int:
    """The level whose texels are between half a pixel and a pixel large."""
    w = np.maximum(np.abs(ends[:, 3:4]), 1e-9)
    px = ends[:, :2] / w * np.array(size) / 2
    across = float(np.hypot(*(px[1] - px[0]))) / pyramid.size_px[0]
    down = float(np.hypot(*(px[3] - px[0]))) / pyramid.size_px[1]
    shown = max(across, down, 1e-12)
    return int(np.clip(math.floor(-math.log2(shown)), 0, len(pyramid.levels) - 1))


def _seen_part(o: Floats, across: Floats, down: Floats) -> tuple[float, float, float, float]:
    """Bounds u0, u1, v0, v1 in 0..1 of the part within the pane; all of it in perspective."""
    turn = np.stack([across[:2], down[:2]], axis=1) / o[3]
    if across[3] or down[3] or abs(np.linalg.det(turn)) < 1e-18:
        return 0.0, 1.0, 0.0, 1.0
    pane = np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]])
    uv = ((pane - o[:2] / o[3]) @ np.linalg.inv(turn).T).clip(0, 1)
    (u0, v0), (u1, v1) = uv.min(axis=0), uv.max(axis=0)
    return float(u0), float(u1), float(v0), float(v1)


def _out_of_sight(o: Floats, a: Floats, d: Floats) -> bool:
    corners = np.stack([o, o + a, o + d, o + a + d])
    w = corners[:, 3]
    return any(
        bool(np.all(corners[:, axis] > w) or np.all(corners[:, axis] < -w)) for axis in (0, 1)
    )


def _texture_box(
    key: TileKey, texture: moderngl.Texture, x0: float, y0: float, x1: float, y1: float
) -> tuple[float, float, float, float]:
    """Where full-size pixels x0..x1, y0..y1 lie in a tile's texture, 0..1."""
    _, level, tx, ty = key
    scale = 1 / (1 << level)
    left, top = tx * TILE - GUTTER, ty * TILE - GUTTER
    w, h = texture.size
    return (
        (x0 * scale - left) / w,
        (y0 * scale - top) / h,
        (x1 * scale - left) / w,
        (y1 * scale - top) / h,
    )
