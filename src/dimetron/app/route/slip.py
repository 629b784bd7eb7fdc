"""The slip: what was done last, with its numbers open to change."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from dimetron.app.kit.buttons import quiet
from dimetron.app.kit.iconset import icon
from dimetron.app.kit.instrument import Action, Field, Instrument, Option, Switch
from dimetron.app.kit.theme import Theme
from dimetron.app.route.tool_panel import ToolPanel
from dimetron.app.work.numbers import Numbers
from dimetron.app.work.operating import Operating
from dimetron.app.work.session import Session
from dimetron.app.work.step import Step
from dimetron.mesh.edited import Note
from dimetron.mesh.select import Kind


def counted_parts(kind: Kind, count: int) -> str:
    """How many parts, in words; none of a mesh as a whole."""
    if kind is Kind.WHOLE or not count:
        return ""
    return f"{count:,} {kind.value if count == 1 else kind.many}".replace(",", " ")


class _LastDone(Instrument):
    """The last operation as the route shows instruments."""

    name, title, icon = "slip", "Slip", ""
    hint = ""

    def __init__(self, operating: Operating, step: Step) -> None:
        self._operating = operating
        self._step = step

    def about(self) -> object:
        return self._step.task

    def _numbers(self) -> Numbers:
        return Numbers(self._step.task.operation.parameters, self._step.how, self._take)

    def _take(self, how: Any) -> None:
        if how != self._step.how:
            self._operating.change(how)

    def fields(self) -> Sequence[Field]:
        return self._numbers().fields()

    def options(self) -> Sequence[Option]:
        return self._numbers().options()

    def switches(self) -> Sequence[Switch]:
        return self._numbers().switches()

    def actions(self) -> Sequence[Action]:
        acts = [
            Action(
                "again", "Again", self._operating.again, "The same once more, on what is selected"
            ),
            Action("close", "Done so far", self._operating.close, "Leave the numbers as they are"),
        ]
        told = [note for note in self._step.notes if len(note.where)]
        if told:
            acts.append(Action("show", "Show where", self._show(told[-1]), told[-1].words))
        return acts

    def _show(self, note: Note) -> Callable[[], None]:
        return lambda: self._operating.show(note)

    def told(self) -> str:
        return "\n".join(note.words for note in self._step.notes)


#: How wide it is inside.
ROOM = 166


class Slip(QFrame):
    """Where there is no room for its numbers beside those of another tool it is folded to a line;
    ``unfolded`` tells that it is opened, or closed again, by hand."""

    unfolded = Signal()

    def __init__(self, session: Session, operating: Operating) -> None:
        super().__init__()
        self.setObjectName("slip")
        self._operating = operating
        self._title = QLabel()
        self._title.setProperty("class", "familyTitle")
        self.panel = ToolPanel(session, in_rows=True, room=ROOM)
        self._close = quiet("Leave the numbers as they are", 15)
        self._close.clicked.connect(operating.close)
        self._fold = quiet("Its numbers", 15)
        self._fold.clicked.connect(self._turn)
        self._opened: Step | None = None
        row = QHBoxLayout()
        row.addWidget(self._title)
        row.addStretch(1)
        row.addWidget(self._fold)
        row.addWidget(self._close)
        box = QVBoxLayout(self)
        box.setContentsMargins(9, 5, 9, 3)
        box.setSpacing(2)
        box.addLayout(row)
        # The panel says itself whether it has anything to show.
        self._body = QWidget()
        inside = QVBoxLayout(self._body)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.addWidget(self.panel)
        box.addWidget(self._body)
        self.hide()

    def _turn(self) -> None:
        self._opened = None if self.by_hand else self._operating.step
        self.unfolded.emit()

    @property
    def by_hand(self) -> bool:
        """Whether it was opened though there is no room."""
        return self._opened is not None and self._opened is self._operating.step

    @property
    def step(self) -> Step | None:
        """What was done last, as long as its numbers are open."""
        return self._operating.step

    def fold(self, theme: Theme, scarce: bool) -> None:
        """scarce: there is no room for its numbers."""
        self._fold.setVisible(scarce)
        sign = "chevron-up" if self.by_hand else "chevron-down"
        self._fold.setIcon(icon(sign, theme.chrome.ink, 15))
        self._body.setVisible(not scarce or self.by_hand)

    def refresh(self, theme: Theme, aside: bool = False) -> None:
        """aside: the tool in hand has so many numbers of its own that there is no room. What only
        selects and asks for nothing needs no slip."""
        step = self._operating.step
        if step is not None and not step.task.operation.parameters and not step.notes:
            aside = aside or step.selects
        if aside:
            step = None
        self.setVisible(step is not None)
        self._close.setIcon(icon("x", theme.chrome.ink, 15))
        if step is None:
            self.panel.show_tool(None)
            return
        task = step.task
        chosen = task.chosen
        parts = counted_parts(chosen.kind, len(chosen.indices)) if task.operation.takes else ""
        self._title.setText(" · ".join(w for w in (task.operation.title, parts) if w))
        self.panel.show_tool(_LastDone(self._operating, step))
