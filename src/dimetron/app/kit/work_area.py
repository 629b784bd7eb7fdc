"""What the middle of the window can do, whichever of them stands there: the board or the sheet."""

from __future__ import annotations

from typing import Protocol

from dimetron.app.kit.instrument import Instrument


class WorkArea(Protocol):
    """Where one works with a tool in hand, and looks closer or from farther away."""

    @property
    def tool(self) -> Instrument | None:
        """The tool in hand."""

    def fit_all(self) -> None:
        """Everything, as large as it goes."""

    def fit_chosen(self) -> None:
        """What is chosen, as large as it goes."""

    def zoom(self, factor: float) -> None:
        """So many times as large, at the pointer."""

    def drop_gesture(self) -> bool:
        """End what is under way; False if nothing is."""

    def update(self) -> None:
        """Draw it anew with the next frame."""
