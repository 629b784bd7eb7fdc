"""Which view each box shows, from where it stands round the front view (ISO 128-30)."""

from __future__ import annotations

import numpy as np

from dimetron.geometry.views import Projection, View
from dimetron.imaging.split.agree import Agreed

#: Extents of one object may differ by this share in two views before one of them is doubted.
_EQUAL = 0.045
#: Edges nearer than this are in line, in working pixels.
_IN_LINE_PX = 2.5
#: What stands left, right, above, below the front view in third-angle; sides swap in first-angle.
_THIRD = {"left": View.LEFT, "right": View.RIGHT, "above": View.TOP, "below": View.BOTTOM}
_FIRST = {"left": View.RIGHT, "right": View.LEFT, "above": View.BOTTOM, "below": View.TOP}
_DEPTH_ALONG = {View.TOP: 1, View.BOTTOM: 1, View.LEFT: 0, View.RIGHT: 0}


def named(boxes: list[Agreed], projection: Projection | None) -> tuple[dict[int, View], Projection]:
    """Box number to view, for those that fit the arrangement, and the projection it is read in.

    Without a given projection the reading with a top rather than a bottom view is taken, and
    third-angle where both would do.
    """
    if not boxes:
        return {}, projection or Projection.THIRD_ANGLE
    front = _front(boxes, projection)
    readings = {p: _around(boxes, front, p) for p in Projection}
    if projection is None:
        third, first = (
            set(readings[p].values()) for p in (Projection.THIRD_ANGLE, Projection.FIRST_ANGLE)
        )
        top_in_first = View.TOP in first and View.TOP not in third
        projection = Projection.FIRST_ANGLE if top_in_first else Projection.THIRD_ANGLE
    return readings[projection], projection


def stands_in(boxes: list[Agreed], names: dict[int, View]) -> Projection | None:
    """The projection in which more of the views stand where they are, if it is but one."""
    front = next((i for i, view in names.items() if view is View.FRONT), None)
    if front is None:
        return None
    right = {
        p: sum(names.get(i) is v for i, v in _around(boxes, front, p).items()) for p in Projection
    }
    third, first = right[Projection.THIRD_ANGLE], right[Projection.FIRST_ANGLE]
    if third == first:
        return None
    return Projection.THIRD_ANGLE if third > first else Projection.FIRST_ANGLE


def _front(boxes: list[Agreed], projection: Projection | None) -> int:
    """The box with the most others in its row and column; it has neighbours in both, if any."""
    rows, columns = np.array([b.row for b in boxes]), np.array([b.column for b in boxes])

    def worth(i: int) -> tuple[int, int, int, float]:
        in_row, in_column = int((rows == rows[i]).sum()) - 1, int((columns == columns[i]).sum()) - 1
        sides = _sides(boxes, i)
        return (
            (in_row > 0) + (in_column > 0),
            in_row + in_column,
            # In the middle of a row or column of three rather than at its end.
            ("left" in sides and "right" in sides) + ("above" in sides and "below" in sides),
            _lone_preference(boxes, i, in_row, projection),
        )

    return max(range(len(boxes)), key=worth)


def _lone_preference(
    boxes: list[Agreed], i: int, in_row: int, projection: Projection | None
) -> float:
    """In a single row the front view comes first; in a single column it stands under its top view
    (over it in first-angle)."""
    if in_row:
        return -float(boxes[i].box[0])
    first = projection is Projection.FIRST_ANGLE
    return float(-boxes[i].box[1] if first else boxes[i].box[1])


def _sides(boxes: list[Agreed], front: int) -> dict[str, list[int]]:
    """Numbers of the boxes to each side of a box, nearest first."""
    own = boxes[front]
    found: dict[str, list[int]] = {}
    for i, other in enumerate(boxes):
        if i == front:
            continue
        if other.row == own.row:
            found.setdefault("left" if other.box[0] < own.box[0] else "right", []).append(i)
        elif other.column == own.column:
            found.setdefault("above" if other.box[1] < own.box[1] else "below", []).append(i)
    for side, numbers in found.items():
        axis = 0 if side in ("left", "right") else 1
        numbers.sort(key=lambda i: abs(boxes[i].box[axis] - own.box[axis]))
    return found


def _around(boxes: list[Agreed], front: int, projection: Projection) -> dict[int, View]:
    names = _THIRD if projection is Projection.THIRD_ANGLE else _FIRST
    found = {front: View.FRONT}
    sides = _sides(boxes, front)
    for side, numbers in sides.items():
        if side in ("left", "right") and _is_back(boxes, front, numbers[0], sides):
            if View.BACK not in found.values():
                found[numbers[0]] = View.BACK
            continue
        found[numbers[0]] = names[side]
        # The back view stands beyond one of the side views.
        if side in ("left", "right") and len(numbers) > 1 and View.BACK not in found.values():
            found[numbers[1]] = View.BACK
    return found


def _is_back(boxes: list[Agreed], front: int, beside: int, sides: dict[str, list[int]]) -> bool:
    """Whether the box beside the front view is as wide as it, while the depth is known to be
    another: the back view, with no side view in between."""
    depths = [_size(boxes[sides[s][0]])[1] for s in ("above", "below") if s in sides]
    width, own = _size(boxes[beside])[0], _size(boxes[front])[0]
    if not depths or abs(width / own - 1) > _EQUAL / 2:
        return False
    return abs(width / float(np.median(depths)) - 1) > 1.5 * _EQUAL


def doubts(boxes: list[Agreed], names: dict[int, View]) -> dict[int, str]:
    """Why a named box is not to be trusted, by its number."""
    found: dict[int, str] = {}
    if _unclear(boxes, names):
        return dict.fromkeys(names, "how the views are arranged is not clear")
    for i in names:
        if not boxes[i].level:
            found[i] = "it is not level with its neighbours"
        elif boxes[i].support < 0.5:
            found[i] = "its edges cannot be told"
    depths = {i: _size(boxes[i])[_DEPTH_ALONG[v]] for i, v in names.items() if v in _DEPTH_ALONG}
    widths = {i: _size(boxes[i])[0] for i, v in names.items() if v in (View.FRONT, View.BACK)}
    for sizes, word in ((depths, "depth"), (widths, "width")):
        for i in _odd(sizes):
            found.setdefault(i, f"its {word} differs from the other views’")
    return found


def _unclear(boxes: list[Agreed], names: dict[int, View]) -> bool:
    """Whether something that no name fits is in line with a named view: two views may have been
    read as one, and then every name is in doubt."""
    for i, other in enumerate(boxes):
        if i in names:
            continue
        for j in names:
            edges = np.abs(other.box - boxes[j].box) <= _IN_LINE_PX
            if edges.any() and _size(other)[0] * _size(other)[1] > 0.2 * np.prod(_size(boxes[j])):
                return True
    return False


def _size(box: Agreed) -> tuple[float, float]:
    return float(box.box[2] - box.box[0]), float(box.box[3] - box.box[1])


def _odd(sizes: dict[int, float]) -> list[int]:
    """Those that differ from the middle of all; of two that differ, both."""
    if len(sizes) < 2:
        return []
    values = np.array(list(sizes.values()))
    middle = float(np.median(values))
    return [
        i for i, size in sizes.items() if abs(size / middle - 1) > _EQUAL / (1 + (len(sizes) == 2))
    ]
