"""A card of something that has a size and a place along each world axis."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from dimetron.app.kit.fields import MeasureEdit, length_edit
from dimetron.app.tray.card import Card, Numbers
from dimetron.app.work.session import Session
from dimetron.geometry.views import AXIS_NAMES, EXTENT_NAMES


class SizedCard(Card):
    """Six fields; what is entered goes to ``enter_size`` and ``enter_place``, which raise
    ValueError with a sentence for what has no meaning."""

    def __init__(
        self, session: Session, id_: str, size_hint: str, place: str, place_hint: str
    ) -> None:
        super().__init__(session, id_)
        self.row.addStretch(1)
        grid = Numbers(self.body)
        self.size_edits = [length_edit(lambda: session.document.unit) for _ in range(3)]
        self.place_edits = [length_edit(lambda: session.document.unit) for _ in range(3)]
        for axis, field in enumerate(self.size_edits):
            grid.line(EXTENT_NAMES[axis], field, f"Real {EXTENT_NAMES[axis]}{size_hint}")
            self._hand_on(field, axis, self.enter_size)
        for axis, field in enumerate(self.place_edits):
            grid.line(f"{place} {AXIS_NAMES[axis]}", field, place_hint)
            self._hand_on(field, axis, self.enter_place)
        grid.finish()

    @staticmethod
    def _hand_on(field: MeasureEdit, axis: int, enter: Callable[[int, float], None]) -> None:
        def entered(mm: float) -> None:
            try:
                enter(axis, mm)
            except ValueError as error:
                field.refuse(str(error))

        field.entered.connect(entered)

    def enter_size(self, axis: int, mm: float) -> None:
        raise NotImplementedError

    def enter_place(self, axis: int, mm: float) -> None:
        raise NotImplementedError

    def show_numbers(self, size: Sequence[float], place: Sequence[float]) -> None:
        for axis in range(3):
            self.size_edits[axis].set_value(float(size[axis]))
            self.place_edits[axis].set_value(float(place[axis]))
