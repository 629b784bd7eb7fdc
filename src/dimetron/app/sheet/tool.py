"""What a sheet tool is, what it sees, and what it is fed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from dimetron.app.kit.instrument import Instrument
from dimetron.app.sheet.desk import Desk
from dimetron.app.sheet.marks import Mark
from dimetron.imaging.flat import Points
from dimetron.imaging.frame import Frame

if TYPE_CHECKING:
    from dimetron.imaging.read import Pixels
    from dimetron.imaging.reading import Reading as Veil

#: How near the pointer must be to a handle, in view pixels.
REACH_PX = 8.0
#: A press that moves less than this is a click, in view pixels.
CLICK_PX = 4.0

Point = tuple[float, float]


@dataclass(frozen=True, slots=True)
class SheetEvent:
    """A pointer event: ``at`` in pixels of the prepared picture, which are ``px`` view pixels
    wide."""

    at: Point
    px: float
    shift: bool = False
    ctrl: bool = False

    @property
    def reach(self) -> float:
        """How near something must be, in prepared pixels."""
        return REACH_PX / self.px

    def near(self, point: Sequence[float] | Points) -> bool:
        away = np.hypot(self.at[0] - point[0], self.at[1] - point[1])
        return bool(away <= self.reach)


class SheetTool(Instrument):
    """Idle until pressed. Subclasses override what they need."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk

    def refuse(self, words: str) -> None:
        self.desk.session.refuse(words)

    def about(self) -> object:
        item, drawing = self.desk.item, self.desk.chosen
        return item and item.id, drawing and drawing.id

    def press(self, event: SheetEvent) -> bool:
        """Left button down. False leaves the gesture to the view, which pans."""
        return False

    def move(self, event: SheetEvent, pressed: bool) -> None:
        """The pointer moved, with the left button down or not."""

    def release(self, event: SheetEvent) -> None:
        """Left button up after a press that was taken."""

    def key(self, key: str, event: SheetEvent | None) -> bool:
        """An arrow key by its name, or "enter"; False if it means nothing to the tool."""
        return False

    def marks(self) -> Sequence[Mark]:
        return ()

    def cursor(self, event: SheetEvent) -> str:
        """ "cross", "move", "across", "down", "slant", "back-slant" or "" for the usual one."""
        return ""

    def frame(self) -> Frame | None:
        """Another frame to show while this tool is in hand (the photo as it came)."""
        return None

    def veil(self) -> Veil | None:
        """What of the sheet is read as drawn; the rest is shown pale."""
        return None

    def glass(self) -> Pixels | None:
        """Pixels (h, w, c) to show instead of the sheet: what a scanner sees."""
        return None
