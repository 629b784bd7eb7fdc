"""What became of the drawings, against how they lay: in words, and to look at once more."""

from __future__ import annotations

from collections.abc import Sequence

from dimetron.app.kit.instrument import Action, Option
from dimetron.app.tools.bench import Bench
from dimetron.document.model import Document
from dimetron.geometry.placement import wrapped

#: Changes smaller than this are not told of.
_SAME_SIZE, _SAME_TURN_DEG = 0.003, 0.2


def changes(before: Document, after: Document) -> list[str]:
    """What drawings were changed by, in words, but for moving a little."""
    words = []
    planes = [d for d in after.planes if before.item(d.id) is not None]
    ratios = [d.placement.mm_per_px / before.drawing(d.id).placement.mm_per_px for d in planes]
    alike = len(planes) > 1 and max(ratios) < min(ratios) * (1 + _SAME_SIZE)
    if alike and abs(ratios[0] - 1) > _SAME_SIZE:
        words.append(f"all are {_times(ratios[0])}")
    for now, ratio in zip(planes, ratios, strict=True):
        was = before.drawing(now.id).placement
        turned = wrapped(now.placement.rotation_deg - was.rotation_deg)
        what = ["turned over"] if now.placement.mirrored != was.mirrored else []
        if not alike and abs(ratio - 1) > _SAME_SIZE:
            what.append(_times(ratio))
        if abs(turned) > _SAME_TURN_DEG:
            what.append(f"turned by {turned:.1f}°".replace("-", "−"))
        if what:
            words.append(f"{now.name} is {' and '.join(what)}")
    return words


def _times(ratio: float) -> str:
    if 0.5 < ratio < 1.5:
        return f"{abs(ratio - 1):.1%} {'larger' if ratio > 1 else 'smaller'}"
    return f"{ratio:.3g} times as large"


class LookBack:
    """After an edit has moved drawings: how they lay can be looked at beside how they lie, and put
    back, until something else is done."""

    def __init__(self, bench: Bench) -> None:
        self._bench = bench
        self._before: Document | None = None
        self._after: Document | None = None
        self._said = ""

    def keep(self, before: Document, said: str) -> None:
        """What was just done, and what is to be said of it."""
        self._before, self._after, self._said = before, self._bench.committed, said

    def forget(self) -> bool:
        """Whether how they lay was being looked at; that ends."""
        looking = self._looking
        if looking:
            self._bench.cancel()
        self._before = self._after = None
        return looking

    @property
    def _current(self) -> Document | None:
        return self._before if self._bench.committed is self._after else None

    @property
    def _looking(self) -> bool:
        return self._current is not None and self._bench.document is self._before

    def told(self) -> str:
        """Before and after, in words; empty when something else was done since."""
        before = self._current
        if before is None or self._after is None:
            return ""
        said = changes(before, self._after)
        more = f"{'; '.join(said)}." if said else "No drawing was sized or turned."
        return f"{self._said} {more[0].upper()}{more[1:]}"

    def options(self) -> Sequence[Option]:
        """Which of the two is looked at."""
        before = self._current
        if before is None:
            return ()

        def look(value: str) -> None:
            if value == "before":
                self._bench.preview(before)
            else:
                self._bench.cancel()
            self._bench.refresh()

        value = "before" if self._looking else "after"
        return (Option("Look at", (("before", "before"), ("after", "after")), value, look),)

    def actions(self) -> Sequence[Action]:
        """Putting them back."""
        if self._current is None:
            return ()

        def back() -> None:
            self.forget()
            self._bench.undo()

        return (Action("back", "Put them back", back, "The drawings as they lay before"),)
