"""What stands on a sheet besides the views: frame, title block, notes, captions, dimensions.

All in paper millimetres from the sheet's top-left corner, y down.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from PIL import Image, ImageDraw

from dimetron.demo.plan import Clutter, SheetPlan
from dimetron.geometry.views import View
from dimetron.mesh.arrays import Floats
from dimetron.render.lettering import font

Box = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True, eq=False)
class Stroke:
    """A line through points (n, 2), or a filled shape."""

    points: Floats
    width: float
    strength: float
    filled: bool = False


@dataclass(frozen=True, slots=True)
class Writing:
    """Text with its lower left corner (or its middle) at ``at``, turned counter-clockwise."""

    at: tuple[float, float]
    text: str
    height: float = 3.0
    turn_deg: float = 0.0
    middle: bool = False
    strength: float = 0.85


class Pen:
    """Draws strokes and text onto a picture with ``px_per_mm``."""

    def __init__(self, image: Image.Image, px_per_mm: float) -> None:
        self.image = image
        self._draw = ImageDraw.Draw(image)
        self._px_per_mm = px_per_mm

    def stroke(self, px: Floats, stroke: Stroke) -> None:
        path = [(float(x), float(y)) for x, y in px]
        value = int(255 * stroke.strength)
        if stroke.filled:
            self._draw.polygon(path, value)
            return
        width = max(1, round(stroke.width * self._px_per_mm))
        self._draw.line(path, value, width, joint="curve")
        r = width / 2
        for x, y in (path[0], path[-1]):
            self._draw.ellipse([x - r, y - r, x + r, y + r], value)

    def write(self, px: Floats, writing: Writing, skew_deg: float) -> None:
        face = font("Regular", max(6, round(writing.height * 1.4 * self._px_per_mm)))
        left, top, right, bottom = face.getbbox(writing.text)
        words = Image.new("L", (int(right - left) + 4, int(bottom - top) + 4), 0)
        ImageDraw.Draw(words).text((2 - left, 2 - top), writing.text, 255, face)
        # Where the anchor stands from the middle of the text, before turning.
        away = np.zeros(2) if writing.middle else np.array([words.width, -words.height]) / 2
        a = math.radians(writing.turn_deg + skew_deg)
        turned = words.rotate(math.degrees(a), Image.Resampling.BICUBIC, expand=True)
        c, s = math.cos(a), math.sin(a)
        middle = px + np.array([c * away[0] + s * away[1], -s * away[0] + c * away[1]])
        at = np.rint(middle - np.array(turned.size) / 2).astype(int)
        ink = turned.point(lambda v: int(v * writing.strength))
        self.image.paste(int(255 * writing.strength), (int(at[0]), int(at[1])), ink)


def furniture(
    clutter: Clutter,
    boxes: dict[View, Box],
    paper_mm: tuple[float, float],
    plan: SheetPlan,
    rng: np.random.Generator,
) -> tuple[list[Stroke], list[Writing]]:
    """Everything that is not the object itself."""
    thin = plan.line_mm * clutter.thin
    strokes: list[Stroke] = []
    words: list[Writing] = []
    for part in (
        _frame(clutter, paper_mm, plan),
        _title_block(clutter, paper_mm, plan, thin),
        _notes(clutter, boxes, paper_mm, plan),
        _captions(clutter, boxes, plan),
        _centrelines(clutter, boxes, plan, thin),
        _dimensions(clutter, boxes, plan, thin, rng),
        _leaders(clutter, boxes, plan, thin, rng),
        _projection_lines(clutter, boxes, plan, thin),
    ):
        strokes += part[0]
        words += part[1]
    return strokes, words


_Part = tuple[list[Stroke], list[Writing]]


def _line(x0: float, y0: float, x1: float, y1: float, width: float, strength: float) -> Stroke:
    return Stroke(np.array([[x0, y0], [x1, y1]]), width, strength)


def _rectangle(box: Box, width: float, strength: float) -> list[Stroke]:
    x0, y0, x1, y1 = box
    return [
        _line(x0, y0, x1, y0, width, strength), _line(x1, y0, x1, y1, width, strength),
        _line(x1, y1, x0, y1, width, strength), _line(x0, y1, x0, y0, width, strength),
    ]  # fmt: skip


def _frame(clutter: Clutter, paper_mm: tuple[float, float], plan: SheetPlan) -> _Part:
    if not clutter.frame:
        return [], []
    w, h = paper_mm
    strokes = _rectangle((12, 10, w - 10, h - 10), 0.7, plan.strength)
    words = []
    if clutter.zones:
        strokes += _rectangle((7, 5, w - 5, h - 5), 0.3, plan.strength)
        for i in range(1, 8):
            x = 12 + (w - 22) * i / 8
            strokes.append(_line(x, 5, x, 10, 0.3, plan.strength))
            words.append(Writing((x - (w - 22) / 16, 7.5), str(i), 2.2, middle=True))
    return strokes, words


def _title_block(
    clutter: Clutter, paper_mm: tuple[float, float], plan: SheetPlan, thin: float
) -> _Part:
    if not clutter.title_block:
        return [], []
    w, h = paper_mm
    x1, y1 = w - 10.0, h - 10.0
    x0, y0 = x1 - 150, y1 - 32
    if not clutter.frame:
        x0, x1, y0, y1 = x0 - 4, x1 - 4, y0 - 4, y1 - 4
    s = plan.strength
    strokes = _rectangle((x0, y0, x1, y1), 0.5, s)
    strokes += [
        _line(x0, y0 + 12, x1, y0 + 12, thin, s), _line(x0, y0 + 22, x1, y0 + 22, thin, s),
        _line(x0 + 50, y0 + 12, x0 + 50, y1, thin, s), _line(x0 + 104, y0, x0 + 104, y1, thin, s),
    ]  # fmt: skip
    words = [
        Writing((x0 + 4, y0 + 9.5), plan.title, 5.0),
        Writing((x0 + 3, y0 + 19), "Drawn 14 May", 2.8),
        Writing((x0 + 53, y0 + 19), f"Scale {plan.scale:.3g} : 1", 2.8),
        Writing((x0 + 3, y0 + 29), "Lantern Hollow workshop", 2.8),
        Writing((x0 + 53, y0 + 29), "All sizes in mm", 2.8),
        Writing((x0 + 107, y0 + 9), "Sheet 1", 3.2),
        Writing((x0 + 107, y0 + 29), plan.projection.value, 2.8),
    ]
    return strokes, words


_NOTES = (
    "1. Enamel white inside, green outside",
    "2. All edges rolled, no burrs",
    "3. Seams at the back",
    "4. Hang from two threads",
    "5. Paint after the first fitting",
    "6. Check against the stage height",
)


def _notes(
    clutter: Clutter, boxes: dict[View, Box], paper_mm: tuple[float, float], plan: SheetPlan
) -> _Part:
    """A block of lines in whichever corner is free."""
    if not clutter.notes:
        return [], []
    w, h = paper_mm
    wide, high = 66.0, 6.0 * clutter.notes + 6
    corners = [(18.0, h - 16 - high), (w - 18 - wide, 18.0), (18.0, 18.0)]
    for x, y in corners:
        if all(
            x > b[2] + 14 or x + wide < b[0] - 14 or y > b[3] + 14 or y + high < b[1] - 14
            for b in boxes.values()
        ):
            words = [Writing((x, y + 4), "NOTES", 3.4)]
            words += [Writing((x, y + 10 + 6.0 * i), _NOTES[i], 2.8) for i in range(clutter.notes)]
            return [_line(x, y + 5.2, x + 16, y + 5.2, 0.3, plan.strength)], words
    return [], []


def _captions(clutter: Clutter, boxes: dict[View, Box], plan: SheetPlan) -> _Part:
    if not clutter.captions:
        return [], []
    words = []
    for view, (x0, _, x1, y1) in boxes.items():
        below = y1 + min(5.0, plan.gap_mm * 0.3)
        words.append(Writing(((x0 + x1) / 2, below), view.value.upper(), 3.5, middle=True))
    return [], words


def _centrelines(clutter: Clutter, boxes: dict[View, Box], plan: SheetPlan, thin: float) -> _Part:
    strokes: list[Stroke] = []
    if clutter.centrelines:
        past = min(4.0, plan.gap_mm * 0.25)
        for x0, y0, x1, y1 in boxes.values():
            middle = (x0 + x1) / 2
            at, dash = y0 - past, 0
            while at < y1 + past:
                step = (9.0, 1.6, 1.2, 1.6)[dash % 4]
                if dash % 2 == 0:
                    end = min(at + step, y1 + past)
                    strokes.append(_line(middle, at, middle, end, thin, plan.strength * 0.8))
                at, dash = at + step, dash + 1
    return strokes, []


def _dimensions(
    clutter: Clutter, boxes: dict[View, Box], plan: SheetPlan, thin: float, rng: np.random.Generator
) -> _Part:
    """Overall sizes on the free sides of each view, and now and then a part size."""
    strokes: list[Stroke] = []
    words: list[Writing] = []
    for box in list(boxes.values())[: clutter.dimensions]:
        for side in ("above", "left"):
            part = _dimension(box, side, 9.0, clutter, plan, thin)
            strokes, words = strokes + part[0], words + part[1]
            if rng.random() < 0.5 and plan.gap_mm > 18:
                a, b = np.sort(rng.uniform(0.1, 0.9, 2))
                if b - a > 0.25:
                    small = _part_of(box, side, float(a), float(b))
                    part = _dimension(small, side, 5.0, clutter, plan, thin)
                    strokes, words = strokes + part[0], words + part[1]
    return strokes, words


def _part_of(box: Box, side: str, a: float, b: float) -> Box:
    x0, y0, x1, y1 = box
    if side == "above":
        return x0 + a * (x1 - x0), y0, x0 + b * (x1 - x0), y1
    return x0, y0 + a * (y1 - y0), x1, y0 + b * (y1 - y0)


def _dimension(
    box: Box, side: str, away: float, clutter: Clutter, plan: SheetPlan, thin: float
) -> _Part:
    away = min(away, plan.gap_mm * 0.4)
    x0, y0, x1, y1 = box
    gap, s = clutter.extension_gap_mm, plan.strength
    size = (x1 - x0 if side == "above" else y1 - y0) / plan.scale
    text = f"{size:.0f}"
    if side == "above":
        y = y0 - away
        strokes = [
            _line(x0, y0 - gap, x0, y - 1.6, thin, s), _line(x1, y0 - gap, x1, y - 1.6, thin, s),
            _line(x0, y, x1, y, thin, s),
        ]  # fmt: skip
        strokes += _arrow((x0, y), (1, 0), clutter, thin, s)
        strokes += _arrow((x1, y), (-1, 0), clutter, thin, s)
        return strokes, [Writing(((x0 + x1) / 2, y - 2.4), text, 2.8, middle=True)]
    x = x0 - away
    strokes = [
        _line(x0 - gap, y0, x - 1.6, y0, thin, s), _line(x0 - gap, y1, x - 1.6, y1, thin, s),
        _line(x, y0, x, y1, thin, s),
    ]  # fmt: skip
    strokes += _arrow((x, y0), (0, 1), clutter, thin, s) + _arrow(
        (x, y1), (0, -1), clutter, thin, s
    )
    return strokes, [Writing((x - 2.4, (y0 + y1) / 2), text, 2.8, 90.0, middle=True)]


def _arrow(
    tip: tuple[float, float], way: tuple[int, int], clutter: Clutter, thin: float, s: float
) -> list[Stroke]:
    """An arrowhead that points against ``way``."""
    t, w = np.array(tip), np.array(way, float)
    across = np.array([-w[1], w[0]])
    if clutter.arrow == "tick":
        return [Stroke(np.stack([t - (w + across) * 1.1, t + (w + across) * 1.1]), thin * 1.6, s)]
    wings = np.stack([t + w * 3.0 + across * 0.55, t, t + w * 3.0 - across * 0.55])
    return [Stroke(wings, thin, s, filled=clutter.arrow == "filled")]


def _leaders(
    clutter: Clutter, boxes: dict[View, Box], plan: SheetPlan, thin: float, rng: np.random.Generator
) -> _Part:
    """A line from a point of the object out to a few words."""
    strokes: list[Stroke] = []
    words: list[Writing] = []
    for box in list(boxes.values())[: clutter.leaders]:
        x0, y0, x1, y1 = box
        start = np.array([x0 + (x1 - x0) * rng.uniform(0.55, 0.8), y0 + (y1 - y0) * 0.35])
        away = min(11.0, plan.gap_mm * 0.42)
        knee = np.array([x1 + away * 0.5, y0 - away * 0.2])
        end = knee + np.array([away * 0.5, 0.0])
        strokes.append(Stroke(np.stack([start, knee, end]), thin, plan.strength))
        words.append(Writing((float(end[0]) + 0.8, float(end[1]) + 1.2), "R3", 2.6))
    return strokes, words


def _projection_lines(
    clutter: Clutter, boxes: dict[View, Box], plan: SheetPlan, thin: float
) -> _Part:
    """Faint construction lines from the front view into its neighbours."""
    if not clutter.projection_lines or View.FRONT not in boxes:
        return [], []
    x0, y0, x1, y1 = boxes[View.FRONT]
    strokes = []
    for other in boxes.values():
        if other[1] == y0 and other[0] > x1:
            strokes += [_line(x1, y, other[0], y, thin, plan.strength * 0.35) for y in (y0, y1)]
        if other[0] == x0 and other[3] < y0:
            strokes += [_line(x, y0, x, other[3], thin, plan.strength * 0.35) for x in (x0, x1)]
    return strokes, []
