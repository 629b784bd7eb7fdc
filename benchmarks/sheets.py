"""Generated sheets with known truth, of varied objects, layout, furniture, skew and noise."""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor

import numpy as np

from benchmarks.objects import OBJECTS
from dimetron.demo.plan import Clutter, SheetPlan
from dimetron.demo.sheet import DrawnSheet, drawn_sheet
from dimetron.geometry.views import Projection, View

F, R, L, T, B, K = View.FRONT, View.RIGHT, View.LEFT, View.TOP, View.BOTTOM, View.BACK
_SETS = ((F, R, T), (F, L, T), (F, R, T, L), (F, R, T, K), (F, R, T, L, K), (F, R, T, L, K, B))


def plan(number: int) -> tuple[int, SheetPlan]:
    """The number of the object and the plan of a sheet."""
    rng = np.random.default_rng(1000 + number)
    which = number % len(OBJECTS)
    views = _SETS[int(rng.integers(len(_SETS)))]
    gap = float(rng.choice([14.0, 22.0, 30.0]))
    size = np.subtract(*OBJECTS[which]().bounds[::-1])
    thin = float(rng.choice([0.4, 0.5, 0.7, 1.0]))
    clutter = Clutter(
        frame=bool(rng.random() < 0.8),
        zones=bool(rng.random() < 0.3),
        title_block=bool(rng.random() < 0.85),
        notes=int(rng.integers(0, 7)),
        captions=bool(rng.random() < 0.7),
        dimensions=int(rng.integers(0, 4)),
        centrelines=bool(rng.random() < 0.6),
        leaders=int(rng.integers(0, 3)),
        projection_lines=bool(rng.random() < 0.2),
        thin=thin,
        extension_gap_mm=float(rng.choice([0.0, 0.8, 1.5])),
        arrow=str(rng.choice(["filled", "filled", "open", "tick"])),
    )
    return which, SheetPlan(
        views,
        _scale(size, views, gap),
        OBJECTS[which].__module__.rpartition(".")[2].capitalize(),
        Projection.FIRST_ANGLE if rng.random() < 0.4 else Projection.THIRD_ANGLE,
        dpi=float(rng.choice([150, 180, 220])),
        skew_deg=float(rng.uniform(-3, 3)),
        gap_mm=gap,
        line_mm=float(rng.choice([0.4, 0.5, 0.7])),
        strength=float(rng.uniform(0.45, 0.95)),
        shading=float(rng.choice([0.0, 0.0, 0.25, 0.45])),
        noise=float(rng.uniform(0.5, 3.0)),
        paper=(
            int(rng.integers(225, 252)),
            int(rng.integers(220, 246)),
            int(rng.integers(200, 240)),
        ),
        clutter=clutter,
        seed=number,
    )


def _scale(size: np.ndarray, views: tuple[View, ...], gap: float) -> float:
    """The largest of the usual scales at which the views fit on an A3 sheet."""
    w, d, h = size
    across = w + d * ((R in views) + (L in views)) + w * (K in views)
    down = h + d * ((T in views) + (B in views))
    columns = 1 + (R in views) + (L in views) + (K in views)
    rows = 1 + (T in views) + (B in views)
    room = min((380 - gap * (columns - 1) - 16) / across, (236 - gap * (rows - 1) - 16) / down)
    return float(room * 0.96)


def _made(number: int) -> tuple[SheetPlan, DrawnSheet]:
    which, wanted = plan(number)
    return wanted, drawn_sheet(wanted, OBJECTS[which]())


def sheets(count: int, first: int = 0) -> Iterator[tuple[SheetPlan, DrawnSheet]]:
    with ProcessPoolExecutor(2) as pool:
        yield from pool.map(_made, range(first, first + count))
