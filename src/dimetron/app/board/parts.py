"""What the board's commands are about."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from dimetron.app.board.widget import Board
from dimetron.app.work.commands import Commands
from dimetron.app.work.session import Session


class Notices(Protocol):
    """Where something is said."""

    def say(
        self,
        words: str,
        *,
        actions: tuple[tuple[str, Callable[[], None]], ...] = (),
        passing: bool = False,
    ) -> None: ...

    def clear(self) -> None: ...


class BoardParts(Protocol):
    """What holds a board and commands."""

    @property
    def board(self) -> Board: ...
    @property
    def commands(self) -> Commands: ...
    @property
    def session(self) -> Session: ...
    @property
    def notices(self) -> Notices: ...
