"""What on a sheet may be a view, wherever it stands."""

from __future__ import annotations

import cv2
import numpy as np

from dimetron.imaging.split import furniture
from dimetron.imaging.split.agree import Agreed
from dimetron.imaging.split.bodies import bodies
from dimetron.imaging.split.candidates import Readings, overlap
from dimetron.imaging.split.level import Bits, LevelSheet
from dimetron.imaging.split.regions import Boxes
from dimetron.imaging.split.uncut import uncut

#: Boxes that share so much of both are of one thing.
_SAME = 0.9
#: Ink as heavy as the object's beyond a box, as a share of that within, is the object's.
_MORE = 0.01
#: Things smaller than this share of the largest, along their longer side, are details.
_SMALL = 0.16
#: Things inside another are views, and it is only what joins them, if they fill this share of it.
_FILLED = 0.3
#: And parts of it if they fill less.
_PARTS = 0.2


def are_details(boxes: list[Boxes]) -> list[bool]:
    """Which boxes are too small beside the largest to be views of the same object."""
    long = [float((box[2:] - box[:2]).max()) for box in boxes]
    return [side <= _SMALL * max(long) for side in long]


def things(level: LevelSheet, read: Readings) -> list[Boxes]:
    """Boxes (4,) of what hangs together on a levelled sheet, the largest first."""
    return list(bodies(read.ink if furniture.has_frame(level.ink) else level.ink))


def are_parts(whole: list[Boxes], boxes: list[Boxes]) -> bool:
    """Whether some boxes are but parts of larger ``things``."""
    for body in whole:
        inner = [b for b in boxes if overlap(body, b) > _SAME]
        if inner and sum(map(_area, inner)) < _PARTS * _area(body):
            return True
    return False


def candidates(read: Readings, whole: list[Boxes]) -> list[Boxes]:
    """Boxes (4,) of what may be views among ``things``, the largest first. Where measures and
    leaders hang on a thing, its box is without them."""
    alone = [Agreed(s.typical, i, i, 1.0, True) for i, s in enumerate(read.spots)]
    without, _ = uncut(alone, read)
    found: list[Boxes] = []
    taken: set[int] = set()
    for body in whole:
        inner = [i for i, b in enumerate(without) if overlap(body, b.box) > _SAME]
        taken.update(inner)
        filled = sum(_area(without[i].box) for i in inner) / _area(body)
        if len(inner) > 1 and filled > _FILLED:
            found += [without[i].box for i in inner]
        elif len(inner) == 1 and not _more(read.bare, body, without[inner[0]].box):
            found.append(without[inner[0]].box)
        else:
            found.append(body)
    found += [b.box for i, b in enumerate(without) if i not in taken]
    return sorted(found, key=lambda b: -_area(b))


def _area(box: Boxes) -> float:
    return float(np.prod(box[2:] - box[:2]))


def _more(heavy: Bits, body: Boxes, box: Boxes) -> bool:
    """Whether a body goes on beyond a box with lines as heavy as those within."""
    inside, all_ = _inked(heavy, box), _inked(heavy, body)
    return all_ - inside > _MORE * inside


def _inked(bits: Bits, box: Boxes) -> int:
    x0, y0, x1, y1 = (max(0, round(float(v))) for v in box)
    return int(cv2.countNonZero(bits[y0:y1, x0:x1])) if x1 > x0 and y1 > y0 else 0
