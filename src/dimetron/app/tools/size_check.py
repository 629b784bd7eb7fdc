"""Standing checks: how large meshes are to be, and how far apart their points."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.app.kit.instrument import Action, Field, Option
from dimetron.app.tools import aim
from dimetron.app.tools.base import REACH_PX, BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.checks_seen import note_marks, size_marks
from dimetron.document.checks import (
    end_at,
    said_of,
    sized,
    with_distance,
    with_extent_check,
    with_size,
    without_size,
)
from dimetron.document.model import Document, SizeCheck, SizeEnd
from dimetron.geometry.units import format_length
from dimetron.mesh.arrays import Floats
from dimetron.mesh.spots import Spot
from dimetron.render.overlays import Marks, Overlay

_WHAT = (("points", "two points"), ("0", "width"), ("1", "depth"), ("2", "height"))
_ALONG = (("straight", "straight"), ("0", "X"), ("1", "Y"), ("2", "Z"))


@dataclass(frozen=True, slots=True, eq=False)
class _End:
    """Where an end of a distance is (3,): of a landmark, or on a mesh."""

    place: Floats
    landmark: str = ""
    mesh: str = ""
    spot: Spot | None = None


class SizeCheckTool(Tool):
    """Click two points of meshes, or landmarks; or check how wide, deep or tall a mesh is."""

    name, title, icon = "size-check", "Size check", "ruler-measure"
    hint = "Click a place on a mesh or a landmark, then another; type how far apart they are to be."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._what, self._along = "points", "straight"
        self._first: _End | None = None
        self._current = ""

    def press(self, event: BoardEvent) -> bool:
        found = self._found(event)
        if found is None:
            return False
        if self._what != "points":
            self.bench.choose((found.mesh,) if found.mesh else ())
            self.bench.refresh()
            return True
        if self._first is None:
            self._first = found
        else:
            self._add(self._first, found)
            self._first = None
        self.bench.refresh()
        return True

    def _found(self, event: BoardEvent) -> _End | None:
        """The landmark under the pointer, else the vertex, else the place on the surface."""
        for name, place in self.bench.landmarks().items():
            if np.hypot(*(event.camera.project(place) - event.px)) <= REACH_PX:
                return _End(place, name)
        found = aim.spot_at(self.bench, event)
        return None if found is None else _End(found[2], "", found[0].id, found[1])

    def _add(self, first: _End, second: _End) -> None:
        doc, ends = self.bench.committed, []
        for one in (first, second):
            end = SizeEnd(landmark=one.landmark)
            if one.spot is not None:
                doc, end = end_at(doc, one.mesh, one.spot)
            ends.append(end)
        axis = None if self._along == "straight" else int(self._along)
        doc, made = with_distance(doc, ends[0], ends[1], axis, self.bench.landmarks())
        self._commit(doc, made)

    def _commit(self, doc: Document, made: SizeCheck) -> None:
        self._current = made.id
        self.bench.commit(doc, f"Check {made.name}")
        self.bench.refresh()

    def _extent(self) -> None:
        item = self.bench.chosen_mesh
        of = "" if item is None else item.id
        self._commit(*with_extent_check(self.bench.committed, int(self._what), of))

    def _check(self) -> SizeCheck | None:
        """The one that was made last."""
        return next((c for c in self.bench.document.sizes if c.id == self._current), None)

    def abandon(self) -> bool:
        active, self._first = self._first is not None, None
        return active

    def options(self) -> Sequence[Option]:
        def what(value: str) -> None:
            self._what, self._first = value, None
            self.bench.refresh()

        def along(value: str) -> None:
            self._along = value
            self.bench.refresh()

        of = Option("What is checked", _WHAT, self._what, what, listed=True)
        if self._what != "points":
            return (of,)
        return of, Option("Along", _ALONG, self._along, along)

    def fields(self) -> Sequence[Field]:
        check = self._check()
        if check is None:
            return ()

        def entered(name: str) -> Callable[[float], None]:
            def enter(mm: float) -> None:
                doc = with_size(self.bench.committed, check.id, **{name: mm})
                self.bench.commit(doc, f"Check {check.name}")
                self.bench.refresh()

            return enter

        return (
            Field("Wanted", check.mm, entered("mm"), hint="How large it is to be", first=True),
            Field("±", check.tolerance_mm, entered("tolerance_mm"), hint="How far off it may be"),
        )

    def actions(self) -> Sequence[Action]:
        acts = []
        if self._what != "points":
            hint = "Of the chosen mesh, or of all that are shown"
            title = f"Check the {dict(_WHAT)[self._what]}"
            acts.append(Action("add", title, self._extent, hint, main=True))
        check = self._check()
        if check is not None:

            def drop() -> None:
                doc = without_size(self.bench.committed, check.id)
                self.bench.commit(doc, f"No check of {check.name}")
                self.bench.refresh()

            acts.append(Action("drop", "Drop this check", drop, "It is not checked any more"))
        return acts

    def told(self) -> str:
        check, doc = self._check(), self.bench.document
        if check is None:
            count = len(doc.sizes)
            return f"{count} kept; the ledger’s page Sizes lists them." if count else ""
        now = sized(doc, check, self.bench.landmarks())
        if now.mm is None:
            return f"{said_of(doc, check)}: it is gone."
        holds = "holds" if now.holds(check) else "does not hold"
        return f"{said_of(doc, check)}: {format_length(now.mm, doc.unit)}, which {holds}."

    def overlays(self) -> Sequence[Overlay]:
        doc = self.bench.document
        marks = [*size_marks(doc, self.bench.landmarks()), *note_marks(doc)]
        if self._first is not None:
            marks.append(Marks(self._first.place[None], "ring", "selection"))
        return marks
