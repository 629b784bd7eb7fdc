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
from dimetron.imaging.figure.kind import Kind
from dimetron.imaging.figure.told import kind_of

#: Lines are looked for at about this size, against what lies so far around; differences up to this
#: are grain.
_WORK_PX, _REACH, _GRAIN = 900, 31, 10.0
#: Channels that lines differ in by so much alike are read as plain grey.
_ALIKE = 0.5
#: What is darker and what is lighter must outweigh each other by this share; lines are hardly
#: lighter than a ground so light.
_TOLD, _LIGHT_GROUND = 0.2, 170.0
#: A picture is clear where less than this covers it, and drawn on nothing if so much of it is.
_CLEAR, _MOSTLY = 0.1, 0.2

Matrix = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Medium:
    """weights: how much red, green and blue count, positive where what is drawn is darker than its
    ground; None reads plain grey. under: the grey that clear parts stand for. ground: how light the
    ground is in the grey that is read, 0 to 1. kind: whether it is lines or areas; field: the
    ground that areas stand out from."""

    weights: tuple[float, float, float] | None = None
    under: int = 255
    ground: float = 1.0
    kind: Kind = Kind.LINES
    field: Ground | None = None

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
        assert self.field is not None
        pixels = np.asarray(_on(image, self.under).convert("RGB"))
        ground = self.field if whole is None else self.field.seen(whole, image.size)
        return cover(pixels, ground.field(image.size), ground.least)

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
        if self.field is None:
            return self
        return replace(self, field=self.field.seen(whole, size))


def shares(corner: tuple[float, float], whole_px: tuple[int, int]) -> Matrix:
    """(3, 3) from the pixels of a part that begins at ``corner`` to shares of the whole."""
    w, h = whole_px
    return np.array([[1 / w, 0, corner[0] / w], [0, 1 / h, corner[1] / h], [0, 0, 1.0]])


#: Dark lines on light ground.
PENCIL = Medium()


def medium_of(image: Image.Image, kind: Kind | None = None) -> Medium:
    """What a picture is drawn with: from what stands out of its ground in areas; else from its thin
    details, which ground and shade have none of. ``kind``: what it is said to be."""
    small = _small(image)
    under = _under(small)
    pixels = np.asarray(_on(small, under).convert("RGB"))
    if kind is None or kind.areas:
        ground = ground_of(pixels)
        told = kind or kind_of(pixels, ground)
        if told.areas:
            return Medium(None, under, max(0.1, ground.lightness), told, ground)
    return _lines(small, pixels, under)


def _lines(small: Image.Image, pixels: NDArray[np.uint8], under: int) -> Medium:
    # Between lines there is more ground than line.
    around = cv2.medianBlur(pixels, _REACH)
    darker = _weight(cv2.subtract(around, pixels))
    lighter = _weight(cv2.subtract(pixels, around))
    weights = darker - lighter
    told = np.abs(weights).sum() > _TOLD * (darker + lighter).sum()
    plain = weights.min() >= _ALIKE * weights.max()
    if not told or plain or (weights.sum() < 0 and _ground(pixels) > _LIGHT_GROUND):
        return Medium(None, under)
    whole = float(np.abs(weights).sum())
    r, g, b = (float(w) / whole for w in weights)
    medium = Medium((r, g, b), under)
    return replace(medium, ground=max(0.1, float(np.median(medium.grey(small))) / 255.0))


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
