"""Which view a thing on a sheet is said to be by what is written at it."""

from __future__ import annotations

import difflib
import re
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from dimetron.geometry.views import Projection, View
from dimetron.imaging.split.level import Bits
from dimetron.imaging.split.regions import Boxes
from dimetron.imaging.wording.lines import Writing, lines_of_print

Views = frozenset[View]
_SIDES = frozenset({View.LEFT, View.RIGHT})
#: What drawings call their views, in the languages of those who made them.
_WORDS: dict[Views, str] = {
    frozenset({View.FRONT}): "front fore vorderansicht vorne face avant frente frontal alzado "
    "anteriore prospetto",
    frozenset({View.BACK}): "back rear stern hinten rückansicht hinteransicht arrière posterior "
    "trasera retro",
    frozenset({View.LEFT}): "left links gauche izquierda izquierdo sinistra",
    frozenset({View.RIGHT}): "right rechts droite derecha derecho destra",
    frozenset({View.TOP}): "top plan above draufsicht oben dessus planta superior pianta",
    frozenset({View.BOTTOM}): "bottom underside underneath below beneath unten untersicht dessous "
    "inferior inferiore",
    _SIDES: "side profile seitenansicht seite profil côté perfil lateral fianco laterale",
}
_NAMES = {word: views for views, words in _WORDS.items() for word in words.split()}
#: What else stands in such a line.
_FILLERS = (
    "view elevation drawing hand the of from on at no fig figure scale half full size in to ansicht"
    " von aufriss grundriss vue de la du le vista lado lato"
)
#: What title blocks call projections; how long such a line is, in its heights, and how many of
#: such length are read.
_ANGLES = {
    Projection.FIRST_ANGLE: r"\b(first|1st)\W*angle",
    Projection.THIRD_ANGLE: r"\b(third|3rd)\W*angle",
}
_ANGLE_LONG, _BLOCK_LINES = (3.5, 24.0), 8
_FILLING = frozenset(_FILLERS.split())
#: A misread letter in a word of this many is allowed for.
_LONG_WORD, _ALIKE = 5, 0.79
#: Figures that letters are read as, and specks between them.
_MISREAD = str.maketrans("01", "ol", "'’`´.,")
#: A caption stands no farther from its view than this share of the sheet's longest side.
_FAR = 0.09
#: What is found may end with its caption: that lies within this share of its height.
_END = 0.2
#: No more lines at one view are read.
_MOST = 3


@dataclass(frozen=True, slots=True, eq=False)
class Caption:
    """box (4,) of a caption on the levelled sheet, and the views that its words fit."""

    box: Boxes
    views: Views


def captions(writing: Writing, boxes: Sequence[Boxes]) -> dict[int, Caption]:
    """The captions of things in ``boxes`` (4,), by their numbers; only of those that have one."""
    if not boxes:
        return {}
    far = _FAR * max(writing.ink.shape)
    where = lines_of_print(writing.ink, [_inner(box, far) for box in boxes])
    near = {side: _gaps(where, boxes, side, far) for side in (1, -1)}
    wanted = np.zeros(len(where), bool)
    for gaps in near.values():
        for own in gaps:
            nearest = np.argsort(own)[:_MOST]
            wanted[nearest[np.isfinite(own[nearest])]] = True
    read = writing.read(where[wanted])
    told = [Caption(line.box, views) for line in read if (views := meant(line.text))]
    # On one sheet captions stand either below their views or above them.
    below, above = (_taken(told, boxes, side, far) for side in (1, -1))
    return below if len(below) >= len(above) else above


def projection_written(writing: Writing) -> Projection | None:
    """The projection that the sheet's title block names, if it does."""
    where = lines_of_print(writing.ink, [])
    h, w = writing.ink.shape
    long = (where[:, 2] - where[:, 0]) / (where[:, 3] - where[:, 1])
    low, high = _ANGLE_LONG
    block = (where[:, 0] > w / 2) & (where[:, 1] > h / 2) & (long > low) & (long < high)
    corner = np.argsort(-(where[:, 2] / w + where[:, 3] / h)[block])[:_BLOCK_LINES]
    for line in writing.read(where[block][corner]):
        for projection, words in _ANGLES.items():
            if re.search(words, line.text.casefold()):
                return projection
    return None


def meant(text: str) -> Views:
    """The views that a caption's words fit; none where it is no caption."""
    words = re.findall(r"[^\W\d_]+", text.casefold().translate(_MISREAD))
    named = [views for word in words if (views := _named(word))]
    known = {*_FILLING, *(word for word in words if _named(word))}
    odd = [word for word in words if word not in known and len(word) > 2]
    if not named or len(odd) > len(named):
        return frozenset()
    # "Right side", "back side": which side is said by the other word.
    if len(set(named)) > 1:
        named = [views for views in named if views != _SIDES]
    return named[0] if len(set(named)) == 1 else frozenset()


def _named(word: str) -> Views:
    if word in _NAMES:
        return _NAMES[word]
    if len(word) < _LONG_WORD or word in _FILLING:
        return frozenset()
    close = difflib.get_close_matches(word, _NAMES, 1, _ALIKE)
    return _NAMES[close[0]] if close and len(close[0]) >= _LONG_WORD else frozenset()


def _taken(
    told: list[Caption], boxes: Sequence[Boxes], side: int, far: float
) -> dict[int, Caption]:
    """Each thing's caption, if all stand below (1) or above (-1) their things: every caption is of
    the nearest thing, and every thing has the nearest caption."""
    if not told:
        return {}
    gaps = _gaps(np.array([caption.box for caption in told]), boxes, side, far)
    of = gaps.argmin(axis=0)
    found = {}
    for number, own in enumerate(gaps):
        mine = np.flatnonzero((of == number) & np.isfinite(own))
        if len(mine):
            found[number] = told[int(mine[own[mine].argmin()])]
    return found


def _inner(box: Boxes, far: float) -> Boxes:
    """A thing's box without its upper and lower ends, which may be its caption."""
    end = min(far, (box[3] - box[1]) * _END)
    return np.asarray(box + np.array([0.0, end, 0.0, -end]))


def _gaps(lines: Boxes, boxes: Sequence[Boxes], side: int, far: float) -> Boxes:
    """(things, lines) how far each line stands below (1) or above (-1) each thing; infinite where
    it stands elsewhere."""
    things = np.array(boxes)
    wide = things[:, 2] - things[:, 0]
    off = np.abs(lines[:, 0] + lines[:, 2] - (things[:, 0] + things[:, 2])[:, None]) / 2
    under = off < (wide[:, None] + lines[:, 2] - lines[:, 0]) / 2
    ends = np.minimum(far, (things[:, 3] - things[:, 1]) * _END)[:, None]
    gap = lines[:, 1] - things[:, 3, None] if side > 0 else things[:, 1, None] - lines[:, 3]
    near = under & (gap > -ends) & (gap < far)
    return np.asarray(np.where(near, np.abs(gap), np.inf))


def without_caption(ink: Bits, box: Boxes, caption: Boxes) -> Boxes:
    """The box (4,) of what else is drawn in a box than its caption, if that lies in it at all."""
    x0, y0, x1, y1 = (max(0, round(float(v))) for v in box)
    left, top, right, bottom = (round(float(v)) for v in caption - [x0, y0, x0, y0])
    within = ink[y0:y1, x0:x1].copy()
    if top >= within.shape[0] or bottom <= 0:
        return box
    within[max(0, top - 1) : bottom + 1, max(0, left) : max(0, right)] = 0
    x, y, w, h = cv2.boundingRect(within)
    return np.array([x0 + x, y0 + y, x0 + x + w, y0 + y + h], np.float64) if w and h else box
