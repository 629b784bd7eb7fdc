"""Pictures drawn from outlines, so that what a tracing should find is known."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from PIL import Image

from dimetron.outlines.path import Floats, Path, path_of, sampled
from dimetron.outlines.shapes import ellipse
from dimetron.outlines.trace import distances

#: Drawn so many times larger and reduced.
_FINE = 8


def polygon(*points: tuple[float, float], closed: bool = True) -> Path:
    return path_of(points, closed=closed)


def wavy(middle: tuple[float, float], radius: float, seed: int) -> Path:
    """A smooth closed outline of five points."""
    rng = np.random.default_rng(seed)
    turn = np.linspace(0, 2 * np.pi, 5, endpoint=False) + rng.uniform(-0.2, 0.2, 5)
    far = radius * rng.uniform(0.75, 1.2, 5)
    points = np.stack([np.cos(turn), np.sin(turn)], axis=1) * far[:, None] + middle
    way = (np.roll(points, -1, axis=0) - np.roll(points, 1, axis=0)) / 6
    return path_of(points, points - way, points + way, np.zeros(5, bool), closed=True)


#: Lines on a picture of 800 by 600 pixels, some of which cross.
LINES = (
    ellipse((150, 150), (90, 60), 20),
    polygon((300, 60), (460, 80), (430, 200), (310, 190)),
    wavy((600, 150), 90, 1),
    polygon((60, 300), (200, 290), (260, 420), (150, 380), (70, 450)),
    ellipse((400, 380), (100, 100)),
    polygon((330, 500), (700, 320), closed=False),
    polygon((520, 300), (640, 540), closed=False),
)
#: Areas, each with its holes.
AREAS = (
    (ellipse((150, 150), (110, 80), 20), ellipse((150, 150), (50, 40))),
    (
        polygon((300, 60), (460, 80), (430, 200), (310, 190)),
        polygon((340, 100), (400, 105), (390, 160)),
    ),
    (wavy((600, 150), 90, 1),),
    (polygon((60, 300), (200, 290), (260, 420), (150, 380), (70, 450)),),
    (ellipse((450, 400), (120, 90)), ellipse((420, 400), (30, 30))),
)
SIZE = 800, 600


def drawn(
    lines: Sequence[Path] = (),
    areas: Sequence[Sequence[Path]] = (),
    pen: float = 3.0,
    seed: int = 0,
    grain: float = 6.0,
    size: tuple[int, int] = SIZE,
) -> Image.Image:
    """A pencil's lines and areas on tinted paper with grain."""
    w, h = size
    big = np.zeros((h * _FINE, w * _FINE), np.uint8)
    for path in lines:
        width = round(pen * _FINE)
        cv2.polylines(big, [_fine(path)], path.closed, 255, width, cv2.LINE_8, 4)
    for area in areas:
        own = np.zeros_like(big)
        cv2.fillPoly(own, [_fine(path) for path in area], (255,), shift=4)
        big = np.maximum(big, own)
    cover = cv2.resize(big, size, interpolation=cv2.INTER_AREA) / 255.0
    rng = np.random.default_rng(seed)
    rough = cv2.GaussianBlur(rng.normal(0, 1, (h, w)), (0, 0), 1.0) * 2
    cover = cv2.GaussianBlur(cover * (1 - 0.25 * np.clip(rough, -1, 1) ** 2), (0, 0), 0.5)
    grey = 238 - 178 * cover + rng.normal(0, grain, (h, w))
    return Image.fromarray(
        np.clip(grey[..., None] * np.array([1, 0.985, 0.94]), 0, 255).astype(np.uint8)
    )


def _fine(path: Path) -> np.ndarray:
    return np.rint(sampled(path, 0.01) * _FINE * 16 - 8).astype(np.int32)[:, None]


def along(path: Path, step: float = 1.0) -> Floats:
    """(n, 2) places all along a path."""
    line = sampled(path, 0.01)
    line = np.concatenate([line, line[:1]]) if path.closed else line
    long = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    at = np.arange(0.0, long[-1], step)
    return np.stack([np.interp(at, long, line[:, k]) for k in (0, 1)], axis=1)


def apart(true: Sequence[Path], found: Sequence[Path]) -> tuple[Floats, Floats]:
    """How far every place of what was found lies from the truth, and the other way round."""
    return tuple(
        np.min([distances(p, np.concatenate([along(q) for q in of])) for p in to], axis=0)
        for of, to in ((found, true), (true, found))
    )  # type: ignore[return-value]


def corners_kept(true: Sequence[Path], found: Sequence[Path], within: float = 2.0) -> float:
    """Which share of the true corners has a corner nearby."""
    wanted = np.concatenate([p.points[p.corner] for p in true])
    there = np.concatenate([p.points[p.corner] for p in found])
    away = np.hypot(*(wanted[:, None] - there[None]).transpose(2, 0, 1))
    return float((away.min(axis=1) < within).mean())
