"""Letters: typed text as outlines, placed with a click."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from dimetron.app.kit.instrument import Field, Option, Text
from dimetron.app.tools import picking
from dimetron.app.tools.base import BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.tracing.seen import path_marks
from dimetron.document.model import new_id
from dimetron.document.outline import Outline, with_outline
from dimetron.document.parts import Group
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats
from dimetron.outlines.letters import fonts, lettered
from dimetron.outlines.path import OutlineError, Path, mapped
from dimetron.render.overlays import Overlay


class Letters(Tool):
    """Type a text, then click where it begins."""

    shortcut = "Ctrl+Shift+T"
    name, title, icon = "letters", "Letters", "letters"
    hint = "Type a text, then click where it begins."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._text = ""
        self._font = "Barlow"
        self._height = 20.0
        self._at: tuple[AnyView, Floats] | None = None
        self._fault = ""
        self._paths: tuple[Path, ...] = ()

    def _typeset(self) -> None:
        self._fault, self._paths = "", ()
        if self._text.strip():
            try:
                self._paths = lettered(self._text, fonts()[self._font], self._height)
            except OutlineError as error:
                self._fault = str(error)
        self.bench.refresh()

    def press(self, event: BoardEvent) -> bool:
        if event.view is None:
            return False
        if not self._paths:
            raise OutlineError(self._fault or "Type a text first.")
        at = event.view.to_plane(picking.on_board(self.bench, event).point)
        doc = self.bench.committed
        group = Group(new_id(), self._text.strip()[:40])
        made = []
        for path in self._paths:
            doc, id_ = with_outline(doc, mapped(path, np.eye(2), at), event.view, group.name)
            made.append(id_)
        further = tuple(
            replace(i, group=group.id) if isinstance(i, Outline) and i.id in made else i
            for i in doc.further
        )
        doc = replace(doc, further=further, groups=(*doc.groups, group))
        self.bench.commit(doc, f"Write {group.name}")
        self.bench.choose(tuple(made))
        self._at = None
        self.bench.refresh()
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        self._at = None
        if event.view is not None and self._paths:
            point = picking.on_board(self.bench, event).point
            self._at = event.view, event.view.to_plane(point)

    def abandon(self) -> bool:
        self._at = None
        return False

    # The panel.

    def texts(self) -> Sequence[Text]:
        def enter(words: str) -> None:
            self._text = words
            self._typeset()

        return (Text("Text", self._text, enter, "What is to be written"),)

    def options(self) -> Sequence[Option]:
        def choose(value: str) -> None:
            self._font = value
            self._typeset()

        choices = tuple((name, name) for name in fonts())
        return (Option("Font", choices, self._font, choose, listed=True),)

    def fields(self) -> Sequence[Field]:
        def enter(mm: float) -> None:
            if mm <= 0:
                raise ValueError("The height must be more than zero.")
            self._height = mm
            self._typeset()

        return (Field("Height", self._height, enter, hint="How tall its capital letters are"),)

    def told(self) -> str:
        return self._fault

    def overlays(self) -> Sequence[Overlay]:
        if self._at is None:
            return ()
        view, at = self._at
        return [
            path_marks(mapped(path, np.eye(2), at), view, 0.0, "selection", width=1.4)
            for path in self._paths
        ]
