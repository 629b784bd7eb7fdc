"""Lettering in the panes: glyphs of the shipped typeface in one texture."""

from __future__ import annotations

from functools import cache
from importlib.resources import as_file, files
from typing import NamedTuple

import moderngl
import numpy as np
from PIL import Image, ImageDraw, ImageFont

from dimetron.mesh.arrays import Floats

_SIDE = 1024
#: Words whose setting is kept.
_KEPT = 512
FACES = ("Regular", "Medium", "SemiBold")


def font_bytes(face: str) -> bytes:
    """The TrueType file of one face of the shipped family."""
    return files("dimetron.render").joinpath("fonts", f"BarlowTabular-{face}.ttf").read_bytes()


@cache
def font(face: str, size: int) -> ImageFont.FreeTypeFont:
    """One of our typefaces at a size in pixels."""
    with as_file(files("dimetron.render").joinpath("fonts", f"BarlowTabular-{face}.ttf")) as path:
        return ImageFont.truetype(str(path), size, layout_engine=ImageFont.Layout.BASIC)


class _Glyph(NamedTuple):
    """Texture box in pixels, offset from the pen, and advance."""

    x: int
    y: int
    w: int
    h: int
    left: float
    top: float
    advance: float


class Lettering:
    """Glyphs are rasterised when first used; the texture is filled shelf by shelf."""

    def __init__(self, ctx: moderngl.Context) -> None:
        self.texture = ctx.texture((_SIDE, _SIDE), 1, bytes(_SIDE * _SIDE))
        self.texture.filter = (moderngl.LINEAR, moderngl.LINEAR)
        self._glyphs: dict[tuple[str, str, int], _Glyph] = {}
        self._x = self._y = self._shelf = 0
        #: Words that were set, from the pen at zero.
        self._set: dict[tuple[str, int, str], tuple[Floats, Floats]] = {}
        #: How often the texture was begun; what was set before lies elsewhere now.
        self.begun = 0

    def width(self, text: str, size: int, face: str = "Medium") -> float:
        """How wide a text is, in pixels."""
        return sum(self._glyph(c, face, size).advance for c in text)

    def quads(
        self, text: str, at: tuple[float, float], size: int, face: str = "Medium"
    ) -> tuple[Floats, Floats]:
        """Pixel and texture corners, each (n, 4, 2); ``at`` is the pen on the base line.

        Corner order: top-left, top-right, bottom-left, bottom-right.
        """
        state = self.begun
        known = self._set.get((text, size, face))
        if known is None:
            known = self._set_in(text, size, face)
            if len(self._set) > _KEPT or self.begun != state:
                self._set.clear()
            self._set[text, size, face] = known
        # Whole pixels keep small lettering crisp.
        return known[0] + (float(round(at[0])), float(round(at[1]))), known[1]

    def _set_in(self, text: str, size: int, face: str) -> tuple[Floats, Floats]:
        pen = 0.0
        boxes, sources = [], []
        for character in text:
            g = self._glyph(character, face, size)
            if g.w:
                boxes.append((pen + g.left, g.top, g.w, g.h))
                sources.append((g.x, g.y, g.w, g.h))
            pen += g.advance
        if not boxes:
            return np.zeros((0, 4, 2)), np.zeros((0, 4, 2))
        return _corners(np.array(boxes)), _corners(np.array(sources, float)) / _SIDE

    def _glyph(self, character: str, face: str, size: int) -> _Glyph:
        key = (character, face, size)
        known = self._glyphs.get(key)
        if known is None:
            known = self._glyphs[key] = self._rasterised(character, font(face, size))
        return known

    def _rasterised(self, character: str, face: ImageFont.FreeTypeFont) -> _Glyph:
        left, top, right, bottom = (int(n) for n in face.getbbox(character, anchor="ls"))
        w, h = max(0, right - left), max(0, bottom - top)
        advance = float(round(face.getlength(character)))
        if not w or not h:
            return _Glyph(0, 0, 0, 0, 0, 0, advance)
        if self._x + w + 1 > _SIDE:
            self._x, self._y, self._shelf = 0, self._y + self._shelf + 1, 0
        if self._y + h + 1 > _SIDE:
            # Full: begin again; what is needed is rasterised anew.
            self._glyphs.clear()
            self._set.clear()
            self.begun += 1
            self._x = self._y = self._shelf = 0
        picture = Image.new("L", (w, h))
        ImageDraw.Draw(picture).text((-left, -top), character, 255, face, anchor="ls")
        glyph = _Glyph(self._x, self._y, w, h, left, top, advance)
        self.texture.write(picture.tobytes(), (self._x, self._y, w, h), alignment=1)
        self._x, self._shelf = self._x + w + 1, max(self._shelf, h)
        return glyph


def _corners(boxes: Floats) -> Floats:
    """(n, 4) boxes x, y, w, h to corners (n, 4, 2)."""
    found = np.empty((len(boxes), 4, 2))
    found[:] = boxes[:, None, :2]
    found[:, 1::2, 0] += boxes[:, None, 2]
    found[:, 2:, 1] += boxes[:, None, 3]
    return found
