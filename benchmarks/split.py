"""Views on plates of seven styles in any arrangement: found, named in agreement with one another,
wrong though sure; what the ink of drawings cut out by hand tells of their scale; and speed."""

from __future__ import annotations

import io
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from itertools import permutations, product

import cv2
import numpy as np
from PIL import Image

from benchmarks.plates import STYLES, Case, as_saved, case
from benchmarks.timing import fact, in_turn, report, row
from dimetron.demo.plates import DrawnPlate, Piece
from dimetron.geometry.views import View
from dimetron.imaging.frame import UNTOUCHED, Crop, Straightening, drawing_frame, sheet_frame
from dimetron.imaging.prepare import pyramid_on
from dimetron.imaging.pyramid import build
from dimetron.imaging.read import decode
from dimetron.imaging.shape import shape_of
from dimetron.imaging.split.views import FoundView
from dimetron.imaging.tone import PLAIN
from dimetron.registration.byink.proposal import Given, proposed
from dimetron.registration.onsheet.views import sheet_views
from dimetron.registration.problem import Picture

#: Numbers that nothing was tuned on.
FIRST, CASES = 2000, 70
#: A box is right from here on; an outline is even if it and its mirror image differ by less.
_IOU, _EVEN, _CELLS = 0.90, 0.06, 96
#: Room round what is cut out by hand, as a share of it.
_ROOM = 0.05
#: A scale is far off from here on.
_FAR = 0.02


@dataclass
class Tally:
    views: int = 0
    found: int = 0
    agreed: int = 0
    wrong: int = 0
    scales: list[float] = field(default_factory=list)
    silent: int = 0


def outcome(number: int) -> tuple[str, Tally]:
    made = case(number)
    drawn = made.drawn()
    picture = as_saved(drawn, number)
    split = sheet_views(picture)
    right = _matched(drawn, split.found)
    wrong = sum(v.sure for j, v in enumerate(split.found) if j not in right.values())
    tally = Tally(
        len(made.plan.pieces), len(right), _agreed(made, drawn, split.found, right), wrong
    )
    tally.scales, sure = _scales(made, drawn, picture)
    tally.silent = sum(off > _FAR for off in tally.scales) if sure else 0
    return made.style, tally


def _matched(drawn: DrawnPlate, found: tuple[FoundView, ...]) -> dict[int, int]:
    """Numbers of the pieces that were found, and of what was found there."""
    right = {}
    for i, corners in enumerate(drawn.corners):
        ious = [_iou(_box(corners), _box(view.corners)) for view in found]
        if ious and max(ious) >= _IOU:
            right[i] = int(np.argmax(ious))
    return right


def _box(corners: np.ndarray) -> np.ndarray:
    return np.concatenate([corners.min(axis=0), corners.max(axis=0)])


def _iou(a: np.ndarray, b: np.ndarray) -> float:
    shared = np.prod(np.maximum(np.minimum(a[2:], b[2:]) - np.maximum(a[:2], b[:2]), 0))
    return float(shared / (np.prod(a[2:] - a[:2]) + np.prod(b[2:] - b[:2]) - shared))


_TURNS = [
    np.eye(3)[list(axes)] * signs
    for axes in permutations(range(3))
    for signs in product((1, -1), repeat=3)
    if np.linalg.det(np.eye(3)[list(axes)] * signs) > 0
]


def _agreed(
    made: Case, drawn: DrawnPlate, found: tuple[FoundView, ...], right: dict[int, int]
) -> int:
    """How many views are named and turned as those of one object, however that is turned; which way
    round an even outline lies cannot be told and does not count."""
    rows = []
    for i, j in right.items():
        view = found[j].view
        if view is not None:
            piece = made.plan.pieces[i]
            true, told = _ways(piece.view, drawn.corners[i]), _ways(view, found[j].corners)
            rows.append((true, told, _even(made, piece)))
    return max(sum(_alike(t, f @ turn.T, e) for t, f, e in rows) for turn in _TURNS)


def _ways(view: View, corners: np.ndarray) -> np.ndarray:
    """(2, 3) which way in the world the picture's right and up lead."""
    own = np.stack([corners[1] - corners[0], corners[0] - corners[3]])
    own /= np.linalg.norm(own, axis=1, keepdims=True)
    world = np.stack([view.directions.right, view.directions.up])
    return np.round(np.array([[1.0, 0.0], [0.0, -1.0]]) @ own.T @ world)


def _alike(true: np.ndarray, told: np.ndarray, even: tuple[bool, bool]) -> bool:
    return all(
        bool((t == f).all()) or (e and bool((t == -f).all()))
        for t, f, e in zip(true, told, even, strict=True)
    )


def _even(made: Case, piece: Piece) -> tuple[bool, bool]:
    """Whether the outline is even across the picture's right and up, from the solid itself."""
    plane = piece.view.to_plane(made.solid.positions)
    low, high = plane.min(axis=0), plane.max(axis=0)
    cells = np.rint((plane - low) / (high - low) * (4 * _CELLS - 1)).astype(np.int32)
    mask = np.zeros((4 * _CELLS,) * 2, np.uint8)
    for triangle in made.solid.triangles:
        cv2.fillConvexPoly(mask, cells[triangle], 1)
    small = (
        cv2.resize(mask.astype(np.float32), (_CELLS, _CELLS), interpolation=cv2.INTER_AREA) > 0.5
    )
    sides = [_unlike(small, small[:, ::-1]) <= _EVEN, _unlike(small, small[::-1]) <= _EVEN]
    a, b = sides[::-1] if piece.turns % 2 else sides
    return a, b


def _unlike(a: np.ndarray, b: np.ndarray) -> float:
    return float((a ^ b).sum() / max(1, (a | b).sum()))


def _scales(made: Case, drawn: DrawnPlate, picture: Image.Image) -> tuple[list[float], bool]:
    """By how much the ink of drawings, cut out by hand and called rightly, misses their scale to
    one another, and whether that is called sure."""
    page = build(picture)
    sheet = sheet_frame(picture.size, UNTOUCHED)
    pictures, shapes = [], {}
    for number, (piece, corners) in enumerate(zip(made.plan.pieces, drawn.corners, strict=True)):
        x0, y0, x1, y1 = _box(corners)
        room = _ROOM * max(x1 - x0, y1 - y0)
        left, top = max(0.0, np.floor(x0 - room)), max(0.0, np.floor(y0 - room))
        w, h = (
            min(picture.size[0], np.ceil(x1 + room)) - left,
            min(picture.size[1], np.ceil(y1 + room)) - top,
        )
        frame = drawing_frame(sheet, Crop(left, top, w, h), Straightening(turns=-piece.turns % 4))
        shape = shape_of(pyramid_on(page, frame, PLAIN))
        if shape is not None:
            shapes[f"p{number}"] = shape
        pictures.append(Picture(f"p{number}", piece.view.value, piece.view))
    found = proposed(pictures, shapes, Given())
    off = [
        np.log(found.poses[f"p{i}"].mm_per_px * piece.px_per_mm)
        for i, piece in enumerate(made.plan.pieces)
        if f"p{i}" in found.poses
    ]
    return [abs(float(o)) for o in np.array(off) - np.median(off)], found.sure


def speed() -> dict[str, object]:
    made = case(FIRST)
    picture = as_saved(made.drawn(), FIRST).resize((4000, 3000))
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=90)
    data = np.frombuffer(out.getvalue(), np.uint8)

    def ours() -> None:
        sheet_views(decode(data.tobytes(), "plate").image)

    def bare() -> None:
        cv2.GaussianBlur(cv2.imdecode(data, cv2.IMREAD_COLOR), (15, 15), 0)

    what = "decode and split a 4000 x 3000 plate, against decode and blur"
    return row(what, *in_turn(ours, bare, 3), "5.0")


def main() -> None:
    tallies = {style: Tally() for style in STYLES}
    with ProcessPoolExecutor(2) as pool:
        for style, own in pool.map(outcome, range(FIRST, FIRST + CASES)):
            total = tallies[style]
            total.views, total.found = total.views + own.views, total.found + own.found
            total.agreed, total.wrong = total.agreed + own.agreed, total.wrong + own.wrong
            total.scales += own.scales
            total.silent += own.silent
    rows = []
    for style, t in tallies.items():
        words = f"{t.found / t.views:.0%}, {t.agreed / t.views:.0%}, {t.wrong / t.views:.0%}"
        rows.append(fact(f"{style}: found, agreed, wrong but sure ({t.views})", words, "95, 90 %"))
    for style, t in tallies.items():
        words = f"{np.median(t.scales):.2%}, {t.silent / t.views:.0%}"
        rows.append(fact(f"{style}: scale by the ink, median; far off but sure", words, "0.5 %, 0"))
    report(*rows, speed())


if __name__ == "__main__":
    main()
