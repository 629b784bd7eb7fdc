"""Prepare: views found on generated sheets against the truth, skew, flattened photos, and speed."""

from __future__ import annotations

import io
import sys
from itertools import combinations

import cv2
import numpy as np
from PIL import Image

from benchmarks.objects import OBJECTS
from benchmarks.sheets import plan, sheets
from benchmarks.timing import fact, in_turn, report, row
from dimetron.demo.photo import BULGE, SIZE_PX, taken
from dimetron.demo.plan import SheetPlan
from dimetron.demo.sheet import DrawnSheet, drawn_sheet
from dimetron.geometry.views import View
from dimetron.imaging.flat import Circle, Rectangle
from dimetron.imaging.frame import Flattening, Straightening, sheet_frame
from dimetron.imaging.prepare import preview, sheet_light
from dimetron.imaging.pyramid import build
from dimetron.imaging.read import decode
from dimetron.imaging.split.views import split_views
from dimetron.imaging.tone import Tone

SHEETS = 48
#: Not the sheets that the splitting was made with.
FIRST = 3000


def level_box(plan: SheetPlan, corners: np.ndarray) -> np.ndarray:
    a = np.radians(plan.skew_deg)
    level = corners @ np.array([[np.cos(a), np.sin(a)], [-np.sin(a), np.cos(a)]])
    return np.array([*level.min(axis=0), *level.max(axis=0)])


def overlap(a: np.ndarray, b: np.ndarray) -> float:
    shared = float(np.prod(np.maximum(np.minimum(a[2:], b[2:]) - np.maximum(a[:2], b[:2]), 0)))
    areas = float(np.prod(a[2:] - a[:2]) + np.prod(b[2:] - b[:2]))
    return shared / (areas - shared)


def splitting() -> list[dict[str, object]]:
    """Each view of each sheet: found and rightly named, wrong though sure, or left open."""
    views = right = wrong = 0
    skews: list[float] = []
    for number, (drawn_to, drawn) in enumerate(sheets(SHEETS, FIRST)):
        found = split_views(drawn.picture, drawn_to.projection)
        skews.append(abs(found.skew.deg - drawn_to.skew_deg))
        good, bad = judged(drawn_to, drawn, {v.view: v.corners for v in found.views})
        views, right, wrong = views + len(drawn_to.views), right + good, wrong + bad
        print(f"sheet {number}: {good} of {len(drawn_to.views)}", file=sys.stderr)
    return [
        fact(
            f"views found and named at IoU 0.95, {views} on {SHEETS} sheets",
            f"{100 * right / views:.1f} %",
            "97 %",
        ),
        fact("  wrong but sure", f"{100 * wrong / views:.2f} %", "1 %"),
        fact("skew error, median", f"{np.median(skews):.3f}°", "0.05°"),
        fact("skew error, worst", f"{max(skews):.3f}°", "0.2°"),
    ]


def judged(
    drawn_to: SheetPlan, drawn: DrawnSheet, found: dict[View | None, np.ndarray]
) -> tuple[int, int]:
    good = bad = 0
    for view, corners in found.items():
        true = drawn.corners.get(view) if view is not None else None
        near = true is not None and (
            overlap(level_box(drawn_to, true), level_box(drawn_to, corners)) >= 0.95
        )
        good, bad = good + near, bad + (not near)
    return good, bad


def flattening() -> dict[str, object]:
    """Distances away from the picks, picked to a third of a pixel."""
    photo, rng = taken(), np.random.default_rng(1)
    away = np.array([[-140, 60], [135, 260], [0, 300.0], [-20, 10], [90, 130], [-150, 150]])
    turn = np.linspace(0, 2 * np.pi, 13)[:-1]
    ring = np.stack([120 * np.cos(turn), 150 + 120 * np.sin(turn)], axis=1)
    square = np.array([[-100, 250], [100, 250], [100, 50], [-100, 50.0]])
    worst = []
    for _ in range(20):
        rim, corners = (photo.px(p) + rng.normal(scale=0.33, size=p.shape) for p in (ring, square))
        centre = photo.px(np.array([0, 150.0]))
        circle = Circle(tuple(map(tuple, rim)), (float(centre[0]), float(centre[1])), 240.0)
        rectangle = Rectangle(tuple(map(tuple, corners)), (200.0, 200.0), True)
        for known in (circle, rectangle):
            frame = sheet_frame(SIZE_PX, Flattening(BULGE, known))
            seen = frame.to_frame(photo.px(away)) * frame.mm_per_px
            worst.append(
                max(
                    abs(np.hypot(*(seen[i] - seen[j])) / np.hypot(*(away[i] - away[j])) - 1)
                    for i, j in combinations(range(len(away)), 2)
                )
            )
    what = "flattened photo, worst error of a distance, median of 40"
    return fact(what, f"{100 * np.median(worst):.2f} %", "0.3 %")


def speed() -> list[dict[str, object]]:
    which, wanted = plan(FIRST)
    picture = drawn_sheet(wanted, OBJECTS[which]()).picture.resize((4000, 3000))
    rows = []
    for kind in ("JPEG", "PNG"):
        out = io.BytesIO()
        picture.save(out, kind, quality=90)
        data = np.frombuffer(out.getvalue(), np.uint8)

        def ours(data: np.ndarray = data) -> None:
            split_views(decode(data.tobytes(), "sheet").image)

        def bare(data: np.ndarray = data) -> None:
            cv2.GaussianBlur(cv2.imdecode(data, cv2.IMREAD_COLOR), (15, 15), 0)

        what = f"decode and split a 4000 x 3000 {kind}, against decode and blur"
        rows.append(row(what, *in_turn(ours, bare, 5), "4.0"))
    return [*rows, slider()]


def slider() -> dict[str, object]:
    """One step of a tone slider on a 24-megapixel sheet, against warping the view alone."""
    rng = np.random.default_rng(2)
    pixels = rng.integers(180, 250, (4000, 6000, 3), dtype=np.uint8)
    pyramid = build(Image.fromarray(pixels))
    frame = sheet_frame((6000, 4000), Flattening(straightening=Straightening(angle_deg=0.6)))
    light = sheet_light(pyramid, frame)
    size, scale = (820, 560), 0.136
    values = iter(np.linspace(-0.5, 0.5, 1000))

    def ours() -> None:
        tone = Tone(contrast=float(next(values)), gamma=(1.2, 1.2, 1.2), even=True, lift=True)
        preview(pyramid, frame, tone, (0.0, 0.0), scale, size, light)

    def bare() -> None:
        preview(pyramid, frame, Tone(), (0.0, 0.0), scale, size)

    return row("a step of a tone slider, 24 megapixels, in view", *in_turn(ours, bare, 15), "33 ms")


def main() -> None:
    report(*splitting(), flattening(), *speed())


if __name__ == "__main__":
    main()
