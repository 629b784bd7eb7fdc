"""What a drawing is drawn with: lines darker or lighter than their ground, in which colours they
differ from it, or areas that stand out from it."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from dimetron.imaging.figure.cover import Cover, cover, inner_edges
from dimetron.imaging.figure.ground import Ground, ground_of
from dimetron.imaging.figure.inks import Ink, guided, inks_of, with_guides
from dimetron.imaging.figure.kind import Kind
from dimetron.imaging.figure.photo import Cut, cut_from
from dimetron.imaging.figure.said import AS_FOUND, Colour, Figure, Touch
from dimetron.imaging.figure.told import kind_of
from dimetron.imaging.figure.touched import carried, touched
from dimetron.imaging.flat import Matrix

#: Lines are looked for at about this size, against what lies so far around; differences up to this
#: are grain.
_WORK_PX, _REACH, _GRAIN = 900, 31, 10.0
#: Channels that lines differ in by so much alike are read as plain grey.
_ALIKE = 0.5
#: What is darker and what is lighter must outweigh each other by this share; lines are hardly
#: lighter than a ground so light.
_TOLD, _LIGHT_GROUND = 0.2, 170.0
#: What is covered by less of a photo's object is its ground.
_BARE = 0.5
#: A picture is clear where less than this covers it, and drawn on nothing if so much of it is.
_CLEAR, _MOSTLY = 0.1, 0.2


@dataclass(frozen=True, slots=True)
class Medium:
    """weights: how much red, green and blue count, positive where what is drawn is darker than its
    ground; None reads plain grey. under: the grey that clear parts stand for. ground: how light the
    ground is in the grey that is read, 0 to 1. kind: whether it is lines or areas; field: the
    ground that areas stand out from; cut: what of a photo is the object. inks: what lines are drawn
    with, if some of them are guides, on ``paper``. touches: what a hand said to be drawn or not."""

    weights: tuple[float, float, float] | None = None
    under: int = 255
    ground: float = 1.0
    kind: Kind = Kind.LINES
    field: Ground | None = None
    cut: Cut | None = None
    inks: tuple[Ink, ...] = ()
    paper: Colour = (255, 255, 255)
    touches: tuple[Touch, ...] = ()

    @property
    def light(self) -> bool:
        """Whether lines are lighter than their ground."""
        return self.weights is not None and sum(self.weights) < 0

    @property
    def mixing(self) -> tuple[float, float, float, float]:
        """Weights of red, green and blue (0 to 1), and what is added, that give the grey."""
        if self.weights is None:
            return 0.299, 0.587, 0.114, 0.0
        return *self.weights, sum(-w for w in self.weights if w < 0)

    def grey(self, image: Image.Image) -> NDArray[np.uint8]:
        """(h, w) grey of a picture in which drawn lines are dark."""
        image = _on(image, self.under)
        if self.weights is None:
            return np.asarray(image.convert("L"), np.uint8)
        pixels = np.asarray(image.convert("RGB"))
        *weights, offset = self.mixing
        turned = cv2.transform(pixels.astype(np.float32), np.array([[*weights, 255.0 * offset]]))
        return np.asarray(np.clip(turned + 0.5, 0, 255), np.uint8)

    def cover(self, image: Image.Image, whole: Matrix | None = None) -> Cover:
        """(h, w) 0..1: how far areas cover each pixel of a picture, or of a part of one: ``whole``
        (3, 3) takes its pixels to shares of the whole, 0 to 1."""
        if self.cut is not None:
            covered = self.cut.cover(image.size, whole)
        else:
            assert self.field is not None
            pixels = np.asarray(_on(image, self.under).convert("RGB"))
            ground = self.field if whole is None else self.field.seen(whole, image.size)
            covered = cover(pixels, ground.field(image.size), ground.least)
        if not self.touches:
            return covered
        said = touched(self.touches, image.size, whole)
        return np.where(said == 0, covered, np.maximum(said, 0)).astype(np.float32)

    @property
    def all_counts(self) -> bool:
        """Whether all lines are the object's."""
        return not self.touches and not any(ink.guide for ink in self.inks)

    def counted(self, image: Image.Image, whole: Matrix | None = None) -> NDArray[np.bool_]:
        """(h, w) whether lines in a picture, or a part of one, are the object's: neither guides nor
        taken away by hand."""
        counted = touched(self.touches, image.size, whole) >= 0
        if any(ink.guide for ink in self.inks):
            pixels = np.asarray(_on(image, self.under).convert("RGB"))
            counted &= ~guided(pixels, self.inks, self.paper)
        return counted

    def strokes(self, image: Image.Image, covered: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """(h, w) the edges of areas as if they were lines, given what they cover (h, w) of a
        picture; for lines what they cover."""
        if not self.kind.areas:
            return covered
        mask = covered.astype(np.uint8)
        around = np.ones((3, 3), np.uint8)
        edge = cv2.dilate(mask, around) != cv2.erode(mask, around, borderValue=0)
        size = covered.shape[1], covered.shape[0]
        pixels = _on(image, self.under).convert("RGB")
        if image.size != size:
            pixels = pixels.resize(size, Image.Resampling.BOX, reducing_gap=2.0)
        return np.asarray(edge | inner_edges(np.asarray(pixels), covered))

    def seen(self, whole: Matrix, size: tuple[int, int]) -> Medium:
        """The same for a part of the picture that is ``size`` (width, height) large."""
        return replace(
            self,
            field=None if self.field is None else self.field.seen(whole, size),
            cut=None if self.cut is None else self.cut.seen(whole, size),
            touches=tuple(carried(touch, whole, size) for touch in self.touches),
        )


def shares(corner: tuple[float, float], whole_px: tuple[int, int]) -> Matrix:
    """(3, 3) from the pixels of a part that begins at ``corner`` to shares of the whole."""
    w, h = whole_px
    return np.array([[1 / w, 0, corner[0] / w], [0, 1 / h, corner[1] / h], [0, 0, 1.0]])


#: Dark lines on light ground.
PENCIL = Medium()


def medium_of(image: Image.Image, figure: Figure = AS_FOUND) -> Medium:
    """What a picture is drawn with: from what stands out of its ground in areas; else from its thin
    details, which ground and shade have none of; ``figure``: as far as it is not said."""
    small = _small(image)
    under = _under(small)
    pixels = np.asarray(_on(small, under).convert("RGB"))
    kind = figure.kind
    if kind is None or kind.areas:
        ground = ground_of(pixels)
        kind = kind or kind_of(pixels, ground)
        if kind is Kind.PHOTO:
            cut = cut_from(pixels, figure.touches)
            light = max(0.1, float(pixels[cut.cover(small.size) < _BARE].mean()) / 255.0)
            return Medium(None, under, light, kind, cut=cut, touches=figure.touches)
        if kind.areas:
            light = max(0.1, ground.lightness)
            return Medium(None, under, light, kind, ground, touches=figure.touches)
    medium = replace(_lines(small, pixels, under, figure.light), touches=figure.touches)
    if not figure.guides:
        return medium
    inks = with_guides(inks_of(pixels), figure.guides)
    return replace(medium, inks=inks, paper=_typical(pixels))


def colours_of(image: Image.Image) -> tuple[Ink, ...]:
    """The inks that a picture of lines is drawn with, the commonest first."""
    small = _small(image)
    return inks_of(np.asarray(_on(small, _under(small)).convert("RGB")))


def _lines(small: Image.Image, pixels: NDArray[np.uint8], under: int, light: bool | None) -> Medium:
    # Between lines there is more ground than line.
    around = cv2.medianBlur(pixels, _REACH)
    darker = _weight(cv2.subtract(around, pixels))
    lighter = _weight(cv2.subtract(pixels, around))
    weights = darker - lighter
    told = np.abs(weights).sum() > _TOLD * (darker + lighter).sum()
    if light is not None:
        weights = -lighter if light else darker
        told = bool(np.abs(weights).sum() > 0)
    plain = weights.min() >= _ALIKE * weights.max()
    on_light = light is None and weights.sum() < 0 and _ground(pixels) > _LIGHT_GROUND
    if not told or plain or on_light:
        return Medium(None, under)
    whole = float(np.abs(weights).sum())
    r, g, b = (float(w) / whole for w in weights)
    medium = Medium((r, g, b), under)
    return replace(medium, ground=max(0.1, float(np.median(medium.grey(small))) / 255.0))


def _typical(pixels: NDArray[np.uint8]) -> Colour:
    r, g, b = (int(v) for v in np.median(pixels.reshape(-1, 3), axis=0))
    return r, g, b


def _small(image: Image.Image) -> Image.Image:
    times = max(image.size) // _WORK_PX
    return image.reduce(times) if times > 1 else image


def _weight(details: NDArray[np.uint8]) -> NDArray[np.float64]:
    """(3,) how much detail beyond the grain each channel holds."""
    beyond = np.maximum(details.reshape(-1, 3).astype(np.float32) - _GRAIN, 0.0)
    return np.asarray(beyond.sum(axis=0), np.float64)


def _ground(pixels: NDArray[np.uint8]) -> float:
    """How light the ground is: the middle of what lies around the edge."""
    edge = max(2, min(pixels.shape[:2]) // 30)
    rim = np.ones(pixels.shape[:2], bool)
    rim[edge:-edge, edge:-edge] = False
    return float(np.median(pixels[rim].mean(axis=1)))


def _under(image: Image.Image) -> int:
    """What clear parts of a picture stand for, so that what is drawn on them is seen."""
    if image.mode != "RGBA":
        return 255
    pixels = np.asarray(image).reshape(-1, 4).astype(np.float32)
    cover = pixels[:, 3] / 255.0
    if np.mean(cover < _CLEAR) < _MOSTLY or not cover.any():
        return 255
    return 0 if float(np.average(pixels[:, :3].mean(axis=1), weights=cover)) > 140 else 255


def _on(image: Image.Image, grey: int) -> Image.Image:
    """A picture laid over a grey, where it is clear."""
    if image.mode != "RGBA":
        return image
    return Image.alpha_composite(Image.new("RGBA", image.size, (grey, grey, grey, 255)), image)
