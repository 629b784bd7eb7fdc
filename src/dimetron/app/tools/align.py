"""Align: edges and middles of pictures, or of their ink, with axes and with each other."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from dimetron.app.kit.instrument import Action, Field, Option
from dimetron.app.tools import aim, inked
from dimetron.app.tools.base import BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.document import aligning, formulas
from dimetron.document.aligning import EDGES, Box
from dimetron.document.model import Document, Drawing
from dimetron.render.overlays import Overlay, Strokes

_EDGES = (
    ("left", "left edge"),
    ("right", "right edge"),
    ("across", "middle across"),
    ("bottom", "lower edge"),
    ("top", "upper edge"),
    ("up", "middle up"),
)
#: What a typed place of an edge counts from. Left and right count outwards, so that a half-width
#: needs no sign.
_FROM = {
    "left": "Out to the left of the centreline",
    "right": "Out to the right of the centreline",
    "across": "Right of the centreline",
    "bottom": "Above the ground",
    "top": "Above the ground",
    "up": "Above the ground",
}


class Align(Tool):
    """Lay edges of drawings level with an axis, a typed place or another drawing."""

    shortcut = "J"
    name, title, icon = "align", "Align", "layout-align-bottom"
    hint = "Click drawings to choose them, Shift adds; then say what is to be level."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._by = "ink"
        self._edge = "bottom"
        self._waiting = False

    def words(self) -> str:
        if self._waiting:
            return f"Click the drawing whose {dict(_EDGES)[self._edge]} the others are to follow."
        return self.hint

    def press(self, event: BoardEvent) -> bool:
        drawing = aim.drawing_at(self.bench.document, event)
        if self._waiting and drawing is not None:
            self._waiting = False
            self._level(drawing.id)
            return True
        if drawing is None:
            if event.view is not None and not event.shift:
                self.bench.choose(())
            return event.view is not None
        chosen = self.bench.chosen
        if not event.shift:
            self.bench.choose((drawing.id,))
        elif drawing.id in chosen:
            self.bench.choose(tuple(i for i in chosen if i != drawing.id))
        else:
            self.bench.choose((*chosen, drawing.id))
        return True

    def abandon(self) -> bool:
        waiting, self._waiting = self._waiting, False
        return waiting

    def _chosen(self) -> list[Drawing]:
        doc = self.bench.document
        return [d for d in doc.planes if d.id in self.bench.chosen and doc.free(d)]

    def _ink(self, ids: Sequence[str]) -> dict[str, Box]:
        """Ink boxes of drawings, as far as they count and are known."""
        if self._by != "ink":
            return {}
        doc = self.bench.committed
        found = {id_: self.bench.ink(doc.drawing(id_)) for id_ in ids}
        return {id_: box for id_, box in found.items() if box is not None}

    def _level(self, like: str) -> None:
        ids = [d.id for d in self._chosen() if d.id != like]
        name = self.bench.committed.drawing(like).name
        try:
            doc = aligning.level_with(
                self.bench.committed, ids, like, self._edge, self._ink([*ids, like])
            )
        except ValueError as error:
            self.bench.warn(str(error))
            return
        self.bench.commit(doc, f"Level with {name}")

    def _put(
        self, edge: str, mm: float, label: str, which: Sequence[Drawing] | None = None
    ) -> None:
        doc: Document = self.bench.committed
        chosen = self._chosen() if which is None else which
        ink = self._ink([d.id for d in chosen])
        for drawing in chosen:
            doc = aligning.put_edge(doc, drawing.id, edge, mm, ink)
        what = chosen[0].name if len(chosen) == 1 else f"{len(chosen)} drawings"
        self.bench.commit(doc, f"{label} {what}")

    def _spread(self, side: int) -> Callable[[], None]:
        def spread() -> None:
            ids = [d.id for d in self._chosen()]
            doc = aligning.distributed(self.bench.committed, ids, side, self._ink(ids))
            self.bench.commit(doc, "Spread out")

        return spread

    # The panel.

    def options(self) -> Sequence[Option]:
        def by(value: str) -> None:
            self._by = value
            self.bench.refresh()

        def edge(value: str) -> None:
            self._edge = value
            self.bench.refresh()

        return (
            Option("Goes by", (("ink", "ink"), ("picture", "whole picture")), self._by, by),
            Option("Edge", _EDGES, self._edge, edge, listed=True),
        )

    def fields(self) -> Sequence[Field]:
        chosen = self._chosen()
        if not chosen:
            return ()
        ink = self._ink([d.id for d in chosen])
        at = aligning.edge_of(self.bench.document, chosen[0], self._edge, ink)
        sign = -1.0 if self._edge == "left" else 1.0

        def enter(mm: float) -> None:
            self._put(self._edge, mm * sign, "Align")

        def follow(text: str) -> None:
            doc = self.bench.committed
            find = formulas.lookup(doc, ink_of=self.bench.ink_of)
            enter(formulas.worked_out(doc, self._edge, text, find))

        hint = "A length, or another drawing’s number such as =front.ink.top"
        return (Field(_FROM[self._edge], at * sign, enter, hint=hint, formula=follow),)

    def actions(self) -> Sequence[Action]:
        count = len(self._chosen())

        def wait() -> None:
            self._waiting = True
            self.bench.refresh()

        def centre() -> None:
            self._put("across", 0.0, "Centre")

        def stand() -> None:
            chosen = self._chosen()
            upright = [d for d in chosen if d.view.turned_up]
            if not upright:
                self.bench.warn(f"{chosen[0].name} does not show the height, so it has no ground.")
                return
            self._put("bottom", 0.0, "Stand on the ground:", upright)

        any_, many = count > 0, count > 2
        return (
            Action(
                "level", "Level with…", wait, "Then click the drawing to follow", any_, main=True
            ),
            Action("centre", "Centre it", centre, "Its middle onto the centreline", any_),
            Action("stand", "Ground it", stand, "Its lower edge onto the ground", any_),
            Action("spread", "Spread across", self._spread(0), "Equal gaps, three or more", many),
            Action("heap", "Spread up", self._spread(1), "Equal gaps, three or more", many),
        )

    def told(self) -> str:
        chosen = self._chosen()
        if chosen:
            by_ink = chosen if self._by == "ink" else ()
            return inked.left_out_words((d, self.bench.inked(d)) for d in by_ink)
        return "Choose a drawing first; what is held cannot be chosen."

    def overlays(self) -> Sequence[Overlay]:
        """The edge that counts, on each chosen drawing."""
        marks: list[Overlay] = []
        chosen = self._chosen()
        ink = self._ink([d.id for d in chosen])
        side, share = EDGES[self._edge]
        for drawing in chosen:
            low, high = aligning.extent_on_paper(self.bench.document, drawing, ink)
            frame = np.array([[low[0], low[1]], [high[0], low[1]], [high[0], high[1]],
                              [low[0], high[1]], [low[0], low[1]]])  # fmt: skip
            view = drawing.view
            marks.append(Strokes(view.to_world(frame), "selection", 1.0, dash=3.0, only=view))
            edge = np.stack([low, high])
            edge[:, side] = low[side] + (high[side] - low[side]) * share
            found = self.bench.inked(drawing) if drawing.id in ink else None
            marks += [] if found is None else inked.left_out_marks(drawing, found)
            marks.append(Strokes(view.to_world(edge), "selection", 2.6, only=view))
        return marks
