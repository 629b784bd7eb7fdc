"""What a person said about what is drawn; all else is found."""

from __future__ import annotations

from dataclasses import dataclass

from dimetron.imaging.figure.kind import Kind

#: Red, green and blue, 0 to 255.
Colour = tuple[int, int, int]
#: A sheet holds no more strokes, and a stroke no more points.
MOST_TOUCHES, MOST_POINTS = 2000, 2000


@dataclass(frozen=True, slots=True)
class Touch:
    """One stroke of the brush. points: its way, as shares of the picture's sides; radius: half its
    width, as a share of the root of the picture's area; adds: what it goes over is drawn, else it
    is not."""

    points: tuple[tuple[float, float], ...]
    radius: float
    adds: bool


@dataclass(frozen=True, slots=True)
class Figure:
    """kind: what the picture consists of; light: whether lines are lighter than their ground; both
    None where they are found. guides: colours of lines that are no part of the object. touches:
    later ones count over earlier ones."""

    kind: Kind | None = None
    light: bool | None = None
    guides: tuple[Colour, ...] = ()
    touches: tuple[Touch, ...] = ()


#: All of it as it is found.
AS_FOUND = Figure()
