"""What is drawn on a picture, traced without a hand: all of it, or the outermost outline."""

from __future__ import annotations

from collections.abc import Callable

from dimetron.imaging.pyramid import Pyramid
from dimetron.outlines.onink import off_ink
from dimetron.outlines.path import Floats
from dimetron.outlines.silhouette import silhouette
from dimetron.outlines.trace import LEAST_MISS, Traced, trace

OUTERMOST = "outermost"


def traced_by_itself(
    pyramid: Pyramid,
    line: str,
    miss: float,
    progress: Callable[[float], None] = lambda share: None,
    within: Floats | None = None,
) -> tuple[Traced, ...]:
    """Outlines in the picture's pixels, within ``miss`` of them: ``line`` as in ``trace``, or
    "outermost"; within: only of what lies in a polygon (n, 2) of it. Raises OutlineError, and what
    ``progress`` raises to end it."""
    miss = max(miss, LEAST_MISS)
    if line != OUTERMOST:
        return trace(pyramid.levels[0], pyramid.medium, line, miss, progress, within)
    progress(0.0)
    found = []
    for path in silhouette(pyramid, miss, within):
        off = off_ink(pyramid, path)
        found.append(Traced(path, off.mean, off.most))
        progress(0.5)
    return tuple(found)
