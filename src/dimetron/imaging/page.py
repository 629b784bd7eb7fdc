"""Which page of a file, and how finely it is drawn. A value, light to import."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Page:
    """Which page of a file, from 0, and the resolution a PDF or SVG is drawn at (None: usual)."""

    number: int = 0
    dpi: float | None = None


FIRST = Page()
