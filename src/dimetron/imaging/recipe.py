"""How a picture is made from a source: everything that its pixels depend on, as one value."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

from dimetron.imaging.figure.said import AS_FOUND, Figure
from dimetron.imaging.frame import (
    LEVEL,
    UNTOUCHED,
    Crop,
    Flattening,
    Frame,
    Straightening,
    drawing_frame,
    sheet_frame,
)
from dimetron.imaging.page import Page
from dimetron.imaging.tone import PLAIN, Tone


@dataclass(frozen=True, slots=True)
class Recipe:
    """source: the id of the source; size_px: its page's size as decoded; figure: what was said
    about what is drawn on the page."""

    source: str
    page: Page
    size_px: tuple[int, int]
    flattening: Flattening = UNTOUCHED
    crop: Crop | None = None
    straightening: Straightening = LEVEL
    tone: Tone = PLAIN
    figure: Figure = AS_FOUND

    @property
    def raw(self) -> Recipe:
        """The page as it came."""
        return Recipe(self.source, self.page, self.size_px)

    @property
    def plain(self) -> bool:
        """Whether the picture is its file's, only decoded."""
        return self == self.raw

    def toned(self, tone: Tone) -> Recipe:
        """The same picture in another tone."""
        return replace(self, tone=tone)


@lru_cache(maxsize=512)
def _frame(
    size_px: tuple[int, int],
    flattening: Flattening,
    crop: Crop | None,
    straightening: Straightening,
) -> Frame:
    sheet = sheet_frame(size_px, flattening)
    if crop is None and straightening.plain:
        return sheet
    return drawing_frame(sheet, crop, straightening)


def frame_of(recipe: Recipe) -> Frame:
    """The frame of a recipe. Raises FrameError for a preparation without meaning."""
    return _frame(recipe.size_px, recipe.flattening, recipe.crop, recipe.straightening)
