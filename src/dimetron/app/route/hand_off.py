"""The station Hand off: ways to hand the project off as compact buttons, and the choices of the one
in hand."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from PySide6.QtGui import QGuiApplication, QImage, QShowEvent
from PySide6.QtWidgets import (
    QApplication,
    QButtonGroup,
    QFileDialog,
    QGridLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from dimetron.app.kit.instrument import Action, Field, Instrument, Option, Switch
from dimetron.app.route.tool_panel import ToolPanel
from dimetron.app.work.handing import Handing, Seen
from dimetron.app.work.numbers import Numbers
from dimetron.app.work.session import Session
from dimetron.app.work.settings import Settings
from dimetron.handoff.way import ways
from dimetron.mesh.parameters import parameters_of

_COLUMNS = 2


class _InHand(Instrument):
    """The way in hand as the route shows instruments."""

    name, title, icon = "hand-off", "Hand off", ""
    hint = ""

    def __init__(self, handing: Handing, ask: Callable[[], None]) -> None:
        self._handing, self._ask = handing, ask

    def about(self) -> object:
        return self._handing.way.name

    def _numbers(self) -> Numbers:
        way = self._handing.way
        return Numbers(parameters_of(way.how), self._handing.how(), self._handing.choose)

    def fields(self) -> Sequence[Field]:
        return self._numbers().fields()

    def options(self) -> Sequence[Option]:
        handing = self._handing
        found = self._numbers().options()
        if handing.way.tries:
            receivers = handing.receiving_ends()
            choose = handing.choose_receiver
            found.append(Option("Receiving end", receivers, handing.receiver, choose, listed=True))
        return found

    def switches(self) -> Sequence[Switch]:
        return self._numbers().switches()

    def actions(self) -> Sequence[Action]:
        handing, way = self._handing, self._handing.way
        if handing.busy:
            return (Action("stop", "Stop", handing.stop, "Leave all files as they are", main=True),)
        acts = [Action("write", way.verb, self._ask, way.hint, main=True)]
        if way.copies:
            hint = "Put the picture on the clipboard"
            acts.append(Action("copy", "Copy", handing.copy, hint))
        if way.tries:
            hint = "Hand it over to a made-up receiving end, and see what arrives there"
            acts.append(Action("try", "See what arrives", handing.try_out, hint))
        return acts

    def told(self) -> str:
        handing = self._handing
        if handing.busy:
            return f"At work: {handing.share:.0%}"
        if not parameters_of(handing.way.how):
            return f"{handing.way.hint}."
        answer = handing.answer
        if answer is None or not handing.way.tries:
            return ""
        head = "All as it should be." if answer.right else "Not all is as it should be."
        lines = [f"{'✓' if one.right else '✗'} {one.name}: {one.words}" for one in answer.findings]
        return "\n".join([f"{answer.file} at the {handing.receiver_title}. {head}", *lines])


class HandOff(QWidget):
    def __init__(self, session: Session, settings: Settings, seen: Callable[[], Seen]) -> None:
        super().__init__()
        self._session = session
        self.handing = Handing(session, settings, seen)
        self.panel = ToolPanel(session, in_rows=True)
        self._group = QButtonGroup(self)
        grid = QGridLayout()
        grid.setSpacing(4)
        for number, way in enumerate(ways()):
            button = QPushButton(way.title)
            button.setProperty("compact", True)
            button.setProperty("way", way.name)
            button.setCheckable(True)
            button.setToolTip(way.hint)
            button.clicked.connect(lambda _=False, name=way.name: self.handing.take(name))
            self._group.addButton(button)
            grid.addWidget(button, number // _COLUMNS, number % _COLUMNS)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 4)
        box.setSpacing(6)
        box.addLayout(grid)
        box.addWidget(self.panel)
        self.handing.changed.connect(self.refresh)
        self.handing.copied.connect(self._put_on_clipboard)
        session.changed.connect(self.refresh)

    @property
    def exported(self) -> str:
        """The name of what was written last; empty if nothing was."""
        return self.handing.exported

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """What is shown is looked up when it is first seen: that takes a while."""
        if not self.isVisible():
            return
        held = QApplication.focusWidget()
        pressed = isinstance(held, QPushButton) and self.panel.isAncestorOf(held)
        for button in self._group.buttons():
            button.setChecked(button.property("way") == self.handing.way.name)
        self.panel.show_tool(_InHand(self.handing, self.ask))
        way = self._group.checkedButton()
        if pressed and way is not None and QApplication.focusWidget() is not held:
            # The button that was pressed is another now; the keyboard stays here.
            way.setFocus()

    def ask(self, name: str = "") -> None:
        """Choose where the way in hand, or that of a name, writes; then it does."""
        if name:
            self.handing.take(name)
        way, how = self.handing.way, self.handing.how()
        ending = way.ending(how)
        path = self._session.path
        stem = path.with_suffix("") if path else Path("Untitled")
        title = way.title
        if ending:
            kind = ending.removeprefix(".").upper()
            usual, filters = f"{stem}{ending}", f"{kind} (*{ending})"
            found, _ = QFileDialog.getSaveFileName(self, title, usual, filters)
        else:
            found, _ = QFileDialog.getSaveFileName(self, title, f"{stem}-{way.name}")
        if found:
            chosen = Path(found)
            fits = not ending or chosen.suffix.lower() == ending
            self.write(chosen if fits else Path(f"{found}{ending}"))

    def write(self, path: Path, name: str = "", **choices: Any) -> None:
        """Write what the way in hand, or that of a name, makes, with other choices."""
        if name:
            self.handing.take(name)
        if choices:
            self.handing.choose(self.handing.way.restored({**vars(self.handing.how()), **choices}))
        self.handing.write(path)

    def _put_on_clipboard(self, picture: bytes) -> None:
        image = QImage.fromData(picture)
        QGuiApplication.clipboard().setImage(image)
        size = f"{image.width()} × {image.height()} pixels"
        self._session.tell(f"The picture is on the clipboard: {size}.")
