"""Standard sheets after a life in a workshop: worn, folded, photographed in bad light, slightly in
perspective, on squared or ruled paper, small and large; the truth goes along."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace

import cv2
import numpy as np
from PIL import Image

from benchmarks.objects import OBJECTS
from benchmarks.sheets import plan
from dimetron.demo.plan import SheetPlan
from dimetron.demo.sheet import DrawnSheet, drawn_sheet
from dimetron.imaging.flat import projected

Pixels = np.ndarray


def _plain(pixels: Pixels, rng: np.random.Generator, deg: float) -> Pixels:
    return pixels


def _worn(pixels: Pixels, rng: np.random.Generator, deg: float) -> Pixels:
    """Faded in patches, lines broken by gaps, specks."""
    h, w = pixels.shape[:2]
    paper = np.median(pixels.reshape(-1, 3), axis=0)
    patches = cv2.resize(rng.uniform(0.35, 0.9, (9, 12)).astype(np.float32), (w, h))
    gaps = np.ones((h, w), np.float32)
    for _ in range(260):
        x, y = int(rng.integers(w)), int(rng.integers(h))
        long, wide = int(w * rng.uniform(0.002, 0.01)), int(max(2, w * 0.0015))
        turn = rng.uniform(0, np.pi)
        end = int(x + long * np.cos(turn)), int(y + long * np.sin(turn))
        cv2.line(gaps, (x, y), end, 0.1, wide)
    kept = (patches * cv2.GaussianBlur(gaps, (0, 0), 1.0))[..., None]
    out = paper - (paper - pixels) * kept
    for _ in range(500):
        at = int(rng.integers(w)), int(rng.integers(h))
        cv2.circle(out, at, int(rng.integers(1, 3)), (paper * rng.uniform(0.3, 0.7)).tolist(), -1)
    return out


def _folded(pixels: Pixels, rng: np.random.Generator, deg: float) -> Pixels:
    h, w = pixels.shape[:2]
    light = np.ones((h, w), np.float32)
    x, y = (int(side * rng.uniform(0.47, 0.53)) for side in (w, h))
    light[:, x:] *= 0.94
    light[y:] *= 0.95
    light = cv2.GaussianBlur(light, (0, 0), w / 250)
    for a, b in (((x, -h), (x + int(rng.integers(-9, 9)), 2 * h)), ((-w, y), (2 * w, y))):
        cv2.line(light, a, b, 0.80, max(1, w // 900), cv2.LINE_AA)
        cv2.line(light, (a[0] + 3, a[1] + 3), (b[0] + 3, b[1] + 3), 1.05, max(1, w // 900))
    return pixels * _turned(light, deg)[..., None]


def _turned(plane: Pixels, deg: float) -> Pixels:
    """As the sheet lies in the scan."""
    h, w = plane.shape
    turn = cv2.getRotationMatrix2D((w / 2, h / 2), deg, 1.0)
    return cv2.warpAffine(plane, turn, (w, h), borderMode=cv2.BORDER_REPLICATE)


def _shadowed(pixels: Pixels, rng: np.random.Generator, deg: float) -> Pixels:
    """Light that falls off, and a shadow across with a soft edge."""
    h, w = pixels.shape[:2]
    x, y = np.meshgrid(np.linspace(-1, 1, w), np.linspace(-1, 1, h))
    fall = 1 + 0.18 * (rng.uniform(-1, 1) * x + rng.uniform(-1, 1) * y) - 0.08 * (x**2 + y**2)
    turn, at = rng.uniform(0, 2 * np.pi), rng.uniform(-0.3, 0.3)
    across = (np.cos(turn) * x + np.sin(turn) * y - at) * 25
    shadow = 1 - 0.38 / (1 + np.exp(-np.clip(across, -40, 40)))
    return pixels * (fall * shadow)[..., None]


def _grid(pixels: Pixels, rng: np.random.Generator, deg: float, ruled: bool) -> Pixels:
    h, w = pixels.shape[:2]
    step = w / 420 * (8.0 if ruled else 5.0)
    ink = np.array([[0.55, 0.72, 0.90], [0.78, 0.78, 0.78], [0.62, 0.84, 0.72]][rng.integers(3)])
    lines = np.zeros((h, w), np.float32)
    wide = max(1, round(w / 420 * 0.18))
    for at in np.arange(step / 2 - h, 2 * h, step):
        cv2.line(lines, (-w, round(at)), (2 * w, round(at)), 1.0, wide)
    if not ruled:
        for at in np.arange(step / 2 - w, 2 * w, step):
            cv2.line(lines, (round(at), -h), (round(at), 2 * h), 1.0, wide)
    # Drawn beyond its edges, so that nothing is missing when it is turned.
    lines = _turned(lines, deg)
    strong = rng.uniform(0.3, 0.8)
    return pixels * (1 - strong * lines[..., None] * (1 - ink))


def _squared(pixels: Pixels, rng: np.random.Generator, deg: float) -> Pixels:
    return _grid(pixels, rng, deg, False)


def _ruled(pixels: Pixels, rng: np.random.Generator, deg: float) -> Pixels:
    return _grid(pixels, rng, deg, True)


WEARS: dict[str, Callable[[Pixels, np.random.Generator, float], Pixels]] = {
    "as drawn": _plain, "worn": _worn, "folded": _folded, "in bad light": _shadowed,
    "squared": _squared, "ruled": _ruled, "touched": _plain, "in perspective": _shadowed,
    "700 px": _plain, "9,000 px": _plain,
}  # fmt: skip


def case(how: str, number: int) -> tuple[SheetPlan, DrawnSheet]:
    """A sheet, and where its views lie after what was done to it."""
    which, wanted = plan(number)
    if how == "touched":
        clutter = replace(wanted.clutter, extension_gap_mm=0.0, dimensions=3, leaders=2)
        wanted = replace(wanted, clutter=clutter)
    drawn = drawn_sheet(wanted, OBJECTS[which]())
    rng = np.random.default_rng(90_000 + number)
    pixels = np.asarray(drawn.picture.convert("RGB"), np.float32)
    pixels = np.ascontiguousarray(WEARS[how](pixels.copy(), rng, wanted.skew_deg), np.float32)
    size = np.array(drawn.picture.size, float)
    h_matrix = np.eye(3)
    if how == "in perspective":
        ends = np.array([[0, 0], [1, 0], [1, 1], [0, 1]]) * size
        there = ends + rng.uniform(-0.008, 0.008, (4, 2)) * size
        h_matrix = cv2.getPerspectiveTransform(ends.astype(np.float32), there.astype(np.float32))
    elif how.endswith("px"):
        by = float(how.split()[0].replace(",", "")) / size[0]
        h_matrix = np.diag([by, by, 1.0])
        size = np.round(size * by)
    w, h = (int(side) for side in size)
    shrunk = cv2.INTER_AREA if h_matrix[0, 0] < 0.9 else cv2.INTER_LINEAR
    if how == "700 px":
        pixels = cv2.resize(pixels, (w, h), interpolation=shrunk)
    elif not np.array_equal(h_matrix, np.eye(3)):
        border = np.median(pixels.reshape(-1, 3)[::97], axis=0)
        pixels = cv2.warpPerspective(
            pixels, h_matrix, (w, h), flags=cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_CONSTANT, borderValue=border.tolist(),
        )  # fmt: skip
    picture = Image.fromarray(np.clip(pixels, 0, 255).astype(np.uint8))
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=int(rng.integers(70, 93)))
    picture = Image.open(io.BytesIO(out.getvalue())).convert("RGB")
    corners = {v: projected(h_matrix, c) for v, c in drawn.corners.items()}
    return wanted, DrawnSheet(picture, corners, drawn.mm_per_px / h_matrix[0, 0])


def _made(what: tuple[str, int]) -> tuple[SheetPlan, DrawnSheet]:
    return case(*what)


def cases(how: str, count: int, first: int) -> Iterator[tuple[SheetPlan, DrawnSheet]]:
    with ProcessPoolExecutor(2) as pool:
        yield from pool.map(_made, [(how, n) for n in range(first, first + count)])
