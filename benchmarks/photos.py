"""Generated photos with known truth: one view of an object each, on a bench full of things, before
a wall of bricks or on gravel, in uneven light, with its shadow beside it."""

from __future__ import annotations

import io
from dataclasses import dataclass

import cv2
import numpy as np
from PIL import Image

from benchmarks.drawings import varied
from benchmarks.objects import OBJECTS
from benchmarks.plates import hand
from dimetron.demo import clock
from dimetron.demo.plates import Piece, Plate, on_nothing
from dimetron.geometry.views import View

GROUNDS = ("planks", "bricks", "gravel", "clutter")
_SOLIDS = tuple(o for o in OBJECTS if o is not clock.solid)
_VIEWS = (View.FRONT, View.RIGHT, View.TOP)
#: Room round the object, as a share of its longer side.
_ROOM = 0.22


@dataclass(frozen=True, slots=True, eq=False)
class Photo:
    """mask (h, w): how far the object covers each pixel; box: left, top, right, bottom of it."""

    view: View
    picture: Image.Image
    mask: np.ndarray
    box: tuple[float, float, float, float]


def photos(number: int) -> tuple[str, float, tuple[Photo, ...]]:
    """The ground, pixels a millimetre, and three views of one object."""
    rng = np.random.default_rng(70_000 + number)
    ground = GROUNDS[number % len(GROUNDS)]
    solid = varied(_SOLIDS[int(rng.integers(len(_SOLIDS)))](), rng)
    size = np.subtract(*solid.bounds[::-1])
    longest = float(np.exp(rng.uniform(np.log(700), np.log(2000))))
    scale = longest / float(size.max())
    look = hand("shaded", rng)
    made = [_photo(view, solid, scale, look, ground, rng) for view in _VIEWS]
    return ground, scale, tuple(made)


def _photo(view, solid, scale, look, ground, rng) -> Photo:  # type: ignore[no-untyped-def]
    extent = np.subtract(*solid.bounds[::-1])[list(view.axes)] * scale
    room = _ROOM * float(extent.max())
    w, h = (round(float(side) + 2 * room) for side in extent)
    piece = Piece(view, (w / 2, h / 2), scale)
    mask, black = on_nothing(Plate((w, h), look, (piece,)), solid)
    behind = _GROUNDS[ground](w, h, rng)
    behind = cv2.GaussianBlur(behind, (0, 0), float(rng.uniform(0.6, 2.0)))
    away = round(0.05 * float(extent.max()))
    shadow = cv2.GaussianBlur(np.roll(mask, (away, away), (0, 1)), (0, 0), away / 2)
    behind = behind * (1 - 0.45 * shadow[..., None])
    seen = black + behind * (1 - mask[..., None])
    x, y = np.meshgrid(np.linspace(-1, 1, w), np.linspace(-1, 1, h))
    seen = seen * (1 + 0.12 * (rng.uniform(-1, 1) * x + rng.uniform(-1, 1) * y))[..., None]
    seen = seen + rng.normal(0, 3, seen.shape)
    out = io.BytesIO()
    Image.fromarray(np.clip(seen, 0, 255).astype(np.uint8)).save(
        out, "JPEG", quality=int(rng.integers(70, 93))
    )
    picture = Image.open(io.BytesIO(out.getvalue())).convert("RGB")
    a, b = extent / 2
    return Photo(view, picture, mask, (w / 2 - a, h / 2 - b, w / 2 + a, h / 2 + b))


def _grain(w: int, h: int, rng: np.random.Generator, cell: float) -> np.ndarray:
    small = rng.normal(0, 1, (max(2, round(h / cell)), max(2, round(w / cell)), 1))
    return np.asarray(cv2.resize(small, (w, h), interpolation=cv2.INTER_CUBIC))[..., None]


def _planks(w: int, h: int, rng: np.random.Generator) -> np.ndarray:
    out = np.empty((h, w, 3))
    wide = max(8, round(h / float(rng.uniform(4, 9))))
    for top in range(0, h, wide):
        out[top : top + wide] = np.array([150, 110, 70]) * rng.uniform(0.55, 1.25)
        out[top : top + max(1, wide // 30)] *= 0.4
    along = cv2.resize(rng.normal(0, 16, (h, max(2, w // 90), 1)), (w, h))[..., None]
    return np.clip(out + along, 0, 255)


def _bricks(w: int, h: int, rng: np.random.Generator) -> np.ndarray:
    out = np.full((h, w, 3), (190.0, 184, 172))
    tall = max(10, round(h / float(rng.uniform(7, 14))))
    for row, top in enumerate(range(0, h, tall)):
        for left in range(-(row % 2) * tall, w, 2 * tall):
            brick = np.array([160, 84, 62]) * rng.uniform(0.6, 1.2)
            cv2.rectangle(
                out, (left, top), (left + 2 * tall - tall // 7, top + tall - tall // 7),
                brick.tolist(), -1,
            )  # fmt: skip
    return np.clip(out + 10 * _grain(w, h, rng, 3), 0, 255)


def _gravel(w: int, h: int, rng: np.random.Generator) -> np.ndarray:
    tone = 128 + 34 * _grain(w, h, rng, 9) + 22 * _grain(w, h, rng, 4)
    return np.clip(tone * np.array([1.0, 0.96, 0.88]), 0, 255)


def _clutter(w: int, h: int, rng: np.random.Generator) -> np.ndarray:
    out = np.full((h, w, 3), (96.0, 100, 108))
    for _ in range(60):
        x, y = int(rng.integers(w)), int(rng.integers(h))
        a, b = (int(side * rng.uniform(0.03, 0.16)) for side in (w, h))
        cv2.rectangle(out, (x, y), (x + a, y + b), rng.uniform(20, 235, 3).tolist(), -1)
    return out


_GROUNDS = {"planks": _planks, "bricks": _bricks, "gravel": _gravel, "clutter": _clutter}
