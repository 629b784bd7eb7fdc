"""Saved looks of the board by key, and the previous one."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from dimetron.app.board import looks
from dimetron.app.commands import Command

if TYPE_CHECKING:
    from dimetron.app.window import Window


def define(window: Window, count: int) -> None:
    """Commands to go back, and to keep and recall looks 1 to ``count``."""
    window.commands.add(
        Command(
            "look-back",
            "Previous look",
            "Back to what the board showed before the last zoom, pan or turn",
            partial(_back, window),
            "Backspace",
            "Look",
        )
    )
    for number in range(1, count + 1):
        window.commands.add(
            Command(
                f"look.{number}",
                f"Look {number}",
                f"The board as it was kept under {number}: views, zoom, drawings, shading",
                partial(recall, window, number),
                f"Ctrl+{number}",
                "Looks",
                partial(_known, window, number),
            )
        )
        window.commands.add(
            Command(
                f"keep-look.{number}",
                f"Keep as look {number}",
                "Views, zoom, shown drawings and shading, to be recalled by key",
                partial(keep, window, number),
                f"Ctrl+Shift+{number}",
                "Looks",
            )
        )


def _name(number: int) -> str:
    return f"look {number}"


def _known(window: Window, number: int) -> bool:
    return any(look.name == _name(number) for look in window.session.document.looks)


def _back(window: Window) -> None:
    if not window.board.look_back():
        window.session.tell("There is no look before this one.")


def keep(window: Window, number: int) -> None:
    """Keep what the board shows now under a number."""
    board, session = window.board, window.session
    doc = session.committed
    look = looks.saved(doc, board.sight, board.layout_, _name(number))
    session.commit(looks.with_look(doc, look), f"Keep {_name(number)}")
    session.tell(f"Kept as look {number}; Ctrl+{number} brings it back.")


def recall(window: Window, number: int) -> None:
    """Show the board as it was kept; also while it is being panned or turned."""
    board, session = window.board, window.session
    look = next(k for k in session.committed.looks if k.name == _name(number))
    doc = looks.with_shown(session.committed, look)
    if doc is not session.committed:
        session.commit(doc, f"Show the drawings of look {number}")
    board.drop_looking()
    board.look(*looks.recalled(look, session.committed, board.sight, board.layout_))
