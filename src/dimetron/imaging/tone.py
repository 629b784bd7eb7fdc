"""Tone: what is done to the light, contrast and colour of a drawing. A value; ``toning`` applies
it."""

from __future__ import annotations

import math
from dataclasses import dataclass

Colour = tuple[int, int, int]


class ToneError(ValueError):
    """A tone setting is out of its range; the message says what is accepted."""


@dataclass(frozen=True, slots=True)
class Tone:
    """brightness and contrast: −1 to 1; gamma: 0.2 to 5, one for each of red, green, blue.

    paper, ink: colours that become white and black. even: take out uneven light. despeckle:
    specks up to so many pixels go. tint: the colour of the lines. lift: paper becomes clear.
    """

    grey: bool = False
    brightness: float = 0.0
    contrast: float = 0.0
    gamma: tuple[float, float, float] = (1.0, 1.0, 1.0)
    invert: bool = False
    paper: Colour | None = None
    ink: Colour | None = None
    even: bool = False
    despeckle: int = 0
    tint: Colour | None = None
    lift: bool = False

    def __post_init__(self) -> None:
        numbers = (self.brightness, self.contrast, *self.gamma)
        if not all(math.isfinite(n) for n in numbers):
            raise ToneError("Tone values must be finite numbers.")
        if not (-1 <= self.brightness <= 1 and -1 <= self.contrast <= 1):
            raise ToneError("Brightness and contrast go from −100 to 100 %.")
        if not all(0.2 <= g <= 5 for g in self.gamma):
            raise ToneError("Gamma goes from 0.2 to 5.")
        if not 0 <= self.despeckle <= 50:
            raise ToneError("Specks of up to 50 pixels can be taken out.")

    @property
    def plain(self) -> bool:
        """Whether it changes nothing."""
        return self == PLAIN


PLAIN = Tone()
