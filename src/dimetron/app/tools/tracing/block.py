"""Block out: a solid from the drawings' own outlines, with nothing traced."""

from __future__ import annotations

from collections.abc import Sequence

from dimetron.app.kit.instrument import Action, Field, Option
from dimetron.app.tools.base import Tool
from dimetron.app.tools.bench import Bench
from dimetron.document import edits
from dimetron.document.edits import bounds
from dimetron.document.outline import outlines_of
from dimetron.mesh.mesh import Mesh

_FACES = (("quads", "even quads"), ("cut", "as cut"))
#: Quads are this share of the largest extent unless they are typed.
_SHARE = 64


class BlockOut(Tool):
    """The largest solid that the outlines of all shown drawings allow."""

    shortcut = "Ctrl+Shift+B"
    name, title, icon = "block-out", "Block out", "layers-intersect"
    hint = "Make the largest solid that all shown drawings allow."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._faces = "quads"
        self._size: float | None = None

    def _usual(self) -> float:
        box = bounds(self.bench.committed, shown_only=True)
        return 5.0 if box is None else round(float((box[1] - box[0]).max()) / _SHARE, 1) or 0.1

    def options(self) -> Sequence[Option]:
        def choose(value: str) -> None:
            self._faces = value
            self.bench.refresh()

        return (Option("Faces", _FACES, self._faces, choose),)

    def fields(self) -> Sequence[Field]:
        if self._faces != "quads":
            return ()

        def enter(mm: float) -> None:
            if mm <= 0:
                raise ValueError("The size of the quads must be more than nothing.")
            self._size = mm
            self.bench.refresh()

        return (Field("Quads", self._size or self._usual(), enter, hint="Side of the quads"),)

    def actions(self) -> Sequence[Action]:
        ready = len({d.view for d in self.bench.document.planes}) > 1
        hint = "From the outermost line of every shown drawing"
        return (Action("block", "Block out", self._run, hint, ready, True),)

    def key(self, key: str, event: object) -> bool:
        if key != "enter":
            return False
        self._run()
        return True

    def _run(self) -> None:
        def done(mesh: Mesh) -> None:
            doc, made = edits.with_mesh(self.bench.committed, mesh, "block")
            self.bench.commit(doc, "Block out the drawings")
            self.bench.choose((made,))
            self.bench.refresh()

        self.bench.block(self._faces == "quads", self._size or self._usual(), done)

    def told(self) -> str:
        doc = self.bench.document
        if len({d.view for d in doc.planes}) > 1:
            count = sum(o.opening and doc.visible(o) for o in outlines_of(doc))
            what = "an opening" if count == 1 else f"{count} openings"
            return f"It has {what}, as outlines say." if count else ""
        return "It takes drawings of two views."
