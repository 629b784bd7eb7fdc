"""How far the meshes miss the drawings, drawn over the panes."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

import numpy as np

from dimetron.app.board.sight import Sight
from dimetron.app.work.fitting import Fitting
from dimetron.app.work.session import Session
from dimetron.document.fitting import Fit, missed_most
from dimetron.fit.miss import Miss, Off, lengthened
from dimetron.geometry.units import Unit, format_length
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, Mask
from dimetron.render.overlays import Corner, Label, Legend, Marks, Overlay, Segments

#: Whiskers stand so far apart, and shorter ones are not drawn, in pixels.
_APART_PX, _LEAST_PX = 4.0, 0.75
#: The colours of what stands out and of what falls short.
OVER, SHORT = "selection", "warning"
#: That of lines within the outline, which are only off.
INNER = "accent"


def missed_on(
    fitting: Fitting | None, session: Session, sight: Sight, slots: Collection[str]
) -> list[Overlay]:
    """Of what is shown now, in panes by their slots; nothing if nobody tells the miss."""
    if fitting is None:
        return []
    unit = session.unmoved.unit
    marks: list[Overlay] = []
    tints = fitting.tints
    if tints is not None:
        limit = format_length(tints.limit, unit)
        marks.append(Legend(f"{limit} over", f"{limit} short"))
    if fitting.shown:
        fits, times = fitting.fits(), fitting.times
        marks += miss_marks(fits, times, unit, lambda view: sight.scale_of(view, slots))
    return marks


def miss_marks(
    fits: Sequence[Fit], times: float, unit: Unit, scale_of: Callable[[AnyView], float | None]
) -> list[Overlay]:
    """Whiskers from what is drawn to what is modelled, ``times`` as long as they are, the worst
    place, and the figures. scale_of: mm per pixel of the panes that show a view; None if none
    does."""
    marks: list[Overlay] = []
    for one in fits:
        scale = scale_of(one.drawing.view)
        if one.miss is not None and scale is not None:
            marks += _whiskers(one, one.miss, times, scale)
            marks += _worst(one, one.miss, unit)
            marks += _inner(one, times, scale)
    for view in dict.fromkeys(one.drawing.view for one in fits):
        marks.append(_figures([o for o in fits if o.drawing.view == view], unit, view))
    return marks


def _figures(fits: Sequence[Fit], unit: Unit, view: AnyView) -> Corner:
    """Of the drawings of one view: those of the one that is missed the most."""
    found = missed_most(fits)
    if found is None:
        words = "cannot be compared" if all(one.problem for one in fits) else "…"
        return Corner(words, words, view)
    mean, largest = (format_length(v, unit) for v in (found[1].mean, found[1].largest))
    return Corner(f"mean {mean} · largest {largest}", f"largest {largest}", view)


def _whiskers(one: Fit, miss: Miss, times: float, scale: float) -> list[Overlay]:
    view = one.drawing.view
    own, other, size = miss.modelled, miss.drawn, miss.of.size
    parts = [
        _drawn_out(own, own.nearest, own.places, times, scale, size),
        _drawn_out(other, other.places, other.nearest, times, scale, size),
    ]
    ends = np.concatenate([part[0] for part in parts])
    over = np.concatenate([part[1] for part in parts])
    # In front of everything that lies in the view's plane.
    space = view.to_world(ends.reshape(-1, 2)).reshape(-1, 2, 3)
    return [
        Segments(space[rows], role, 1.3, only=view)
        for rows, role in ((over, OVER), (~over, SHORT))
        if rows.any()
    ]


def _inner(one: Fit, times: float, scale: float) -> list[Overlay]:
    """Whiskers of the lines within the outline, from what is drawn to what is modelled."""
    inner = one.inner
    if inner is None or one.miss is None:
        return []
    off = Off(inner.places, inner.nearest, inner.off, inner.weights)
    size = one.miss.of.size
    ends, _ = _drawn_out(off, inner.nearest, inner.places, times, scale, size)
    space = one.drawing.view.to_world(ends.reshape(-1, 2)).reshape(-1, 2, 3)
    return [Segments(space, INNER, 1.0, only=one.drawing.view)] if len(ends) else []


def _drawn_out(
    off: Off, drawn: Floats, modelled: Floats, times: float, scale: float, size: float
) -> tuple[Floats, Mask]:
    """(n, 2, 2) from what is drawn toward what is modelled, and (n,) whether that stands out."""
    spacing = float(np.median(off.weights)) / scale
    every = max(1, round(_APART_PX / max(spacing, 1e-9)))
    rows = np.arange(0, len(off.off), every)
    rows = rows[np.abs(off.off[rows]) * times > _LEAST_PX * scale]
    tips = lengthened(drawn[rows], modelled[rows], times, size)
    ends = np.stack([drawn[rows], tips], axis=1)
    return ends, off.off[rows] > 0


def miss_words(by: float, unit: Unit) -> str:
    """By how much, and which way."""
    return f"{format_length(abs(by), unit)} {'over' if by > 0 else 'short'}"


def _worst(one: Fit, miss: Miss, unit: Unit) -> list[Overlay]:
    view = one.drawing.view
    drawn, _, by = miss.worst
    at, role = view.to_world(drawn), OVER if by > 0 else SHORT
    return [
        Marks(at[None], "ring", role, 7.0, only=view),
        Label(at, miss_words(by, unit), role, (12.0, -12.0), only=view),
    ]
