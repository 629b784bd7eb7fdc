"""The tool for operations between two stations of an axis: these are dragged on the board, before
and after it is done."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, ClassVar

import numpy as np

from dimetron.app.tools import aim, pulling
from dimetron.app.tools.base import REACH_PX, BoardEvent
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.landing import landed
from dimetron.app.tools.operate import Operate, Pull
from dimetron.app.tools.remembered import Remembered
from dimetron.mesh.arrays import Floats, MeshError, extent
from dimetron.mesh.frames import WORLD
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import Parameter, Sort
from dimetron.mesh.select import Selection, vertices_of
from dimetron.render.overlays import Label, Overlay, Strokes

#: A drag of so many pixels turns by a degree, or doubles what is done so many times.
_PX_A_DEGREE, _PX_A_DOUBLE = 2.0, 140.0
#: Stations are apart by at least this share of the extent.
_APART = 1e-3


@dataclass(slots=True)
class _Held:
    """A station that is dragged; at (3,): where it was taken hold of."""

    station: Parameter
    at: Floats
    px: tuple[float, float]
    before: float


class Span(Operate):
    """Drag the lines of its stations, or across the mesh for how much."""

    dragging: ClassVar[str] = "drag its two stations, or across the mesh"

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._held: _Held | None = None
        self._known: Remembered[Floats | None] = Remembered()

    # What it is done to.

    @property
    def _now(self) -> Any:
        """The numbers that what is shown was done with, or will be."""
        step = self._step()
        if self._pull is not None:
            return self._pull.how
        return self._numbers if step is None else step.how

    def _box(self) -> Floats | None:
        """(2, 3) around what it is done to, as it was before."""
        step, item = self._step(), self.bench.chosen_mesh
        if step is not None:
            mesh, part = step.task.item.mesh, step.task.chosen
        elif item is not None:
            mesh, part = self.bench.committed.mesh(item.id).mesh, self.bench.part
        else:
            return None
        return self._known.of((mesh, part), lambda: self._around(mesh, part))

    def _around(self, mesh: Mesh, part: Selection) -> Floats | None:
        try:
            found = self.operation.parts(mesh, part)
        except MeshError:
            return None
        vertices = vertices_of(mesh, found.kind, found.indices)
        return extent(mesh.positions[vertices]) if len(vertices) else None

    def _axis(self) -> int:
        parameter = self._axis_parameter()
        assert parameter is not None
        return "xyz".index(getattr(self._now, parameter.name))

    def _frame(self, box: Floats, station: Parameter) -> Floats:
        """(5, 3) a station as a closed line around the box."""
        axis = self._axis()
        a, b = (axis + 1) % 3, (axis + 2) % 3
        around = np.empty((5, 3))
        around[:, a] = box[[0, 1, 1, 0, 0], a]
        around[:, b] = box[[0, 0, 1, 1, 0], b]
        share = float(getattr(self._now, station.name))
        around[:, axis] = box[0, axis] + share * (box[1, axis] - box[0, axis])
        return around

    # By dragging.

    def press(self, event: BoardEvent) -> bool:
        self._held = self._station_at(event)
        return self._held is not None or super().press(event)

    def _taken(self, event: BoardEvent) -> Floats | None:
        """All that is selected, wherever it is taken hold of."""
        return self._whole(event)

    def _station_at(self, event: BoardEvent) -> _Held | None:
        box = self._box()
        if box is None:
            return None
        best, found = REACH_PX, None
        for station in self.operation.stations:
            line = self._frame(box, station)
            away = aim.away_from_path(event.camera.project(line), np.array(event.px))
            if away < best:
                share = float(getattr(self._now, station.name))
                best, found = away, _Held(station, line[:4].mean(axis=0), event.px, share)
        return found

    def move(self, event: BoardEvent, pressed: bool) -> None:
        held, box = self._held, self._box()
        if held is None or box is None or not pressed:
            super().move(event, pressed)
            return
        axis = self._axis()
        long = float(box[1, axis] - box[0, axis])
        if long < 1e-9:
            return
        to = held.at + WORLD[axis] * pulling.along(event, held.px, held.at, WORLD[axis])
        # In 3D the middle of the line lies within the mesh, not where one sees its surface.
        place = to if event.view is None else landed(self.bench, event, to)
        share = held.before + float(place[axis] - held.at[axis]) / long
        self._change(replace(self._now, **{held.station.name: self._apart(held.station, share)}))

    def _apart(self, station: Parameter, share: float) -> float:
        """The first one stays before the second."""
        first, second = self.operation.stations
        if station is first:
            share = min(share, float(getattr(self._now, second.name)) - _APART)
        else:
            share = max(share, float(getattr(self._now, first.name)) + _APART)
        return min(max(share, station.low), station.high)

    def _change(self, how: Any) -> None:
        """Done anew, if it is done already."""
        if self._step() is not None:
            self.bench.operating.change(how)
        else:
            self.bench.operating.remember(self.operation, how)
        self.bench.refresh()

    def release(self, event: BoardEvent) -> None:
        if self._held is not None:
            self._held = None
            return
        super().release(event)

    def abandon(self) -> bool:
        held, self._held = self._held, None
        if held is not None:
            self._change(replace(self._now, **{held.station.name: held.before}))
        return super().abandon() or held is not None

    def _across(self, parameter: Parameter, pull: Pull, event: BoardEvent) -> float:
        by = event.px[0] - pull.px[0]
        if parameter.sort is Sort.ANGLE:
            return by / _PX_A_DEGREE
        return float(2.0 ** (by / _PX_A_DOUBLE))

    def _is_nothing(self, how: Any) -> bool:
        driven = self.operation.dragged[0]
        rest = 0.0 if driven.sort is Sort.ANGLE else 1.0
        return abs(float(getattr(how, driven.name)) - rest) < 1e-9

    # What shows it.

    def overlays(self) -> Sequence[Overlay]:
        box = self._box()
        marks = list(super().overlays())
        if box is None:
            return marks
        for number, station in enumerate(self.operation.stations, 1):
            line = self._frame(box, station)
            held = self._held is not None and self._held.station is station
            marks.append(Strokes(line, "accent", 2.2 if held else 1.4))
            # At corners of their own, so that both can be read where one lies behind the other.
            marks.append(Label(line[number], station.title, "accent", shift=(6.0, -6.0)))
        return marks
