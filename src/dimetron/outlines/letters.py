"""Typed text as outlines, in the letters of a font file, by fontTools."""

from __future__ import annotations

import io
import os
from functools import lru_cache
from pathlib import Path as File
from typing import Any

import numpy as np
from fontTools.pens.basePen import BasePen
from fontTools.ttLib import TTFont, TTLibError

from dimetron.outlines.path import OutlineError, Path, from_pieces

#: Where systems keep fonts.
_FOLDERS = ("/usr/share/fonts", "/usr/local/share/fonts", "~/.fonts", "~/.local/share/fonts")
_ENDINGS = (".ttf", ".otf")
#: Longer texts are no lettering.
MOST_LETTERS = 500


class _Pen(BasePen):  # type: ignore[misc]
    """Takes a letter's outlines down as rings of cubics; quadratics come as such."""

    def __init__(self, glyphs: Any) -> None:
        super().__init__(glyphs)
        self.rings: list[list[np.ndarray]] = []
        self._ring: list[np.ndarray] = []
        self._start = self._at = np.zeros(2)

    def _moveTo(self, pt: Any) -> None:
        self._start = self._at = np.array(pt, float)
        self._ring = []

    def _lineTo(self, pt: Any) -> None:
        self._curveToOne(self._at, pt, pt)

    def _curveToOne(self, pt1: Any, pt2: Any, pt3: Any) -> None:
        cubic = np.array([self._at, pt1, pt2, pt3], float)
        if np.abs(cubic - cubic[0]).max() > 1e-9:
            self._ring.append(cubic)
        self._at = cubic[3]

    def _closePath(self) -> None:
        self._lineTo(self._start)
        if self._ring:
            self.rings.append(self._ring)
        self._ring = []


@lru_cache(maxsize=1)
def fonts() -> dict[str, File]:
    """The fonts that are installed, by their files' names, and the one that is ours."""
    own = File(__file__).parent.parent / "render" / "fonts" / "BarlowTabular-Medium.ttf"
    found = {"Barlow": own}
    for folder in _FOLDERS:
        for place, _, names in os.walk(File(folder).expanduser()):
            for name in sorted(names):
                if name.lower().endswith(_ENDINGS):
                    found.setdefault(File(name).stem, File(place) / name)
    return found


def lettered(text: str, font: File, height: float) -> tuple[Path, ...]:
    """Closed outlines of text, its capital letters ``height`` tall, on the line y = 0 from x = 0
    on; holes are outlines of their own. Raises OutlineError for a letter that the font lacks, and
    for a file that is none."""
    if not height > 0:
        raise OutlineError("The letters' height must be more than nothing.")
    if not 0 < len(text.strip()) <= MOST_LETTERS:
        raise OutlineError(f"Type a text of 1 to {MOST_LETTERS} letters.")
    opened = _opened(str(font))
    glyphs, names = opened.getGlyphSet(), opened.getBestCmap() or {}
    scale = height / _capital(opened)
    paths: list[Path] = []
    at = 0.0
    for letter in text:
        name = names.get(ord(letter))
        if name is None:
            raise OutlineError(f"The font {font.stem} has no letter “{letter}”.")
        pen = _Pen(glyphs)
        glyphs[name].draw(pen)
        place = np.array([at, 0.0])
        paths.extend(from_pieces((np.array(r) + place) * scale, closed=True) for r in pen.rings)
        at += float(glyphs[name].width)
    if not paths:
        raise OutlineError("There is nothing to see of this text.")
    return tuple(paths)


@lru_cache(maxsize=8)
def _opened(file: str) -> TTFont:
    try:
        return TTFont(io.BytesIO(File(file).read_bytes()), fontNumber=0)
    except (OSError, TTLibError) as error:
        raise OutlineError(f"{File(file).name} is no font that can be read.") from error


def _capital(font: TTFont) -> float:
    """How tall a capital letter is, in the font's units."""
    os2 = font.get("OS/2", None)
    tall = float(getattr(os2, "sCapHeight", 0) or 0)
    return tall if tall > 0 else 0.7 * float(font["head"].unitsPerEm)
