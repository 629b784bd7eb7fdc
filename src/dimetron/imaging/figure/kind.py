"""What a drawing consists of."""

from __future__ import annotations

from enum import Enum


class Kind(Enum):
    """Lines, flat fills or shade on a smooth ground, or an object before a busy one. The value is
    what files and people call it."""

    LINES = "lines"
    FILLED = "filled"
    SHADED = "shaded"
    PHOTO = "photo"

    @property
    def areas(self) -> bool:
        """Whether its outline is the edge of areas and not a line."""
        return self is not Kind.LINES
