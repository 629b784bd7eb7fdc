"""Notes pinned to places: what is assumed, what was measured on the sample."""

from __future__ import annotations

from collections.abc import Sequence

from dimetron.app.kit.instrument import Text
from dimetron.app.tools import aim
from dimetron.app.tools.base import BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.checks_seen import note_marks
from dimetron.document.checks import with_note
from dimetron.render.overlays import Overlay


class PinNote(Tool):
    """Type what the note says, then click where it belongs."""

    selects = False
    name, title, icon = "pin-note", "Pin a note", "pin"
    hint = "Type what the note says, then click where it belongs, in a view or in 3D."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._text = ""

    def press(self, event: BoardEvent) -> bool:
        if not self._text.strip():
            self.bench.warn("Type what the note says first.")
            return True
        hit = aim.mesh_at(self.bench.document, event)
        at = event.point if hit is None else hit.point
        doc, note = with_note(self.bench.committed, self._text, event.view, at)
        self.bench.commit(doc, f"Note “{note.text[:24]}”")
        self._text = ""
        self.bench.refresh()
        return True

    def texts(self) -> Sequence[Text]:
        def enter(text: str) -> None:
            self._text = text

        return (Text("Says", self._text, enter, "As “assumed”, or “measured on the sample: 2 mm”"),)

    def told(self) -> str:
        count = len(self.bench.document.notes)
        return f"{count} pinned; the ledger’s page Notes lists them." if count else ""

    def overlays(self) -> Sequence[Overlay]:
        return note_marks(self.bench.document)
