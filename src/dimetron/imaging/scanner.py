"""What a scanner is to Dimetron: the small interface that any of them, real or not, fulfils."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from dimetron.imaging.read import Pixels

#: A preview is scanned this finely.
PREVIEW_DPI = 50


@dataclass(frozen=True, slots=True)
class Paper:
    """The part of the glass that is scanned, width and height in mm."""

    name: str
    size_mm: tuple[float, float]


PAPERS = (
    Paper("A3", (420.0, 297.0)),
    Paper("A4", (210.0, 297.0)),
    Paper("A4 lying", (297.0, 210.0)),
    Paper("Letter", (215.9, 279.4)),
)


@dataclass(frozen=True, slots=True)
class ScanSettings:
    """``original``: which of the scanner's sheets lies on the glass, by its name."""

    original: str
    paper: Paper
    dpi: int
    colour: bool = True

    @property
    def size_px(self) -> tuple[int, int]:
        """(width, height) of what would be scanned."""
        w, h = (max(1, round(side * self.dpi / 25.4)) for side in self.paper.size_mm)
        return w, h


#: Told the rows (h, w, c) scanned so far are complete up to a row; False from it stops the scan.
Progress = Callable[[Pixels, int], bool]


class Scanner(Protocol):
    """A device that makes pictures of sheets."""

    @property
    def name(self) -> str:
        """What people call it."""
        ...

    @property
    def originals(self) -> tuple[tuple[str, str], ...]:
        """What can lie on the glass: (name, title). A real flatbed has one entry."""
        ...

    @property
    def resolutions(self) -> tuple[int, ...]:
        """Dots per inch it can be asked for."""
        ...

    def scan(self, settings: ScanSettings, progress: Progress) -> Pixels | None:
        """Scan to (h, w, c) pixels, c = 1 or 3; None if it was stopped.

        Raises PictureError if the scanner cannot, saying why and what to do.
        """
        ...


def empty_scan(settings: ScanSettings) -> Pixels:
    """(h, w, c) of lid, before the first row is read."""
    w, h = settings.size_px
    return np.full((h, w, 3 if settings.colour else 1), 236, np.uint8)
