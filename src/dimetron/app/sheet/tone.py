"""Tone of a sheet or one drawing: shown at once at the size it is seen, made whole on a worker."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from dimetron.app.kit.instrument import Action, Field, Option, Switch
from dimetron.app.sheet.desk import Desk
from dimetron.app.sheet.tool import SheetEvent, SheetTool
from dimetron.document import preparing
from dimetron.document.model import Drawing, Sheet
from dimetron.imaging.tone import Colour, Tone, ToneError

#: Line colours to choose from: the paper's own, graphite, and inks of the workshop.
TINTS: dict[str, tuple[str, Colour | None]] = {
    "own": ("their own", None),
    "black": ("black", (24, 28, 32)),
    "verdigris": ("verdigris", (20, 104, 92)),
    "violet": ("violet", (92, 48, 190)),
    "oxide": ("oxide red", (170, 62, 32)),
    "blue": ("blue", (30, 80, 170)),
}
_CHANNELS = (("all", "all"), ("0", "red"), ("1", "green"), ("2", "blue"))


class SetTone(SheetTool):
    shortcut = "Shift+T"
    name = "tone"
    title = "Tone"
    icon = "contrast"
    hint = "Drag the sliders; hold U to see it as it came"

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._picking = ""
        self._channel = "all"

    def words(self) -> str:
        if self._picking:
            return (
                f"Click a spot of bare {self._picking}"
                if self._picking == "paper"
                else ("Click on a line to pick the ink")
            )
        return self.hint

    # Picking paper and ink.

    def press(self, event: SheetEvent) -> bool:
        if not self._picking:
            return False
        colour = self._colour_at(event)
        if colour is not None:
            which, self._picking = self._picking, ""
            self._set(_changed(self._now(), which, colour), f"Pick the {which}")
        return True

    def _colour_at(self, event: SheetEvent) -> Colour | None:
        """The typical colour round a spot of the picture as it came (the darkest, for ink)."""
        page, frame = self.desk.page, self.desk.frame
        if page is None or frame is None:
            return None
        import numpy as np

        x, y = frame.to_source(np.array(event.at))
        reach = max(2, round(3 / event.px))
        part = page.part(
            0, int(x) - reach, int(y) - reach, int(x) + reach + 1, int(y) + reach + 1
        ).astype(float)
        colours = part.reshape(-1, part.shape[2])[:, :3]
        if self._picking == "ink":
            order = np.argsort(colours.sum(axis=1))
            colours = colours[order[: max(1, len(order) // 6)]]
        middle = np.median(colours, axis=0)
        red, green, blue = np.broadcast_to(middle, 3).round().astype(int)
        return int(red), int(green), int(blue)

    def abandon(self) -> bool:
        picking, self._picking = bool(self._picking), ""
        self.desk.refresh()
        return picking

    def cursor(self, event: SheetEvent) -> str:
        return "cross" if self._picking else ""

    # The tone on the desk.

    @property
    def _target(self) -> Sheet | Drawing | None:
        return self.desk.item

    def _now(self) -> Tone:
        item = self._target
        return self.desk.document.recipe(item).tone if item is not None else Tone()

    def _before(self) -> Tone:
        item = self._target
        return self.desk.session.committed.recipe(item).tone if item is not None else Tone()

    def _set(self, tone: Tone, label: str) -> None:
        item = self._target
        if item is not None:
            self.desk.commit(preparing.with_tone(self.desk.session.committed, item.id, tone), label)

    def _try(self, tone: Tone) -> None:
        item = self._target
        if item is not None:
            self.desk.preview(preparing.with_tone(self.desk.session.committed, item.id, tone))

    # What can be typed and chosen.

    def fields(self) -> Sequence[Field]:
        now = self._now()
        if self._target is None:
            return ()
        return (
            self._percent("Brightness", "brightness", now.brightness),
            self._percent("Contrast", "contrast", now.contrast),
            Field(
                "Gamma", self._gamma(now), self._setter(self._with_gamma, "Gamma"), "number",
                "Above 1 brightens the middle tones",
                slide=(0.2, 3.0), sliding=self._slider(self._with_gamma),
            ),
            Field(
                "Specks up to, px", float(now.despeckle),
                self._setter(self._with_specks, "Take out specks"), "number",
                "Dark specks of so many pixels go", slide=(0, 50),
                sliding=self._slider(self._with_specks),
            ),
        )  # fmt: skip

    def _percent(self, title: str, key: str, value: float) -> Field:
        def with_it(tone: Tone, percent: float) -> Tone:
            return _changed(tone, key, percent / 100)

        return Field(
            title, round(value * 100, 1), self._setter(with_it, title), "percent",
            f"{title} from −100 to 100 %", slide=(-100, 100), sliding=self._slider(with_it),
        )  # fmt: skip

    def _setter(self, change: Callable[[Tone, float], Tone], label: str) -> Callable[[float], None]:
        return lambda value: self._set(change(self._before(), value), label)

    def _slider(self, change: Callable[[Tone, float], Tone]) -> Callable[[float], None]:
        return lambda value: self._try(change(self._before(), value))

    def _gamma(self, tone: Tone) -> float:
        return tone.gamma[0] if self._channel == "all" else tone.gamma[int(self._channel)]

    def _with_gamma(self, tone: Tone, value: float) -> Tone:
        if self._channel == "all":
            return replace(tone, gamma=(value, value, value))
        gamma = list(tone.gamma)
        gamma[int(self._channel)] = value
        return replace(tone, gamma=(gamma[0], gamma[1], gamma[2]))

    @staticmethod
    def _with_specks(tone: Tone, value: float) -> Tone:
        if not 0 <= value <= 50:
            raise ToneError("Specks of up to 50 pixels can be taken out.")
        return replace(tone, despeckle=round(value))

    def options(self) -> Sequence[Option]:
        now = self._now()
        tint = next((key for key, (_, colour) in TINTS.items() if colour == now.tint), "own")
        return (
            Option("Gamma of", _CHANNELS, self._channel, self._set_channel),
            Option(
                "Colour of the lines", tuple((k, title) for k, (title, _) in TINTS.items()), tint,
                self._set_tint, listed=True,
            ),
        )  # fmt: skip

    def _set_channel(self, value: str) -> None:
        self._channel = value
        self.desk.refresh()

    def _set_tint(self, value: str) -> None:
        self._set(replace(self._before(), tint=TINTS[value][1]), "Colour the lines")

    def switches(self) -> Sequence[Switch]:
        now = self._now()

        def switch(name: str, key: str, hint: str) -> Switch:
            def turn(on: bool) -> None:
                self._set(_changed(self._before(), key, on), name)

            return Switch(name, bool(getattr(now, key)), turn, hint)

        return (
            switch("Lift the paper", "lift", "Paper becomes clear and only the lines stay"),
            switch("Even out the light", "even", "Take out shadows and uneven light"),
            switch("Grey", "grey", "Without colour"),
            switch("Invert", "invert", "Light lines on dark become dark lines on light"),
        )

    def actions(self) -> Sequence[Action]:
        now, item = self._now(), self._target
        actions = [
            Action(
                "paper", "Pick paper", lambda: self._pick("paper"), "Click paper; it becomes white"
            ),
            Action("ink", "Pick ink", lambda: self._pick("ink"), "Click a line; it becomes black"),
            Action("reset", "As it came", self.reset, "Undo all tone", not now.plain),
        ]
        if isinstance(item, Drawing) and item.tone is not None:
            actions.append(
                Action("sheet", "As the sheet", self._as_sheet, "Give it its sheet’s tone")
            )
        return actions

    def _pick(self, which: str) -> None:
        self._picking = which
        self.desk.refresh()

    def reset(self) -> None:
        self._set(Tone(), "Undo the tone")

    def _as_sheet(self) -> None:
        item = self._target
        if item is not None:
            doc = preparing.with_tone(self.desk.session.committed, item.id, None)
            self.desk.commit(doc, "The sheet’s tone")

    def told(self) -> str:
        if self._target is None:
            return ""
        alone = isinstance(self._target, Drawing)
        return "For this drawing alone." if alone else "For the sheet and the drawings on it."


def _changed(tone: Tone, key: str, value: object) -> Tone:
    return replace(tone, **{key: value})  # type: ignore[arg-type]
