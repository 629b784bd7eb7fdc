"""How a drawing may lie against the world: which axes run across and up it, and which way."""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import permutations, product

import numpy as np

from dimetron.geometry.views import View
from dimetron.registration.pose import Pose

#: How unlikely it is for a drawing to lie otherwise than its name says, in logarithms of odds:
#: mirrored is the commonest mistake, a drawing set on its head rarer, a quarter turn rarer still.
_MIRRORED, _TURNED, _QUARTER, _OTHER, _ALSO_MIRRORED = 2.0, 5.0, 6.0, 5.0, 2.0
#: Views from above and below are set on their head or on their side more easily.
_LEVEL_TURNED, _LEVEL_QUARTER = 4.0, 4.5
#: Two drawings that bear each other's names are one mistake.
EXCHANGED = 5.0


@dataclass(frozen=True, slots=True)
class Way:
    """axes: the world axes across and up the straightened drawing; signs: +1 where right and up
    are their positive directions."""

    axes: tuple[int, int]
    signs: tuple[int, int]

    @property
    def depth_axis(self) -> int:
        """The axis that runs into the paper."""
        return 3 - sum(self.axes)


WAYS = tuple(
    Way((a, b), (s, t)) for a, b in permutations(range(3), 2) for s, t in product((1, -1), repeat=2)
)


def _laid(way: Way, view: View) -> np.ndarray | None:
    """(2, 2) from the view's (right, up) to the drawing's; None if it shows other axes."""
    if way.depth_axis != view.depth_axis:
        return None
    laid = np.zeros((2, 2))
    for side in (0, 1):
        other = view.axes.index(way.axes[side])
        laid[side, other] = way.signs[side] * view.signs[other]
    return laid


@dataclass(frozen=True, slots=True)
class Reading:
    """A way as a view, mirrored or not, its right turned counter-clockwise by quarters."""

    view: View
    mirrored: bool
    quarters: int

    @property
    def plain(self) -> bool:
        """Whether the drawing lies as it is called."""
        return not self.mirrored and not self.quarters


def read_as(way: Way, called: View) -> Reading:
    """A way as the view it is called if it shows those axes, else as the view in which it is
    turned least and not mirrored."""
    own = _read(way, called)
    if own is not None:
        return own
    others = [r for r in (_read(way, view) for view in View) if r is not None and not r.mirrored]
    return min(others, key=lambda r: min(r.quarters, 4 - r.quarters))


def _read(way: Way, view: View) -> Reading | None:
    laid = _laid(way, view)
    if laid is None:
        return None
    mirrored = bool(np.linalg.det(laid) < 0)
    if mirrored:
        laid = laid @ np.diag([-1.0, 1.0])
    return Reading(view, mirrored, round(math.atan2(laid[1, 0], laid[0, 0]) / (math.pi / 2)) % 4)


def lying(view: View, present: Pose) -> Reading:
    """How a drawing of a view lies now, by whole quarters: what a person, its sheet or a file said
    of it."""
    return Reading(view, present.mirrored, round(present.rotation_deg / 90.0) % 4)


def number_of(reading: Reading) -> int:
    """The number among ``WAYS`` of a way that is read so."""
    return next(n for n, way in enumerate(WAYS) if _read(way, reading.view) == reading)


def against(reading: Reading, now: Reading) -> tuple[bool, int]:
    """Whether a reading turns a drawing over against how it lies, and by how many quarters."""
    return reading.mirrored != now.mirrored, (reading.quarters - now.quarters) % 4


def plainly(way: Way) -> Reading:
    """A way as the one view in which it is not mirrored."""
    found = (_read(way, view) for view in View)
    return next(r for r in found if r is not None and not r.mirrored)


def cost(way: Way, now: Reading) -> float:
    """How unlikely a way is for a drawing that lies so and bears that name, in logarithms of
    odds."""
    called = now.view
    reading = read_as(way, called)
    mirrored, quarters = against(reading, now)
    total = _MIRRORED if mirrored else 0.0
    if reading.view is not called:
        total += _OTHER
    if quarters % 2:
        total += _QUARTER if called.turned_up else _LEVEL_QUARTER
    elif quarters:
        total += _TURNED if called.turned_up else _LEVEL_TURNED
    return total + (_ALSO_MIRRORED if mirrored and quarters else 0.0)


def pose_of_reading(
    reading: Reading, turn_deg: float, mm_per_px: float, origin_px: tuple[float, float]
) -> Pose:
    """The pose of a drawing that lies so, askew by ``turn_deg``."""
    angle = math.radians(turn_deg + 90.0 * reading.quarters)
    return Pose(
        math.cos(angle) / mm_per_px,
        math.sin(angle) / mm_per_px,
        origin_px,
        reading.mirrored,
    )
