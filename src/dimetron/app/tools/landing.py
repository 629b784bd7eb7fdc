"""Where what is moved comes to stand: what is snapped to, and ink, in one."""

from __future__ import annotations

from typing import Any, cast

from dimetron.app.tools import snap
from dimetron.app.tools.base import BoardEvent
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.inked import on_ink
from dimetron.app.tools.surface_snap import on_surface
from dimetron.mesh.arrays import Floats, Ints


class _Lent:
    """A bench where vertices and ink are snapped to for this moment."""

    snaps = frozenset({"vertex", "ink"})

    def __init__(self, bench: Bench) -> None:
        self._bench = bench

    def __getattr__(self, name: str) -> Any:
        return getattr(self._bench, name)


def landed(
    bench: Bench,
    event: BoardEvent,
    to: Floats,
    without: tuple[str, Ints] | None = None,
    ink: bool = True,
) -> Floats:
    """The point (3,) that a point goes to: in a flat pane what points snap to, else the ink of the
    drawing there if that counts; in 3D on a mesh. Control, held, lets go of all snapping, and lends
    it where nothing is snapped to. ``without`` names vertices of a mesh that are being moved."""
    if event.ctrl and bench.snaps:
        return to
    if event.ctrl:
        bench = cast(Bench, _Lent(bench))
    if event.view is None:
        return on_surface(bench, event, to, without).point
    found = snap.snap(bench, event, to, without)
    if ink and found.to in ("", "grid") and "ink" in bench.snaps:
        inked = on_ink(bench, event, to)
        if inked is not None:
            return inked
    return found.point
