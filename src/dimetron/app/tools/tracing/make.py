"""Make a solid of outlines: previewed with typed numbers, and changed while it is chosen."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from dimetron.app.kit.instrument import Action, Field, Option, Switch
from dimetron.app.tools.base import BoardEvent
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.making import Making
from dimetron.app.tools.picking import on_board
from dimetron.app.tools.tracing.cutting import Cutting
from dimetron.app.tools.tracing.grabbed import grabbed
from dimetron.app.tools.tracing.places import Held, PickedPlaces
from dimetron.app.work.numbers import Numbers
from dimetron.document.making import (
    how_made,
    maker_of,
    sources_of,
    with_made,
    with_outline_of,
)
from dimetron.document.outline import Outline
from dimetron.geometry.views import AnyView, View
from dimetron.mesh.solids.stamped import nearest
from dimetron.render.overlays import Overlay


class MakeSolid(Making):
    """Choose outlines and what to make of them; the numbers stay open while it is chosen."""

    of = Outline
    shortcut = "Ctrl+J"
    name, title, icon = "make-solid", "Solids", "cube-plus"
    hint = "Click outlines (Shift adds), choose what to make of them, then Enter."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._cutting = Cutting(bench)
        self._places = PickedPlaces(bench, self._held, self._take, self.length)
        #: That was pointed at last.
        self._view: AnyView = View.FRONT

    def words(self) -> str:
        if self._cutting.asking:
            return "Click the side that is to stay."
        if self._places.on:
            return "Click a place and type what holds there; Del takes the chosen one out."
        if self._made() is not None:
            return "Type other numbers: it is made anew. Click outlines for another one."
        return self.hint

    # What is chosen.

    def _sources(self) -> list[Outline]:
        return self._cutting.outlines()

    # Pointing.

    def press(self, event: BoardEvent) -> bool:
        if event.view is None:
            return False
        if self._cutting.press(event) or self._places.press(event):
            return True
        hit = grabbed(self.bench.committed, event, ())
        if hit is None:
            return self._catch_depth(event)
        # A mesh that is chosen already is what they are to cut.
        ids = self.bench.chosen
        if event.shift:
            chosen = tuple(i for i in ids if i != hit.item.id) if hit.item.id in ids else (
                *ids, hit.item.id
            )  # fmt: skip
        else:
            chosen = (hit.item.id,)
        self.bench.choose(chosen)
        self._show()
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        if event.view is not None:
            self._view = event.view

    def _catch_depth(self, event: BoardEvent) -> bool:
        """A click in another view says how deep outlines are stamped into the chosen mesh, or how
        deep a slab reaches from them."""
        outlines = self._sources()
        view = outlines[0].view if outlines else None
        if not isinstance(view, View) or event.view is None:
            return False
        axis, cut = view.depth_axis, self._cutting.mesh()
        if axis not in event.view.paper_axes or (cut is None and self._maker.name != "slab"):
            return False
        sign = float(view.directions.forward[axis])
        at = sign * float(on_board(self.bench, event).point[axis])
        if cut is not None:
            self._cutting.deep = max(0.0, at - nearest(cut.mesh, view))
            self.bench.refresh()
        elif abs(at - outlines[0].depth) > 1e-9:
            self._reach(at - outlines[0].depth)
        return True

    def _reach(self, depth: float) -> None:
        how = self._how(self._maker)
        both = how.way == "both"
        thick = 2 * abs(depth) if both else abs(depth)
        way = "both" if both else "away" if depth > 0 else "toward"
        self._take(replace(how, thickness=thick, way=way))

    # Making.

    def _make(self) -> None:
        outlines = self._sources()
        doc, made = with_made(self.bench.committed, self._maker, outlines, self._how(self._maker))
        name = doc.mesh(made).name
        # What was picked on this one means nothing on another; the numbers do.
        self._numbers[self._maker.name] = self._held().with_places(())
        self._places.leave()
        self.bench.commit(doc, f"Make {name}")
        self.bench.choose((made,))
        self.bench.refresh()

    def key(self, key: str, event: BoardEvent | None) -> bool:
        if key == "delete" and self._places.on:
            # Nor does it delete the mesh itself while places are picked.
            self._places.drop()
            return True
        if key == "enter" and self._sources():
            self._make()
            return True
        return False

    def abandon(self) -> bool:
        active = self.bench.document is not self.bench.committed
        active = active or self._cutting.asking or self._places.on
        self._cutting.asking = False
        self._places.leave()
        self.bench.cancel()
        return active

    def put_down(self) -> None:
        self._cutting.asking = False
        self._places.leave()
        self.bench.cancel()

    # The panel.

    def _held(self) -> Held:
        item = self._made()
        if item is not None:
            maker = maker_of(item)
            assert maker is not None
            found = sources_of(self.bench.committed, item)
            outlines = [o for o in found if isinstance(o, Outline)]
            return Held(how_made(item), maker.parameters, outlines)
        return Held(self._how(self._maker), self._maker.parameters, self._sources())

    def _shown(self) -> Numbers:
        held = self._held()
        return Numbers(held.parameters, held.how, self._take)

    def options(self) -> Sequence[Option]:
        if self._made() is not None:
            return self._shown().options()

        return (self._maker_option("Make"), *self._shown().options())

    def fields(self) -> Sequence[Field]:
        return (*self._shown().fields(), *self._places.fields(), *self._cutting.fields())

    def switches(self) -> Sequence[Switch]:
        return (*self._shown().switches(), *self._places.switches())

    def actions(self) -> Sequence[Action]:
        item = self._made()
        places = self._places.actions()
        if item is not None:
            hint = "Its outlines do not change it any more"
            return (*places, self._plain(item, "Make it plain", hint), *self._outlining())
        ready = bool(self._sources()) and not self._fault
        hint = f"{self._maker.sentence} (Enter)"
        found = (Action("make", "Make it", self._make, hint, ready, True),)
        return (*places, *found, *self._cutting.actions(), *self._outlining())

    def _outlining(self) -> Sequence[Action]:
        """A mesh back to outlines."""
        item = self.bench.chosen_mesh
        if item is None:
            return ()

        def outline() -> None:
            doc, made = with_outline_of(self.bench.committed, item, self._view)
            self.bench.cancel()
            self.bench.commit(doc, f"Outline of {item.name}")
            self.bench.choose(made)
            self.bench.refresh()

        hint = f"What it looks like in the {self._view.title.lower()} view, as outlines"
        return (Action("outline", "Outline of it", outline, hint),)

    def told(self) -> str:
        item = self._made()
        if item is not None and item.made is not None:
            names = [o.name for id_ in item.made.of if (o := self.bench.document.item(id_))]
            return f"Made of {', '.join(names)}; it follows them."
        lines, cut = self._cutting.lines(), self._cutting.mesh()
        if cut is not None and lines:
            return f"{cut.name} can be cut along {', '.join(line.name for line in lines)}."
        if self._fault and self._sources():
            return self._fault
        names = [outline.name for outline in self._sources()]
        return f"Of {', '.join(names)}." if names else "No outline is chosen."

    def overlays(self) -> Sequence[Overlay]:
        return self._places.overlays()
