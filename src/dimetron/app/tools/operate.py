"""The tool for every operation that is dragged: it shows, does and redoes it by its parameters."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, ClassVar

import numpy as np

from dimetron.app.kit.instrument import Action, Field, Option, Switch
from dimetron.app.tools import aim, pulling
from dimetron.app.tools.base import AXIS_KEYS, BoardEvent, Tool, far_apart
from dimetron.app.tools.bench import Bench
from dimetron.app.work.numbers import Numbers, Wheel, number_words
from dimetron.app.work.step import Step
from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.operation import Operation
from dimetron.mesh.parameters import Drag, Parameter, Sort
from dimetron.render.overlays import Label, Overlay, Strokes

#: So many pixels across count for one more.
_COUNT_PX = 18.0


@dataclass(slots=True)
class Pull:
    """A drag at a point (3,), and the numbers that it has come to."""

    grabbed: Floats
    px: tuple[float, float]
    how: Any
    dragging: bool = False


class Operate(Tool):
    """Drag at the part it is done to, or type its numbers; Escape drops it."""

    operation: ClassVar[Operation]
    #: What its hint says of dragging.
    dragging: ClassVar[str] = "drag, or type how much"

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._pull: Pull | None = None
        self._wheel = Wheel()

    # By dragging.

    def press(self, event: BoardEvent) -> bool:
        point = self._taken(event) if self.operation.takes else self._whole(event)
        if point is None:
            return False
        self.bench.operating.begin(self.operation)
        self._pull = Pull(point, event.px, self._numbers)
        return True

    def _whole(self, event: BoardEvent) -> Floats | None:
        """Where the mesh under the pointer is, which is chosen."""
        hit = aim.mesh_at(self.bench.document, event)
        if hit is None:
            return None
        self.bench.choose((hit.item.id,))
        return hit.point

    def _taken(self, event: BoardEvent) -> Floats | None:
        """Where the part under the pointer is, which is selected, unless it is already: of the
        kind that is selected now, if the operation takes that."""
        takes = self.operation.takes
        kind = self.bench.kind if self.bench.kind in takes else takes[0]
        hit = aim.mesh_at(self.bench.document, event)
        # Edges and vertices at the rim of a mesh are within reach from beside it.
        item = self.bench.chosen_mesh if hit is None else hit.item
        if item is None or not aim.in_reach(self.bench.document, item):
            return None
        part = aim.part_at(self.bench, item, kind, event)
        if part is None:
            return None
        known = item.id in self.bench.chosen and self.bench.kind is kind
        self.bench.choose((item.id,))
        if not known or part.part not in self.bench.selected:
            self.bench.select(kind, np.array([part.part], np.int32))
        return part.point

    def move(self, event: BoardEvent, pressed: bool) -> None:
        pull = self._pull
        if pull is None or not pressed:
            return
        pull.dragging = pull.dragging or far_apart(event.px, pull.px)
        if pull.dragging:
            pull.how = self._dragged(pull, event)
            self.bench.operating.preview(pull.how)

    def _dragged(self, pull: Pull, event: BoardEvent) -> Any:
        values = {p.name: self._driven(p, pull, event) for p in self.operation.driven(pull.how)}
        return replace(pull.how, **values)

    def _driven(self, parameter: Parameter, pull: Pull, event: BoardEvent) -> Any:
        way = self._way(pull)
        if parameter.drag is Drag.ALONG and way is not None:
            value = pulling.along(event, pull.px, pull.grabbed, way)
            if "grid" in self.bench.snaps:
                value = pulling.on_grid(self.bench, event, pull.grabbed, way, value)
        else:
            value = self._across(parameter, pull, event)
        if parameter.sort is Sort.COUNT:
            value = round(value)
        return min(max(value, parameter.low), parameter.high)

    def _across(self, parameter: Parameter, pull: Pull, event: BoardEvent) -> float:
        """So far across the pane: a length as long, a count one more for every so many pixels."""
        if parameter.sort is Sort.COUNT:
            return parameter.default + (event.px[0] - pull.px[0]) / _COUNT_PX
        return pulling.across(event, pull.px, pull.grabbed)

    def _way(self, pull: Pull) -> Floats | None:
        """The direction in which the drag counts, if the operation has one."""
        item = self.bench.chosen_mesh
        if self.operation.way is None or item is None:
            return None
        mesh = self.bench.committed.mesh(item.id).mesh
        axis = self._axis_parameter()
        parts = self.operation.parts(mesh, self.bench.part)
        given = {} if axis is None else {axis.name: getattr(pull.how, axis.name)}
        return self.operation.way(mesh, parts, **given)

    def release(self, event: BoardEvent) -> None:
        pull, self._pull = self._pull, None
        if pull is not None and pull.dragging and not self._is_nothing(pull.how):
            self.bench.operating.finish(pull.how)
        elif pull is not None:
            self.bench.operating.abandon()

    def _is_nothing(self, how: Any) -> bool:
        """Whether the drag led back to where nothing is done."""
        return abs(float(getattr(how, self.operation.driven(how)[0].name))) < 1e-9

    def abandon(self) -> bool:
        active, self._pull = self._pull is not None, None
        if active:
            self.bench.operating.abandon()
        return active

    def key(self, key: str, event: BoardEvent | None) -> bool:
        """X, Y and Z keep to an axis, if the operation has a say in it."""
        axis = self._axis_parameter()
        if axis is None or key not in AXIS_KEYS:
            return False
        now = self._pull.how if self._pull is not None else self._numbers
        to = axis.default if getattr(now, axis.name) == key else key
        changed = replace(now, **{axis.name: to})
        self.bench.operating.remember(self.operation, changed)
        if self._pull is not None:
            self._pull.how = changed
            if event is not None:
                self.move(event, pressed=True)
        self.bench.refresh()
        return True

    def wheel(self, notches: float, event: BoardEvent) -> bool:
        """One segment more or less, where it has segments."""
        pull = self._pull
        changed = pull and self._wheel.turned(self.operation.parameters, pull.how, notches)
        if pull is None or changed is None:
            return False
        self.bench.operating.remember(self.operation, changed)
        pull.how = changed
        self.move(event, pressed=True)
        return True

    def _axis_parameter(self) -> Parameter | None:
        """The choice among axes, if there is one."""
        choices = (p for p in self.operation.parameters if p.sort is Sort.CHOICE)
        return next((p for p in choices if set("xyz") <= dict(p.choices).keys()), None)

    # By typing.

    @property
    def _numbers(self) -> Any:
        return self.bench.operating.numbers(self.operation)

    def _step(self) -> Step | None:
        """The step it made, while its numbers are open."""
        step = self.bench.operating.step
        return step if step is not None and step.task.operation is self.operation else None

    def _shown(self) -> Numbers | None:
        """What it will be done with; once it is done, the slip has the numbers."""
        if self._pull is None and self._step() is not None:
            return None
        how = self._numbers if self._pull is None else self._pull.how
        return Numbers(self.operation.parameters, how, self._take)

    def _take(self, how: Any) -> None:
        self.bench.operating.remember(self.operation, how)
        if self._has_parts():
            self.bench.operating.do(self.operation, how)
        self.bench.refresh()

    def _has_parts(self) -> bool:
        item = self.bench.chosen_mesh
        if item is None:
            return False
        try:
            self.operation.parts(item.mesh, self.bench.part)
        except MeshError:
            return False
        return True

    def fields(self) -> Sequence[Field]:
        shown = self._shown()
        return () if shown is None else shown.fields()

    def options(self) -> Sequence[Option]:
        shown = self._shown()
        if shown is None:
            return ()

        def choosing(name: str) -> Any:
            def choose(value: str) -> None:
                how = replace(self._numbers, **{name: value})
                self.bench.operating.remember(self.operation, how)
                self.bench.refresh()

            return choose

        # Chosen beforehand, it waits for the drag.
        names = [p.name for p in self.operation.parameters if p.sort is Sort.CHOICE]
        return [replace(o, choose=choosing(n)) for o, n in zip(shown.options(), names, strict=True)]

    def switches(self) -> Sequence[Switch]:
        shown = self._shown()
        return () if shown is None else shown.switches()

    def actions(self) -> Sequence[Action]:
        if self._shown() is None or self._pull is not None or not self._has_parts():
            return ()

        def run() -> None:
            self.bench.operating.do(self.operation, self._numbers)

        return (Action("do", self.operation.title, run, "Do it with these numbers", main=True),)

    def overlays(self) -> Sequence[Overlay]:
        pull = self._pull
        if pull is None or not pull.dragging:
            return ()
        driven = self.operation.driven(pull.how)[0]
        words = number_words((driven,), pull.how, self.unit())[0]
        way = self._way(pull)
        if way is None or driven.drag is not Drag.ALONG:
            return (Label(pull.grabbed, words, shift=(14.0, -12.0)),)
        ends = np.stack([pull.grabbed, pull.grabbed + way * float(getattr(pull.how, driven.name))])
        return (Strokes(ends, width=1.6), Label(ends[1], words))


def tool_for(operation: Operation, kind: type[Operate] = Operate) -> type[Operate]:
    """The tool of a kind that does an operation."""
    words = {
        "operation": operation,
        "name": operation.name,
        "title": operation.title,
        "icon": operation.icon,
        "shortcut": operation.key,
        "family": operation.family.name,
        "hint": f"{operation.sentence.removesuffix('.')}: {kind.dragging}.",
        "__doc__": operation.sentence,
        "__module__": __name__,
    }
    return type(f"Operate_{operation.name}", (kind,), words)
