"""A sheet of pen strokes, fills and lettering in pane pixels, drawn in two calls."""

from __future__ import annotations

import moderngl
import numpy as np
from numpy.typing import ArrayLike, NDArray

from dimetron.mesh.arrays import Floats
from dimetron.render import shaders
from dimetron.render.lettering import Lettering
from dimetron.render.palette import Colour

#: Beyond this the pane's edge is far away; it keeps float32 exact at any zoom.
_FAR = 30000.0
#: Ordinary covering; the framebuffer itself stays opaque, as windows are put together by alpha.
OVER = (moderngl.SRC_ALPHA, moderngl.ONE_MINUS_SRC_ALPHA, moderngl.ZERO, moderngl.ONE)
#: What is there times what is drawn.
TIMES = (moderngl.DST_COLOR, moderngl.ZERO, moderngl.ZERO, moderngl.ONE)
_TWO_TRIANGLES = [0, 1, 2, 2, 1, 3]


class Sheet:
    """Collects strokes and words, then ``Pen.draw`` puts them down. Sizes in logical pixels."""

    def __init__(self, size: tuple[float, float], ratio: float = 1.0) -> None:
        self.size = size
        self.ratio = ratio
        self.strokes: list[Floats] = []
        self.words: list[tuple[str, tuple[float, float], Colour, int, str]] = []
        #: What was made of them when they were drawn first: with how many strokes, or at which
        #: state of the lettering.
        self.inked: tuple[int, NDArray[np.float32]] | None = None
        self.lettered: tuple[object, NDArray[np.float32]] | None = None

    def lines(
        self, segments: ArrayLike, colour: Colour, width: float = 1.0, dash: float = 0.0
    ) -> None:
        """Straight strokes (n, 2, 2); those with NaN are left out."""
        ends = np.asarray(segments, dtype=np.float64).reshape(-1, 2, 2)
        ends = ends[np.isfinite(ends).all(axis=(1, 2))]
        ends = _clipped(ends, self.size)
        ends = ends[np.hypot(*(ends[:, 1] - ends[:, 0]).T) > 1e-6]
        if not len(ends):
            return
        way = ends[:, 1] - ends[:, 0]
        length = np.hypot(*way.T)
        along = way / length[:, None]
        side = np.stack([-along[:, 1], along[:, 0]], axis=1)
        half = width / 2
        reach = half + 1
        quads = np.empty((len(ends), 4, 10))
        for corner, (end, sign) in enumerate(((0, 1), (1, 1), (0, -1), (1, -1))):
            quads[:, corner, :2] = ends[:, end] + sign * reach * side
            quads[:, corner, 6] = sign * reach * self.ratio
            quads[:, corner, 8] = 0.0 if end == 0 else length
        quads[..., 2:6] = colour
        quads[..., 7] = half * self.ratio
        quads[..., 9] = dash
        self.strokes.append(quads[:, _TWO_TRIANGLES].reshape(-1, 10))

    def path(self, points: Floats, colour: Colour, width: float = 1.0, dash: float = 0.0) -> None:
        """A polyline through pixels (n, 2)."""
        self.lines(np.stack([points[:-1], points[1:]], axis=1), colour, width, dash)

    def box(self, low: ArrayLike, high: ArrayLike, colour: Colour) -> None:
        """A filled box."""
        (x0, y0), (x1, y1) = np.asarray(low, float), np.asarray(high, float)
        corners = np.array([[x0, y0], [x1, y0], [x0, y1], [x1, y1]])
        self._fill(corners[_TWO_TRIANGLES], colour)

    def triangles(self, points: Floats, colour: Colour) -> None:
        """Filled triangles (n, 3, 2)."""
        self._fill(points.reshape(-1, 2), colour)

    def _fill(self, corners: Floats, colour: Colour) -> None:
        rows = np.zeros((len(corners), 10))
        rows[:, :2] = corners
        rows[:, 2:6] = colour
        rows[:, 7] = 1.0
        self.strokes.append(rows)

    def text(
        self,
        words: str,
        at: tuple[float, float],
        colour: Colour,
        size: int = 12,
        face: str = "Medium",
    ) -> None:
        """``at`` is the left end of the base line."""
        self.words.append((words, at, colour, size, face))


def _clipped(ends: Floats, size: tuple[float, float]) -> Floats:
    """Shorten very long segments to a wide box about the pane (Liang and Barsky, 1984)."""
    if not len(ends) or float(np.abs(ends).max()) < _FAR:
        return ends
    start, way = ends[:, 0], ends[:, 1] - ends[:, 0]
    low, high = np.array([-2000.0, -2000.0]), np.array(size) + 2000.0
    # A way of next to nothing goes over to infinity, which is what is meant.
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        a, b = (low - start) / way, (high - start) / way
    outside = (way == 0) & ((start < low) | (start > high))
    a, b = np.where(way == 0, -np.inf, a), np.where(way == 0, np.inf, b)
    first = np.maximum(np.minimum(a, b).max(axis=1), 0.0)
    last = np.minimum(np.maximum(a, b).min(axis=1), 1.0)
    keep = (first < last) & ~outside.any(axis=1)
    start, way, first, last = start[keep], way[keep], first[keep, None], last[keep, None]
    return np.stack([start + way * first, start + way * last], axis=1)


class Pen:
    """Draws sheets with its two programs."""

    def __init__(self, ctx: moderngl.Context) -> None:
        self._ctx = ctx
        self.lettering = Lettering(ctx)
        self._ink = ctx.program(shaders.INK_VERTEX, shaders.INK_FRAGMENT)
        self._type = ctx.program(shaders.TEXT_VERTEX, shaders.TEXT_FRAGMENT)
        self._ink_buffer = ctx.buffer(reserve=1 << 16, dynamic=True)
        self._type_buffer = ctx.buffer(reserve=1 << 16, dynamic=True)
        self._ink_array = ctx.vertex_array(
            self._ink, [(self._ink_buffer, "2f 4f 4f", "in_at", "in_colour", "in_pen")]
        )
        self._type_array = ctx.vertex_array(
            self._type, [(self._type_buffer, "2f 2f 4f", "in_at", "in_uv", "in_colour")]
        )

    def width(self, words: str, size: int, ratio: float, face: str = "Medium") -> float:
        """How wide words are, in pixels."""
        return self.lettering.width(words, round(size * ratio), face) / ratio

    def draw(self, sheet: Sheet) -> None:
        """Into the bound framebuffer and viewport, which shows ``sheet.size``."""
        ctx = self._ctx
        ctx.enable_only(moderngl.BLEND)
        ctx.blend_func = OVER
        if sheet.strokes:
            count = len(sheet.strokes)
            if sheet.inked is None or sheet.inked[0] != count:
                sheet.inked = count, np.concatenate(sheet.strokes).astype(np.float32)
            rows = sheet.inked[1]
            _put(self._ink_buffer, rows)
            self._ink["u_size"].value = sheet.size
            self._ink_array.render(moderngl.TRIANGLES, vertices=len(rows))
        if sheet.words:
            self._letter(sheet)

    def _letter(self, sheet: Sheet) -> None:
        state = len(sheet.words), self, self.lettering.begun
        if sheet.lettered is None or sheet.lettered[0] != state:
            made = self._words(sheet)
            # Their glyphs may have filled the texture, which then began again.
            sheet.lettered = (len(sheet.words), self, self.lettering.begun), made
        table = sheet.lettered[1]
        if not len(table):
            return
        _put(self._type_buffer, table)
        self.lettering.texture.use(0)
        self._type["u_size"].value = sheet.size
        self._type_array.render(moderngl.TRIANGLES, vertices=len(table))

    def _words(self, sheet: Sheet) -> NDArray[np.float32]:
        rows = []
        for words, (x, y), colour, size, face in sheet.words:
            ratio = sheet.ratio
            boxes, sources = self.lettering.quads(
                words, (x * ratio, y * ratio), round(size * ratio), face
            )
            block = np.empty((len(boxes), 4, 8))
            block[..., :2] = boxes / ratio
            block[..., 2:4] = sources
            block[..., 4:] = colour
            rows.append(block[:, _TWO_TRIANGLES].reshape(-1, 8))
        return np.concatenate(rows).astype(np.float32)


def _put(buffer: moderngl.Buffer, rows: np.ndarray) -> None:
    if rows.nbytes > buffer.size:
        buffer.orphan(max(rows.nbytes, 2 * buffer.size))
    else:
        buffer.orphan()
    buffer.write(rows)
