"""What Tighten would make of a rectangle, worked out ahead and shown before it is used."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import TYPE_CHECKING

from dimetron.app.sheet.desk import Desk
from dimetron.app.sheet.lookup import Lookup
from dimetron.app.sheet.marks import Line, Mark, Words, corners_of
from dimetron.imaging.frame import Crop, Frame

if TYPE_CHECKING:
    from dimetron.imaging.figure.said import Figure
    from dimetron.imaging.pyramid import Pyramid
    from dimetron.imaging.tighten import Tight

#: A rectangle is tight if no edge of it would move by more than this, in pixels.
_SAME = 0.75


def tight_crop(page: Pyramid, figure: Figure, frame: Frame, crop: Crop) -> Tight | None:
    """What it is shrunk to, on a worker."""
    from dimetron.imaging.pyramid import read_as
    from dimetron.imaging.tighten import tightened

    return tightened(read_as(page, figure), frame, crop)


class TightLook:
    """Knows of one rectangle at a time where its ink lies; asks for it when it is first drawn."""

    def __init__(self, desk: Desk) -> None:
        self._desk = desk
        # What cannot be read is told when it is asked for.
        self._lookup: Lookup[Tight | None] = Lookup(desk)

    def look(self, crop: Crop) -> Tight | None:
        """Where the ink of a rectangle of the sheet on the desk lies; None while that is not
        known."""
        sheet, page = self._desk.sheet, self._desk.page
        if sheet is None or page is None:
            return None
        frame = self._desk.document.frame(sheet)
        about = (id(page), sheet.figure, frame.size_px, frame.matrix.tobytes(), crop)
        return self._lookup.ask(about, partial(tight_crop, page, sheet.figure, frame, crop))

    def marks(self, crop: Crop) -> Sequence[Mark]:
        """The ink's box, dashed, where the rectangle is not tight, and what it leaves out."""
        tight = self.look(crop)
        if tight is None:
            return ()
        found: list[Mark] = []
        if _apart(tight.crop, crop) > _SAME:
            found.append(Line(corners_of(tight.crop), "selection", 1.2, dashed=True, closed=True))
        found += [Line(corners_of(part), "warning", 1.4, closed=True) for part in tight.left_out]
        if tight.left_out:
            found.append(Words(corners_of(tight.left_out[0])[0], "left out", "warning"))
        return found

    def words(self, crop: Crop) -> str:
        """That something is left out, if it is."""
        tight = self.look(crop)
        if tight is None or not tight.left_out:
            return ""
        return "Too faint to be ink: Tighten leaves out what is framed in red."


def _apart(a: Crop, b: Crop) -> float:
    pairs = ((a.left, b.left), (a.top, b.top), (a.right, b.right), (a.bottom, b.bottom))
    return max(abs(x - y) for x, y in pairs)
