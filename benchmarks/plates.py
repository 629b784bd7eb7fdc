"""Generated plates with known truth: seven styles, three to six views in any arrangement, the plan
turned or not, of one scale or several."""

from __future__ import annotations

import io
from dataclasses import dataclass, replace

import numpy as np
from PIL import Image

from benchmarks.drawings import varied
from benchmarks.objects import OBJECTS
from dimetron.demo import clock
from dimetron.demo.plates import DrawnPlate, Hand, Piece, Plate, drawn_plate
from dimetron.geometry.views import View
from dimetron.mesh.mesh import Mesh

F, R, L, T, B, K = View.FRONT, View.RIGHT, View.LEFT, View.TOP, View.BOTTOM, View.BACK
_SETS = (
    (F, R, T),
    (F, L, T),
    (R, T, F),
    (F, R, T, K),
    (F, L, T, K),
    (F, R, T, L, K),
    (F, R, T, L, K, B),
)
STYLES = ("dark", "coloured", "white on blue", "light on dark", "lined", "filled", "shaded")
_INKS = ((196, 44, 38), (40, 80, 190), (20, 120, 60))
_CAPTIONS = {F: "front", R: "right side", L: "left side", T: "plan", B: "underside", K: "rear"}
# A clock is flat from the side: its views are strips.
_SOLIDS = tuple(o for o in OBJECTS if o is not clock.solid)


@dataclass(frozen=True, slots=True, eq=False)
class Case:
    style: str
    plan: Plate
    solid: Mesh
    several_scales: bool

    def drawn(self) -> DrawnPlate:
        return drawn_plate(self.plan, self.solid)


def hand(style: str, rng: np.random.Generator) -> Hand:
    pen = float(rng.uniform(1.0, 4.0))

    def near(colour: tuple[int, int, int], by: int = 14) -> tuple[int, int, int]:
        a, b, c = (int(np.clip(v + rng.integers(-by, by + 1), 0, 255)) for v in colour)
        return a, b, c

    paper = near((246, 244, 238), 9)
    body = near(
        [(196, 92, 60), (80, 130, 90), (70, 100, 160), (150, 120, 70)][int(rng.integers(4))]
    )
    tones = tuple(tuple(int(v * f) for v in body) for f in (0.5, 0.85, 1.15))
    tones = tuple(tuple(min(255, v) for v in t) for t in tones)
    smooth = tuple(tuple(min(255, int(v * f)) for v in body) for f in (0.35, 0.8, 1.45))
    return {
        "dark": Hand(paper, near((40, 40, 46)), pen),
        "coloured": Hand(paper, near(_INKS[int(rng.integers(3))]), pen),
        "white on blue": Hand(near((30, 66, 140)), near((240, 244, 250), 5), pen),
        "light on dark": Hand(near((30, 32, 36)), near((205, 210, 200)), pen),
        "lined": Hand(paper, near((40, 40, 46)), max(1.5, pen), tones),
        "filled": Hand(paper, near((40, 40, 46)), 0.0, tones if rng.random() < 0.6 else tones[:1]),
        "shaded": Hand(
            paper if rng.random() < 0.6 else near((120, 124, 130)),
            near((40, 40, 46)), 0.0, smooth, True,
        ),
    }[style]  # fmt: skip


def case(number: int) -> Case:
    rng = np.random.default_rng(40_000 + number)
    style = STYLES[number % len(STYLES)]
    solid = varied(_SOLIDS[int(rng.integers(len(_SOLIDS)))](), rng)
    views = _SETS[int(rng.integers(len(_SETS)))]
    turned = int(rng.choice([0, 1, 3])) if rng.random() < 0.6 else 0
    several = bool(rng.random() < 0.25)
    look = hand(style, rng)
    width = float(np.exp(rng.uniform(np.log(760), np.log(4000))))
    size = np.subtract(*solid.bounds[::-1])
    gap = 0.06 * float(size.max())
    order = [views[i] for i in rng.permutation(len(views))]
    captions = rng.random() < 0.4
    pieces, extent = _packed(order, size, turned, several, gap, rng)
    scale = width / extent[0]
    placed = tuple(
        replace(
            p, at=(p.at[0] * scale, p.at[1] * scale), px_per_mm=p.px_per_mm * scale,
            caption=_CAPTIONS[p.view] if captions else "",
        )
        for p in pieces
    )  # fmt: skip
    plan = Plate(
        (round(width), round(extent[1] * scale)), look, placed,
        fall=float(rng.choice([0.0, 0.06, 0.12])),
        grid_px=int(width / 40) if rng.random() < 0.2 else 0,
        credit="drawn for the workshop, plate 7" if rng.random() < 0.4 else "",
        watermark="workshop" if rng.random() < 0.2 else "",
        swatches=bool(rng.random() < 0.3),
        noise=float(rng.uniform(0.3, 2.5)),
        seed=number,
    )  # fmt: skip
    return Case(style, plan, solid, several)


def _packed(
    order: list[View], size: np.ndarray, turned: int, several: bool, gap: float,
    rng: np.random.Generator,
) -> tuple[list[Piece], tuple[float, float]]:  # fmt: skip
    """Rows of two to three views, in mm from the top left; each row centred or ragged."""
    rows: list[list[View]] = []
    left = list(order)
    while left:
        count = int(rng.integers(1, 4))
        rows.append(left[:count])
        left = left[count:]
    pieces: list[Piece] = []
    extents, y = [], gap * 1.5
    laid = []
    for row in rows:
        x, items, tall = gap, [], 0.0
        for view in row:
            scale = float(rng.uniform(0.7, 1.4)) if several else 1.0
            turns = turned if view in (T, B) else 0
            w, h = (size[a] * scale for a in view.axes)
            if turns % 2:
                w, h = h, w
            items.append((view, x, w, h, scale, turns))
            x += w + gap * float(rng.uniform(1.0, 2.2))
            tall = max(tall, h)
        extents.append(x)
        laid.append((items, y, tall))
        y += tall + gap * float(rng.uniform(1.2, 2.2))
    across = max(extents)
    for (items, top, tall), wide in zip(laid, extents, strict=True):
        shift = (across - wide) * float(rng.choice([0.0, 0.5, 1.0]))
        for view, x, w, _, scale, turns in items:
            at = x + shift + w / 2, top + tall / 2
            pieces.append(Piece(view, at, scale, turns))
    return pieces, (across, y)


def as_saved(drawn: DrawnPlate, number: int) -> Image.Image:
    quality = int(np.random.default_rng(50_000 + number).integers(58, 93))
    out = io.BytesIO()
    drawn.picture.save(out, "JPEG", quality=quality)
    return Image.open(io.BytesIO(out.getvalue())).convert("RGB")
