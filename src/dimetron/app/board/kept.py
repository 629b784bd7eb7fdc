"""Saved looks of the board by key, and the previous one."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QInputDialog

from dimetron.app.board import looks
from dimetron.app.board.parts import BoardParts
from dimetron.app.work.commands import Command
from dimetron.document.parts import SavedLook


def define(parts: BoardParts, count: int) -> None:
    """Commands to go back, and to keep and recall looks 1 to ``count``."""
    parts.commands.add(
        Command(
            "look-back",
            "Previous look",
            "Back to what the board showed before the last zoom, pan or turn",
            partial(_back, parts),
            "Backspace",
            "Look",
        )
    )
    for number in range(1, count + 1):
        parts.commands.add(
            Command(
                f"look.{number}",
                f"Look {number}",
                f"The board as it was kept under {number}: views, zoom, drawings, shading",
                partial(recall, parts, number),
                f"Ctrl+{number}",
                "Looks",
                partial(_known, parts, number),
            )
        )
        parts.commands.add(
            Command(
                f"keep-look.{number}",
                f"Keep as look {number}",
                "Views, zoom, shown drawings and shading, to be recalled by key",
                partial(keep, parts, number),
                f"Ctrl+Shift+{number}",
                "Looks",
            )
        )


def _look(parts: BoardParts, number: int) -> SavedLook | None:
    looks = parts.session.document.looks
    return next((look for look in looks if look.number == number), None)


def _known(parts: BoardParts, number: int) -> bool:
    """Whether there is such a look; its command is called by its name."""
    look = _look(parts, number)
    title = f"Look {number}"
    named = look is not None and look.name != title.lower()
    parts.commands[f"look.{number}"].action.setText(
        f"{title}: {look.name}" if look is not None and named else title
    )
    return look is not None


def _back(parts: BoardParts) -> None:
    if not parts.board.look_back():
        parts.session.tell("There is no look before this one.")


def keep(parts: BoardParts, number: int) -> None:
    """Keep what the board shows now under a number; a name it had stays."""
    board, session = parts.board, parts.session
    doc, before = session.committed, _look(parts, number)
    name = before.name if before is not None else ""
    look = looks.saved(doc, board.sight, board.layout_, number, name)
    session.commit(looks.with_look(doc, look), f"Keep {look.name}")
    keys = parts.commands[f"look.{number}"].action.shortcut().toString()
    words = f"Kept as {look.name}" + (f"; {keys} brings it back." if keys else ".")
    naming = (("Name it…", lambda: _ask_name(parts, number)),)
    parts.notices.say(words, actions=naming, passing=True)


def _ask_name(parts: BoardParts, number: int) -> None:
    look = _look(parts, number)
    if look is None:
        return
    name, said = QInputDialog.getText(
        parts.board.window(), "Name the look", f"Look {number} is called", text=look.name
    )
    if said and name.strip():
        doc = looks.named(parts.session.committed, number, name)
        parts.session.commit(doc, f"Name look {number}")
    parts.notices.clear()


def recall(parts: BoardParts, number: int) -> None:
    """Show the board as it was kept; also while it is being panned or turned."""
    board, session = parts.board, parts.session
    look = _look(parts, number)
    if look is None:
        return
    doc = looks.with_shown(session.committed, look)
    if doc is not session.committed:
        session.commit(doc, f"Show the drawings of {look.name}")
    board.drop_looking()
    board.look(*looks.recalled(look, session.committed, board.sight, board.layout_))
