"""Guides: lines at typed places along the axes, and circles, that points snap to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from dimetron.app.kit.instrument import Field, Option
from dimetron.app.tools import aim, picking
from dimetron.app.tools.base import BoardEvent, Tool, far_apart
from dimetron.app.tools.bench import Bench
from dimetron.document.guide import Guide, with_guide
from dimetron.document.kind import moved
from dimetron.document.model import with_item
from dimetron.geometry.views import AXIS_NAMES
from dimetron.mesh.arrays import Floats

_KINDS = (("level", "level"), ("plumb", "plumb"), ("circle", "circle"))


class Guides(Tool):
    """Click where a guide is to lie; drag one to move it, or type where it lies."""

    shortcut = "Ctrl+Shift+G"
    name, title, icon = "guides", "Guides", "guides"
    hint = "Click where a guide is to lie, or drag one; then type its exact place."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._kind = "level"
        self._from: tuple[BoardEvent, Floats] | None = None
        self._held: Guide | None = None

    def press(self, event: BoardEvent) -> bool:
        if event.view is None:
            return False
        near = aim.lined_at(self.bench.document, event)
        point = event.view.to_plane(picking.on_board(self.bench, event).point)
        if isinstance(near, Guide):
            self.bench.choose((near.id,))
            self._held, self._from = near, (event, event.view.to_plane(event.point))
            return True
        self._held = None
        if self._kind == "circle":
            self._from = event, point
            return True
        side = 1 if self._kind == "level" else 0
        axis = event.view.paper_axes[side]
        if axis is None:
            self.bench.warn("Guide lines lie square to the axes; this view shows none that way.")
            return True
        at = float(point[side]) * event.view.paper_signs[side]
        doc, made = with_guide(self.bench.committed, Guide("", "", axis, at))
        self.bench.commit(doc, f"Put a guide at {AXIS_NAMES[axis]} {self.length(at)}")
        self.bench.choose((made,))
        self.bench.refresh()
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        if self._from is None or not pressed or event.view != self._from[0].view:
            return
        if event.view is None or not far_apart(event.px, self._from[0].px):
            return
        doc = self.bench.committed
        if self._held is not None:
            by = event.view.to_plane(picking.on_board(self.bench, event).point) - self._from[1]
            self.bench.preview(moved(doc, self._held, by, event.view))
            return
        at = event.view.to_plane(picking.on_board(self.bench, event).point)
        radius = float(np.hypot(*(at - self._from[1])))
        if radius > 0:
            x, y = (float(v) for v in self._from[1])
            circle = Guide("", "", 0, 0.0, radius, (x, y), event.view)
            self.bench.preview(with_guide(doc, circle)[0])

    def release(self, event: BoardEvent) -> None:
        begun, held = self._from, self._held
        self._from = self._held = None
        if begun is None or self.bench.document is self.bench.committed:
            return
        if held is not None:
            self.bench.commit(self.bench.document, f"Move {held.name}")
        else:
            made = self.bench.document.further[-1].id
            self.bench.commit(self.bench.document, "Put a guide circle")
            self.bench.choose((made,))
        self.bench.refresh()

    def abandon(self) -> bool:
        active = self._from is not None
        self._from = self._held = None
        if active:
            self.bench.cancel()
        return active

    # The panel.

    def options(self) -> Sequence[Option]:
        def choose(value: str) -> None:
            self._kind = value
            self.bench.refresh()

        return (Option("Guide", _KINDS, self._kind, choose),)

    def fields(self) -> Sequence[Field]:
        chosen = self.bench.chosen
        item = self.bench.document.item(chosen[0]) if len(chosen) == 1 else None
        if not isinstance(item, Guide):
            return ()

        def change(to: Guide) -> None:
            doc = with_item(
                self.bench.committed, item.id, at=to.at, radius=to.radius, centre=to.centre
            )
            self.bench.commit(doc, f"Put {item.name}")
            self.bench.refresh()

        if not item.radius:
            return (
                Field(
                    f"At {AXIS_NAMES[item.axis]}",
                    item.at,
                    lambda mm: change(replace(item, at=mm)),
                    hint="Where the guide lies",
                ),
            )

        def radius(mm: float) -> None:
            if mm <= 0:
                raise ValueError("The radius must be more than zero.")
            change(replace(item, radius=mm))

        x, y = item.centre
        hint = "Where its middle lies on the paper"
        return (
            Field("Radius", item.radius, radius, hint="Radius of the guide circle"),
            Field("Across", x, lambda mm: change(replace(item, centre=(mm, y))), hint=hint),
            Field(
                "Up", y, lambda mm: change(replace(item, centre=(x, mm))), hint=hint, beside=True
            ),
        )
