"""What is read of a page, to be looked at over it: where ink or areas are, and with which inks."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.imaging.figure.inks import Ink, with_guides
from dimetron.imaging.figure.said import Figure
from dimetron.imaging.flat import Matrix, inverse
from dimetron.imaging.frame import Frame
from dimetron.imaging.ink import drawn, ink_level
from dimetron.imaging.medium import Medium
from dimetron.imaging.prepare import warped
from dimetron.imaging.pyramid import Pyramid, inks_on, read_as
from dimetron.imaging.read import Pixels

#: It is looked at on a page of about this size.
_LOOK_PX = 1600
#: What stands out half as much as ink must is shown half.
_SOFT = 0.5


@dataclass(frozen=True, slots=True, eq=False)
class Reading:
    """inks: of a picture of lines, the commonest first. mask (h, w, 1) 0 to 255: how surely each
    part of the page is drawn, ``step`` pixels of the page a cell."""

    medium: Medium
    inks: tuple[Ink, ...]
    mask: Pixels
    step: float

    def seen(
        self, frame: Frame, corner: tuple[float, float], px_per_px: float, size: tuple[int, int]
    ) -> Pixels:
        """(h, w, 1) of ``size`` (width, height): the mask where it is seen of a prepared picture;
        corner, px_per_px: as for ``prepare.preview``."""
        (x, y), wide = corner, 1 / px_per_px
        view: Matrix = np.array([[wide, 0, x], [0, wide, y], [0, 0, 1.0]])
        return warped(self.mask, inverse(frame.matrix) @ view, size, frame, self.step)


def reading_of(page: Pyramid, figure: Figure) -> Reading:
    """Read a page as it came, as far as ``figure`` does not say what is drawn on it."""
    medium = read_as(page, figure).medium
    image = next((i for i in page.levels if max(i.size) <= _LOOK_PX), page.levels[-1])
    dark = drawn(image, medium)
    level = max(ink_level(dark, medium), 1e-3)
    sure = np.clip((dark / level - _SOFT) / (1 - _SOFT), 0.0, 1.0)
    mask = np.rint(sure * 255).astype(np.uint8)[..., None]
    inks = () if medium.kind.areas else with_guides(inks_on(page), figure.guides)
    return Reading(medium, inks, mask, page.size_px[0] / image.size[0])
