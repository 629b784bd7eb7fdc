"""Pull meshes to the drawings: looked at beforehand, as far as one wants."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.app.kit.instrument import Action, Field, Option, Switch
from dimetron.app.tools.base import BoardEvent
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.miss import HoldAgainst, summary
from dimetron.document.fitting import Fit, compared
from dimetron.document.following import followed, with_followed
from dimetron.document.model import Document
from dimetron.document.pulling import Pulled, pull_of
from dimetron.fit.miss import Drawn
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.select import Kind, vertices_of


class PullToDrawings(HoldAgainst):
    """The meshes' outlines meet the drawings', shape and detail are kept."""

    shortcut = "Ctrl+Shift+P"
    name, title, icon = "pull", "Pull to the drawings", "magnet"
    hint = (
        "Pulls all meshes, the chosen ones, or what is selected. Enter keeps it, Escape drops it."
    )

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._pulled: Pulled | None = None
        self._share = 1.0
        self._before: tuple[Fit, ...] = ()
        self._of: Document | None = None

    @property
    def _ready(self) -> Pulled | None:
        """What was worked out, as long as nothing else was done since."""
        return self._pulled if self.bench.committed is self._of else None

    def _begin(self) -> None:
        doc, fitting = self.bench.committed, self.bench.fitting
        drawn = [(d, one) for d in compared(doc) if isinstance(one := fitting.drawn(d), Drawn)]
        try:
            pull = pull_of(doc, self.bench.chosen, self.bench.part, drawn)
        except MeshError as error:
            self.bench.warn(str(error))
            return
        before = fitting.fits()

        def done(found: Pulled) -> None:
            self._before = before
            self._pulled, self._of, self._share = found, doc, found.far
            self._show(self._share)

        self.bench.work_out("Pulling to the drawings…", pull.run, done)

    def _show(self, share: float) -> None:
        pulled = self._ready
        if pulled is not None:
            self._share = share
            self.bench.preview(pulled.put_into(self.bench.committed, share))
            self.bench.refresh()

    def _keep(self) -> None:
        pulled = self._ready
        if pulled is None:
            return
        self._pulled = None
        doc = pulled.put_into(self.bench.committed, self._share)
        self.bench.commit(doc, f"Pull to the drawings, {self._share:.0%}")
        self.bench.refresh()

    def key(self, key: str, event: BoardEvent | None) -> bool:
        if key == "enter" and self._ready is not None:
            self._keep()
            return True
        return super().key(key, event)

    def abandon(self) -> bool:
        active = self._ready is not None
        self._pulled = None
        if active:
            self.bench.cancel()
            self.bench.refresh()
        return super().abandon() or active

    def put_down(self) -> None:
        if self._ready is not None:
            self.bench.cancel()
        self._pulled = None
        super().put_down()

    def fields(self) -> Sequence[Field]:
        pulled = self._ready
        if pulled is None:
            return super().fields()

        most = 100 * pulled.far

        def enter(percent: float) -> None:
            if not 0 <= percent <= most:
                raise ValueError(f"Type how far, from 0 to {most:.3g} %.")
            self._show(percent / 100)

        hint = "How far of the way to the drawings"
        now = round(100 * self._share, 1)
        return (Field("How far", now, enter, "percent", hint, slide=(0.0, most), sliding=enter),)

    def options(self) -> Sequence[Option]:
        if self._ready is not None:
            return ()
        follow = self._follow_option()
        return [*super().options(), *([follow] if follow is not None else [])]

    def switches(self) -> Sequence[Switch]:
        """Just whether the miss is drawn: what is compared is said before."""
        return super().switches()[:1]

    def _follow_option(self) -> Option | None:
        """Which drawing what is selected of the chosen mesh follows, or all of it."""
        item, drawings = self.bench.chosen_mesh, compared(self.bench.committed)
        if item is None or len(drawings) < 2:
            return None
        part = self.bench.part
        whole = part.kind is Kind.WHOLE or not len(part.indices)
        every = np.arange(len(item.mesh.positions))
        vertices = every if whole else vertices_of(item.mesh, part.kind, part.indices)
        now = np.unique(followed(item.mesh, [d.id for d in drawings])[vertices])
        names = [("", "all drawings"), *((d.id, d.name) for d in drawings)]
        value = names[int(now[0]) + 1][0] if len(now) == 1 else "several"

        def choose(drawing: str) -> None:
            doc = with_followed(self.bench.committed, item.id, vertices, drawing)
            self.bench.commit(doc, f"Follow {dict(names)[drawing]}")
            self.bench.refresh()

        what = f"{item.name} follows" if whole else "What is selected follows"
        return Option(what, tuple(names), value, choose, listed=True)

    def actions(self) -> Sequence[Action]:
        pulled = self._ready
        if pulled is None:
            hint = "All meshes, the chosen ones, or what is selected"
            return (Action("pull", "Pull", self._begin, hint, main=True),)
        return (
            Action("keep", "Keep it", self._keep, "Make a step of it (Enter)", main=True),
            Action("drop", "Drop it", self._drop, "As it was (Escape)"),
        )

    def _drop(self) -> None:
        self.abandon()

    def told(self) -> str:
        if self._ready is None:
            return super().told()
        before, after = (summary(fits, self.unit()) for fits in (self._before, self._fits()))
        return f"Before: {before}\nNow: {after}{self._limit()}"

    def _limit(self) -> str:
        pulled = self._ready
        if pulled is None or pulled.far >= 1:
            return ""
        return f"\nFarther than {pulled.far:.0%} faces would turn over."
