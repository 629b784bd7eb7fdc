"""A view at a scale over pages that overlap, with marks to join them and a ruler to check by."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from PIL import Image

from dimetron.formats.handover import ExportError
from dimetron.formats.paper.seen import Laid, SeenView, Stroke
from dimetron.mesh.arrays import Floats

#: Papers by name: width and height upright, mm (ISO 216; ANSI/ASME Y14.1).
PAPERS: dict[str, tuple[float, float]] = {
    "a4": (210.0, 297.0),
    "a3": (297.0, 420.0),
    "a2": (420.0, 594.0),
    "a1": (594.0, 841.0),
    "a0": (841.0, 1189.0),
    "letter": (215.9, 279.4),
    "tabloid": (279.4, 431.8),
}
#: Room for the words and the ruler at the foot of each page, mm.
_FOOT = 14.0
#: Nobody joins more pages than this.
MOST_PAGES = 400
_SOFT, _INK = "#8A959B", "#22313B"
#: How large marks are, and how wide their lines, mm; the ruler and its parts.
_CROSS, _FINE = 3.0, 0.15
_RULER, _TICK = 100.0, 10.0


_Window = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class Paper:
    """name: of the paper. scale: mm on paper to a mm of the object. margin: left free all round;
    overlap: what neighbours both show, mm. lying: whether it lies on its side; None for whichever
    takes fewer pages."""

    name: str = "a4"
    scale: float = 1.0
    margin: float = 10.0
    overlap: float = 10.0
    lying: bool | None = None


@dataclass(frozen=True, slots=True)
class Words:
    """Words at a place, mm from the page's lower left; size: in points."""

    text: str
    at: tuple[float, float]
    size: float = 8.0


@dataclass(frozen=True, eq=False)
class Page:
    """size: of the paper, mm. window: left, low, wide and high of what is shown of the view, mm
    from the page's lower left; pictures and strokes lie within it, marks and words anywhere."""

    size: tuple[float, float]
    window: _Window
    pictures: tuple[Laid, ...]
    strokes: tuple[Stroke, ...]
    marks: tuple[Stroke, ...]
    words: tuple[Words, ...]


def pages(seen: SeenView, paper: Paper) -> list[Page]:
    """The pages of a view, row by row from its top left. Raises ExportError if it shows nothing, or
    the paper is too small for it."""
    box = seen.box
    if box is None:
        raise ExportError(f"Nothing is seen in {seen.title}; show a drawing or a mesh there.")
    if not math.isfinite(paper.scale) or paper.scale <= 0:
        raise ExportError("The scale must be more than nothing.")
    grid = _grid(box * paper.scale, paper)
    if grid.count > MOST_PAGES:
        raise ExportError(
            f"{seen.title} would take {grid.count} pages; print it smaller, or on larger paper."
        )
    return [
        _page(seen, paper, grid, row, column)
        for row in range(grid.rows)
        for column in range(grid.columns)
    ]


@dataclass(frozen=True, eq=False)
class _Grid:
    """size: of the paper; room: wide and high of each window; step: from one window to the next;
    corner: the first window's top left in the scaled plane."""

    size: tuple[float, float]
    room: Floats
    step: Floats
    rows: int
    columns: int
    corner: Floats

    @property
    def count(self) -> int:
        return self.rows * self.columns

    def low(self, row: int, column: int) -> Floats:
        """(2,) a window's lower left in the scaled plane."""
        x = self.corner[0] + column * self.step[0]
        return np.array([x, self.corner[1] - row * self.step[1] - self.room[1]])


def _grid(box: Floats, paper: Paper) -> _Grid:
    wide, high = PAPERS[paper.name]
    upright = _laid_out(box, paper, (wide, high))
    lying = _laid_out(box, paper, (high, wide))
    if paper.lying is not None:
        found = lying if paper.lying else upright
    else:
        both = [grid for grid in (upright, lying) if grid is not None]
        found = min(both, key=lambda grid: grid.count) if both else None
    if found is None:
        raise ExportError(
            f"{paper.name.upper()} leaves no room within its margins; take larger paper, or a "
            "smaller margin or overlap."
        )
    return found


def _laid_out(box: Floats, paper: Paper, size: tuple[float, float]) -> _Grid | None:
    room = np.array(size) - 2 * paper.margin - np.array([0.0, _FOOT])
    step = room - paper.overlap
    if (step < paper.overlap).any() or (step <= 0).any():
        return None
    extent = box[1] - box[0]
    columns, rows = (
        max(1, math.ceil((float(side) - paper.overlap) / float(by) - 1e-9))
        for side, by in zip(extent, step, strict=True)
    )
    whole = room + step * (np.array([columns, rows]) - 1)
    left = (box[0] + box[1] - whole) / 2
    return _Grid(size, room, step, rows, columns, np.array([left[0], left[1] + whole[1]]))


def place_name(row: int, column: int) -> str:
    """What a page is called among those of its view: B1 is the first of the second row."""
    return f"{_letters(row)}{column + 1}"


def _letters(row: int) -> str:
    found = ""
    row += 1
    while row:
        row, rest = divmod(row - 1, 26)
        found = chr(ord("A") + rest) + found
    return found


def _page(seen: SeenView, paper: Paper, grid: _Grid, row: int, column: int) -> Page:
    low = grid.low(row, column)
    margin = np.array([paper.margin, paper.margin + _FOOT])

    def put(points: Floats) -> Floats:
        return np.asarray(points * paper.scale - low + margin)

    wide, high = map(float, grid.room)
    window = float(margin[0]), float(margin[1]), wide, high
    ruler, said = _ruler(paper)
    scale = f"1 : {1 / paper.scale:g}"
    where = f"{place_name(row, column)} of {place_name(grid.rows - 1, grid.columns - 1)}"
    words = [
        Words(f"{seen.title} · {scale} · {where}", (paper.margin, paper.margin + 7.5), 9),
        *said,
    ]
    marks = [*_frame(window), *ruler]
    for way, text in _neighbours(grid, row, column):
        mark, word = _joint(window, paper.overlap, way, text)
        marks += mark
        words.append(word)
    return Page(
        grid.size,
        window,
        tuple(_pictures(seen, put, window)),
        tuple(Stroke(put(s.points), s.colour, s.width) for s in seen.strokes),
        tuple(marks),
        tuple(words),
    )


def _pictures(seen: SeenView, put: Callable[[Floats], Floats], window: _Window) -> Iterator[Laid]:
    """The parts of pictures that a window shows."""
    for one in seen.pictures:
        part = _cropped(Laid(one.picture, put(one.corners)), window)
        if part is not None:
            yield part


def _cropped(one: Laid, window: _Window) -> Laid | None:
    """The part of a picture that a window needs; None if that is nothing."""
    left, low, wide, high = window
    a, b, d = one.corners
    w, h = one.picture.size
    # From the page to the picture's pixels.
    back = np.linalg.inv(np.stack([(b - a) / w, (d - a) / h], axis=1))
    corners = np.array(
        [[left, low], [left + wide, low], [left, low + high], [left + wide, low + high]]
    )
    px = (corners - a) @ back.T
    x0, y0 = np.maximum(np.floor(px.min(axis=0)), 0).astype(int)
    x1, y1 = np.minimum(np.ceil(px.max(axis=0)), (w, h)).astype(int)
    if x1 <= x0 or y1 <= y0:
        return None
    part: Image.Image = one.picture.crop((int(x0), int(y0), int(x1), int(y1)))
    at = np.array([[x0, y0], [x1, y0], [x0, y1]])
    return Laid(part, a + at[:, :1] / w * (b - a) + at[:, 1:] / h * (d - a))


def _line(x0: float, y0: float, x1: float, y1: float, colour: str = _SOFT) -> Stroke:
    return Stroke(np.array([[x0, y0], [x1, y1]]), colour, _FINE)


def _frame(window: _Window) -> list[Stroke]:
    left, low, wide, high = window
    right, top = left + wide, low + high
    return [
        _line(left, low, right, low),
        _line(right, low, right, top),
        _line(right, top, left, top),
        _line(left, top, left, low),
    ]


def _ruler(paper: Paper) -> tuple[list[Stroke], list[Words]]:
    """100 mm on paper, whatever the scale."""
    x, y = paper.margin, paper.margin + 1.5
    marks = [_line(x, y, x + _RULER, y, _INK)]
    for number in range(int(_RULER / _TICK) + 1):
        tall = 3.0 if number % 5 == 0 else 1.8
        marks.append(_line(x + number * _TICK, y, x + number * _TICK, y + tall, _INK))
    return marks, [Words("100 mm when printed at actual size", (x + _RULER + 3, y), 7)]


#: Sides of a page: where its neighbour is in rows and columns.
_SIDES = (("left", 0, -1), ("right", 0, 1), ("top", -1, 0), ("bottom", 1, 0))


def _neighbours(grid: _Grid, row: int, column: int) -> Iterator[tuple[str, str]]:
    for side, down, across in _SIDES:
        if 0 <= row + down < grid.rows and 0 <= column + across < grid.columns:
            yield side, place_name(row + down, column + across)


def _joint(window: _Window, overlap: float, side: str, text: str) -> tuple[list[Stroke], Words]:
    """Two crosses in the middle of the strip that a neighbour shows as well, where it has them,
    too; and what it is called."""
    left, low, wide, high = window
    upright = side in ("left", "right")
    if upright:
        x = left + overlap / 2 if side == "left" else left + wide - overlap / 2
        spots = [(x, low + high / 4), (x, low + 3 * high / 4)]
        at = x, low + high / 2
    else:
        y = low + high - overlap / 2 if side == "top" else low + overlap / 2
        spots = [(left + wide / 4, y), (left + 3 * wide / 4, y)]
        at = left + wide / 2, y
    marks = []
    for x, y in spots:
        marks.append(_line(x - _CROSS, y, x + _CROSS, y, _INK))
        marks.append(_line(x, y - _CROSS, x, y + _CROSS, _INK))
    return marks, Words(text, at, 7)
