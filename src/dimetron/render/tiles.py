"""Pictures of any size as tiles of their pyramid: only what is seen, at the level it is seen at.

Tiles are uploaded a few per frame; until one is there, the part of a coarser tile that covers it
stands in. Tiles that were not used for longest are dropped beyond a memory budget.
"""

from __future__ import annotations

import math
from collections import OrderedDict
from collections.abc import Iterable, Iterator, Sequence
from typing import TYPE_CHECKING, NamedTuple

import moderngl
import numpy as np

from dimetron.mesh.arrays import Floats
from dimetron.render import shaders

if TYPE_CHECKING:
    from dimetron.imaging.pyramid import Pyramid
    from dimetron.imaging.read import Pixels

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

#: The colour of lines that are light on dark, where they lie over a mesh.
_INK = (34, 49, 59)
#: Grounds so light, of 1, may lie over a mesh.
_LIGHT = 0.8
#: Box of a texture that is shown as a whole.
_WHOLE = (0.0, 0.0, 1.0, 1.0)

TileKey = tuple[int, int, int, int]
#: In clip space: x, y, z, w.
Point = list[float]


class _Tile(NamedTuple):
    texture: moderngl.Texture
    pyramid: Pyramid
    bytes: int


class TileStore:
    """The textures of the tiles that are seen, within a budget."""

    def __init__(self, ctx: moderngl.Context) -> None:
        self._ctx = ctx
        self._program = ctx.program(shaders.TILE_VERTEX, shaders.TILE_FRAGMENT)
        self._plain = ctx.program(shaders.TILE_VERTEX, shaders.PLAIN_TILE_FRAGMENT)
        self._flat = ctx.program(shaders.TILE_VERTEX, shaders.FLAT_FRAGMENT)
        self._quads = {p: ctx.vertex_array(p, []) for p in (self._program, self._plain)}
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
        """What the tiles take."""
        return self._bytes

    def at_once(self) -> None:
        """Upload whatever is needed in one frame: nobody watches."""
        self._unhurried = True

    def begin_frame(self) -> None:
        """What may be uploaded in a frame begins anew."""
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

    def fill(self, ends: Sequence[Point], colour: tuple[float, ...]) -> None:
        """A plain parallelogram; ends: its corners in clip space, as ``clip_space`` gives them."""
        origin, right, _, low = ends
        self._flat["u_colour"].value = colour
        across, down = _minus(right, origin), _minus(low, origin)
        self._flat["u_quad"].value = (*origin, *across, *down, *_WHOLE)
        self._flat_quad.render(moderngl.TRIANGLE_STRIP, vertices=4)

    def draw(
        self,
        pyramid: Pyramid,
        ends: Sequence[Point],
        size: tuple[float, float],
        opacity: float,
        over: float = 0.0,
        tint: tuple[int, int, int] | None = None,
        alone: bool = False,
    ) -> None:
        """Draw a picture into a pane of ``size`` device pixels; ends: its corners in clip space, as
        ``clip_space`` gives them. ``alone``: without its ground; lines are of the tint then."""
        # Plain numbers: for a few of them they are many times quicker than arrays.
        origin, right, _, low = ends
        across, down = _minus(right, origin), _minus(low, origin)
        level = _level(pyramid, (origin, right, low), size)
        w, h = pyramid.size_px
        medium = pyramid.medium
        covered = _is_covered(pyramid)
        plain = tint is None and not over and not alone and not covered
        program = self._plain if plain else self._program
        program["u_opacity"].value = opacity
        if program is self._program:
            areas = medium.kind.areas
            if tint is None and over and medium.light:
                # A dark ground would blacken the mesh; of light lines only the ink is put on it.
                tint = _INK
            # A light ground leaves a mesh as it is; a darker one would darken it.
            without = alone or (areas and over > 0 and medium.ground < _LIGHT)
            ink = (0.0, 0.0, 0.0, 0.0) if tint is None else (*(c / 255 for c in tint), 1.0)
            program["u_over"].value, program["u_tint"].value = over, ink
            program["u_medium"].value, program["u_ground"].value = medium.mixing, medium.ground
            program["u_cover"].value = float(areas), float(without)
        for tx, ty, box in _tiles_in_sight(pyramid, level, origin, across, down):
            x0, y0, x1, y1 = box
            if (x1 - x0, y1 - y0) == (w, h):
                o, a, d = origin, across, down
            else:
                o = _along(_along(origin, across, x0 / w), down, y0 / h)
                a = [v * ((x1 - x0) / w) for v in across]
                d = [v * ((y1 - y0) / h) for v in down]
            if _out_of_sight(o, a, d):
                continue
            key, texture = self._best(pyramid, level, tx, ty)
            program["u_quad"].value = (*o, *a, *d, *_texture_box(key, texture, *box))
            texture.use(0)
            self._quads[program].render(moderngl.TRIANGLE_STRIP, vertices=4)

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
        if _is_covered(pyramid):
            cut = _with_cover(pyramid, cut, (left, top), (w, h))
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


def _is_covered(pyramid: Pyramid) -> bool:
    """Whether textures are to hold how far areas cover them: a picture with clear parts has it."""
    return pyramid.medium.kind.areas and pyramid.levels[0].mode != "RGBA"


def _with_cover(
    pyramid: Pyramid, cut: Pixels, corner: tuple[int, int], size: tuple[int, int]
) -> Pixels:
    """(h, w, 4) colours of a part of a level, and how far areas cover them."""
    # Only pictures in areas need it, so that the window is up before it is read.
    from PIL import Image

    from dimetron.imaging.medium import shares

    colours = np.repeat(cut, 3, axis=2) if cut.shape[2] == 1 else cut
    cover = pyramid.medium.cover(Image.fromarray(colours), shares(corner, size))
    alpha = np.rint(cover * 255).astype(np.uint8)[..., None]
    return np.ascontiguousarray(np.concatenate([colours, alpha], axis=2))


def clip_space(corners: Floats, clip: Floats) -> list[list[Point]]:
    """Of n quads with world corners (n, 4, 3) their corners in clip space; ``clip`` (4, 4) maps
    there."""
    ends: list[list[Point]] = (corners @ clip[:, :3].T + clip[:, 3]).tolist()
    return ends


def _tiles_in_sight(
    pyramid: Pyramid, level: int, origin: Point, across: Point, down: Point
) -> Iterator[tuple[int, int, tuple[int, int, int, int]]]:
    """Column and row of the tiles that may be seen, with their box of full-size pixels."""
    w, h = pyramid.size_px
    step = TILE << level
    if w <= step and h <= step:
        yield 0, 0, (0, 0, w, h)
        return
    u0, u1, v0, v1 = _seen_part(origin, across, down)
    for ty in range(int(v0 * h // step), math.ceil(v1 * h / step)):
        for tx in range(int(u0 * w // step), math.ceil(u1 * w / step)):
            x0, y0 = tx * step, ty * step
            yield tx, ty, (x0, y0, min(w, x0 + step), min(h, y0 + step))


def _minus(a: Point, b: Point) -> Point:
    return [x - y for x, y in zip(a, b, strict=True)]


def _along(at: Point, way: Point, share: float) -> Point:
    return [x + y * share for x, y in zip(at, way, strict=True)]


def _level(pyramid: Pyramid, ends: tuple[Point, Point, Point], size: tuple[float, float]) -> int:
    """The level whose texels are between half a pixel and a pixel large. ends: top-left, top-right
    and bottom-left in clip space."""
    px = [
        (x / max(abs(w), 1e-9) * size[0] / 2, y / max(abs(w), 1e-9) * size[1] / 2)
        for x, y, _, w in ends
    ]
    across = math.dist(px[1], px[0]) / pyramid.size_px[0]
    down = math.dist(px[2], px[0]) / pyramid.size_px[1]
    shown = max(across, down, 1e-12)
    return min(max(math.floor(-math.log2(shown)), 0), len(pyramid.levels) - 1)


def _seen_part(o: Point, across: Point, down: Point) -> tuple[float, float, float, float]:
    """Bounds u0, u1, v0, v1 in 0..1 of the part within the pane; all of it in perspective."""
    w = o[3]
    (ax, ay), (dx, dy) = (across[0] / w, across[1] / w), (down[0] / w, down[1] / w)
    det = ax * dy - ay * dx
    if across[3] or down[3] or abs(det) < 1e-18:
        return 0.0, 1.0, 0.0, 1.0
    us, vs = [], []
    for x, y in ((-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)):
        x, y = x - o[0] / w, y - o[1] / w
        us.append(min(1.0, max(0.0, (x * dy - y * dx) / det)))
        vs.append(min(1.0, max(0.0, (y * ax - x * ay) / det)))
    return min(us), max(us), min(vs), max(vs)


def _out_of_sight(o: Point, a: Point, d: Point) -> bool:
    """Whether all corners lie beyond one edge of the pane: what is linear is least and largest at
    a corner."""
    for axis in (0, 1):
        beyond, across, down = o[axis] - o[3], a[axis] - a[3], d[axis] - d[3]
        if beyond + min(across, 0.0) + min(down, 0.0) > 0:
            return True
        before, across, down = o[axis] + o[3], a[axis] + a[3], d[axis] + d[3]
        if before + max(across, 0.0) + max(down, 0.0) < 0:
            return True
    return False


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
