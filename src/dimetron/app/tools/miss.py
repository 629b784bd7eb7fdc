"""How far the meshes miss the drawings, told and drawn; which ink it goes by."""

from __future__ import annotations

from collections.abc import Sequence

from dimetron.app.kit.instrument import Action, Field, Option, Switch
from dimetron.app.tools.checks_seen import note_marks, size_marks, tie_marks
from dimetron.app.tools.shape import Shape
from dimetron.document.fitting import Fit, compared, missed_most
from dimetron.document.model import Drawing, with_item
from dimetron.geometry.units import Unit, format_length
from dimetron.render.overlays import Overlay

_AGAINST = (("ink", "the ink"), ("outlines", "its outlines"))


class HoldAgainst(Shape):
    """The miss on the board while meshes are chosen and moved."""

    shortcut = ""
    family = ""
    name, title, icon = "miss", "Against the drawings", "whiskers"
    hint = "Drag the mesh: the whiskers follow. Choose a drawing to say what of it counts."

    @property
    def alone(self) -> bool:
        return True

    def _drawings(self) -> tuple[Drawing, ...]:
        """Those that are chosen, else all."""
        every = compared(self.bench.document)
        chosen = tuple(d for d in every if d.id in self.bench.chosen)
        return chosen or every

    def taken_up(self) -> None:
        self.bench.fitting.show(True)
        super().taken_up()

    def options(self) -> Sequence[Option]:
        drawings = self._drawings()
        if not drawings:
            return ()
        ways = {d.fit_by for d in drawings}

        def choose(value: str) -> None:
            doc = self.bench.committed
            for drawing in self._drawings():
                doc = with_item(doc, drawing.id, fit_by=value)
            self.bench.commit(doc, f"Go by {dict(_AGAINST)[value]}")
            self.bench.refresh()

        return (Option("Against", _AGAINST, ways.pop() if len(ways) == 1 else "", choose),)

    def fields(self) -> Sequence[Field]:
        fitting = self.bench.fitting

        def enter(times: float) -> None:
            fitting.exaggerate(times)
            self.bench.refresh()

        hint = "How many times as long as it is a miss is drawn"
        return (Field("Drawn, times", fitting.times, enter, "number", hint),)

    def switches(self) -> Sequence[Switch]:
        fitting = self.bench.fitting
        hint = "Draw the miss along the outlines, in every flat pane"
        colours = "Colour the meshes in 3D by what their outlines are off nearby"
        alone = "Hold just the chosen meshes against the drawings, while any is chosen"
        inner = "Hold creases, borders and sharp edges against the nearest drawn lines, too"
        return (
            Switch("Live miss", fitting.shown, fitting.show, hint),
            Switch("Chosen meshes alone", fitting.chosen_alone, fitting.compare_chosen, alone),
            Switch("Inner lines", fitting.inner, fitting.compare_inner, inner),
            Switch("Colours in 3D", fitting.coloured, fitting.colour, colours),
        )

    def actions(self) -> Sequence[Action]:
        return ()

    def overlays(self) -> Sequence[Overlay]:
        doc, landmarks = self.bench.document, self.bench.landmarks()
        marks = [*size_marks(doc, landmarks), *tie_marks(doc, landmarks), *note_marks(doc)]
        return [*marks, *super().overlays()]

    def told(self) -> str:
        return summary(self._fits(), self.unit())

    def _fits(self) -> tuple[Fit, ...]:
        fitting = self.bench.fitting
        return fitting.fits() if fitting.shown else fitting.last


def summary(fits: Sequence[Fit], unit: Unit) -> str:
    """How far it misses on the whole, and what cannot be told."""
    words = []
    found = missed_most(fits)
    if found is not None:
        worst, miss = found
        means = [one.miss.mean for one in fits if one.miss is not None]
        mean = sum(means) / len(means)
        way = "over" if miss.worst[2] > 0 else "short"
        words.append(
            f"{format_length(mean, unit)} off on average, at most "
            f"{format_length(miss.largest, unit)} {way} in {worst.drawing.view.title}."
        )
    inner = [one.inner for one in fits if one.inner is not None]
    if inner:
        mean = sum(one.mean for one in inner) / len(inner)
        most = max(one.largest for one in inner)
        words.append(
            f"Inner lines {format_length(mean, unit)} off, at most {format_length(most, unit)}."
        )
    words += [one.problem for one in fits if one.problem]
    return " ".join(words)
