"""What is not sound about the chosen mesh: listed, shown, and repaired one by one."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from dimetron.app.kit.instrument import Action, Field, Option
from dimetron.app.tools.base import BoardEvent
from dimetron.app.tools.shape import Shape
from dimetron.mesh.findings import Finding
from dimetron.mesh.operation import by_name


class Health(Shape):
    """A list of what is not sound; a click shows where, and what can be repaired is."""

    shortcut = ""
    family = "health"
    name, title, icon = "health", "Look over", "check"
    hint = "Click a line of the list to see where; Repair mends what can be mended."

    @property
    def alone(self) -> bool:
        return False

    def _found(self) -> tuple[Finding, ...] | None:
        """Of the chosen mesh; None while that is not known."""
        item = self.bench.chosen_mesh
        return () if item is None else self.bench.findings(item)

    def press(self, event: BoardEvent) -> bool:
        taken = super().press(event)
        self.bench.refresh()
        return taken

    def fields(self) -> Sequence[Field]:
        return ()

    def options(self) -> Sequence[Option]:
        return ()

    def actions(self) -> Sequence[Action]:
        acts: list[Action] = []
        # What can be mended stands in a row with what mends it.
        for one in sorted(self._found() or (), key=lambda one: not one.repair):
            hint = f"{one.words}: show where"
            acts.append(Action(f"see-{one.name}", one.short, self._see(one), hint))
            if one.repair:
                title = by_name(one.repair).title
                hint = f"{one.words}: {by_name(one.repair).sentence}"
                acts.append(Action(f"mend-{one.name}", title, self._mend(one), hint))
        return acts

    def _see(self, one: Finding) -> Callable[[], None]:
        def run() -> None:
            self.bench.select(one.where.kind, one.where.indices)
            self.bench.refresh()

        return run

    def _mend(self, one: Finding) -> Callable[[], None]:
        def run() -> None:
            self.bench.select(one.where.kind, one.where.indices)
            operation = by_name(one.repair)
            self.bench.operating.do(operation, operation.made(**dict(one.numbers)))
            self.bench.refresh()

        return run

    def told(self) -> str:
        item, found = self.bench.chosen_mesh, self._found()
        if item is None:
            return "Choose a mesh to look it over."
        if found is None:
            return f"{item.name} is being looked over…"
        return "" if found else f"{item.name} is sound: nothing was found."
