"""How far the meshes miss the drawings, kept up with what is shown: while somebody looks at it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from dimetron.app.work.inks import READING, Inks
from dimetron.app.work.pictures import Pictures
from dimetron.app.work.session import Session
from dimetron.app.work.settings import Settings
from dimetron.app.work.worker import Waited
from dimetron.document.fitting import (
    Fit,
    Held,
    Inked,
    compared,
    counts,
    drawn_of,
    missed_most,
    named,
    seen,
)
from dimetron.document.model import Document, Drawing, MeshObject, Thing
from dimetron.document.outline import outlines_of
from dimetron.fit.miss import FINE, QUICK, Drawn
from dimetron.fit.spread import OffAt, among, off_at, told_to
from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.outlines.path import OutlineError

#: How much longer than it is a miss is drawn.
TIMES, MOST_TIMES = 5.0, 1000.0
#: Colours tell no less than this apart from nothing, mm.
_LEAST_LIMIT = 0.01


@dataclass(frozen=True, slots=True, eq=False)
class _Asked:
    """What figures rest on: the meshes that are shown, and the drawings with what they show, or why
    that is not known, and all lines that are drawn, where inner ones are wanted. moving: while
    something is dragged."""

    meshes: tuple[MeshObject, ...]
    drawn: tuple[tuple[Drawing, Drawn | str, tuple[Floats, ...] | None], ...]
    moving: bool
    coloured: bool = False

    __hash__ = None  # type: ignore[assignment]

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Asked) and self._same(other)

    def _same(self, other: _Asked) -> bool:
        return (
            (self.moving, self.coloured) == (other.moving, other.coloured)
            and len(self.meshes) == len(other.meshes)
            and len(self.drawn) == len(other.drawn)
            and all(a is b for a, b in zip(self.meshes, other.meshes, strict=True))
            and all(
                all(x is y for x, y in zip(a, b, strict=True))
                for a, b in zip(self.drawn, other.drawn, strict=True)
            )
        )

    def answer(self) -> _Answer:
        held = Held([seen(item) for item in self.meshes], QUICK if self.moving else FINE)
        found, offs = [], []
        for drawing, drawn, lines in self.drawn:
            # What is still being read is no problem.
            fit = Fit(drawing) if drawn == READING else held.against(drawing, drawn, lines)
            found.append(fit)
            if self.coloured and not self.moving and fit.miss is not None:
                offs.append(off_at(held.outline(drawing.view), fit.miss))
        return _Answer(tuple(found), _tints(self.meshes, held.meshes, offs) if offs else None)


@dataclass(frozen=True, slots=True, eq=False)
class Tints:
    """Of meshes by their ids, of each vertex that is seen: -1 to 1 for what is off by ``limit``
    mm, short or over."""

    of: dict[str, NDArray[np.float32]]
    limit: float


@dataclass(frozen=True, slots=True, eq=False)
class _Answer:
    fits: tuple[Fit, ...]
    tints: Tints | None = None


def _tints(items: Sequence[MeshObject], meshes: Sequence[Mesh], offs: list[OffAt]) -> Tints:
    every = np.abs(np.concatenate([one.off for one in offs]))
    limit = _rounded_up(float(np.percentile(every, 95)) if len(every) else 0.0)
    tints, first = {}, 0
    for item, mesh in zip(items, meshes, strict=True):
        own = among(offs, first, first + len(mesh.positions))
        first += len(mesh.positions)
        tints[item.id] = np.clip(told_to(mesh, own) / limit, -1, 1).astype(np.float32)
    return Tints(tints, limit)


def _rounded_up(mm: float) -> float:
    """A plain number at least as large: 1, 2 or 5 times a power of ten."""
    mm = max(mm, _LEAST_LIMIT)
    power = 10.0 ** np.floor(np.log10(mm))
    return float(next(k for k in (1, 2, 5, 10) if k * power >= mm * 0.999) * power)


@dataclass(frozen=True, slots=True, eq=False)
class _Basis:
    """What it rests on what a drawing shows."""

    drawing: Drawing
    ink: Inked | str
    outlines: tuple[Thing, ...]

    def same(self, other: _Basis) -> bool:
        return (
            _placed(self.drawing) == _placed(other.drawing)
            and self.ink is other.ink
            and len(self.outlines) == len(other.outlines)
            and all(a is b for a, b in zip(self.outlines, other.outlines, strict=True))
        )


def _placed(drawing: Drawing) -> tuple[object, ...]:
    return drawing.name, drawing.placement, drawing.view, drawing.fit_by, drawing.left_out


class Fitting(QObject):
    """``ready``: figures are there that were asked for before. ``switched``: whether the miss is
    shown on the board, or how, is another."""

    ready = Signal()
    switched = Signal()

    def __init__(self, session: Session, pictures: Pictures, settings: Settings) -> None:
        super().__init__(session)
        self._session, self._pictures, self._settings = session, pictures, settings
        self._inks = Inks(self, pictures)
        self._inks.ready.connect(self.ready.emit)
        self._waited = Waited(self, self._told)
        self._drawn: dict[str, tuple[_Basis, Drawn | str]] = {}
        self._known: tuple[_Asked, _Answer] | None = None
        self._coloured = settings.flag("check/coloured", False)
        self._chosen_alone = False
        self._inner = settings.flag("check/inner", False)
        self._laid: dict[str, tuple[object, tuple[Floats, ...]]] = {}
        self._tinted: Tints | None = None
        self._shown = settings.flag("check/live", False)
        self._times = settings.number("check/times", TIMES)
        pictures.ready.connect(lambda _: self.ready.emit() if self._shown else None)
        session.replacing.connect(self._forget)

    # How it is shown.

    @property
    def shown(self) -> bool:
        """Whether the miss is drawn on the board."""
        return self._shown

    def show(self, on: bool) -> None:
        if on != self._shown:
            self._shown = on
            self._settings.set("check/live", on)
            self.switched.emit()

    @property
    def times(self) -> float:
        """How many times as long as it is a miss is drawn."""
        return self._times

    def exaggerate(self, times: float) -> None:
        """Raises ValueError."""
        if not 1 <= times <= MOST_TIMES:
            raise ValueError(f"Type a number from 1 to {MOST_TIMES:g}.")
        self._times = times
        self._settings.set("check/times", f"{times:g}")
        self.switched.emit()

    @property
    def coloured(self) -> bool:
        """Whether the miss colours the meshes in 3D."""
        return self._coloured

    def colour(self, on: bool) -> None:
        if on != self._coloured:
            self._coloured = on
            self._settings.set("check/coloured", on)
            self.switched.emit()

    @property
    def inner(self) -> bool:
        """Whether inner lines are compared, too."""
        return self._inner

    def compare_inner(self, on: bool) -> None:
        if on != self._inner:
            self._inner = on
            self._settings.set("check/inner", on)
            self.switched.emit()

    @property
    def chosen_alone(self) -> bool:
        """Whether of all meshes just the chosen ones are compared, while any is chosen."""
        return self._chosen_alone

    def compare_chosen(self, on: bool) -> None:
        if on != self._chosen_alone:
            self._chosen_alone = on
            self.switched.emit()

    @property
    def tints(self) -> Tints | None:
        """What colours the meshes, as far as it is known."""
        if not self._coloured:
            return None
        self.fits()
        return self._tinted

    # The figures.

    def fits(self) -> tuple[Fit, ...]:
        """Of what is shown now, or what is known of what was shown last until that is there."""
        asked = self._asked(self._session.document)
        if not asked.meshes:
            self._known = asked, _Answer(())
            return ()
        if self._known is not None and self._known[0] == asked:
            return self._known[1].fits

        def keep(answer: _Answer) -> tuple[Fit, ...]:
            self._known = asked, answer
            # While something is dragged it keeps its colours.
            self._tinted = answer.tints or self._tinted
            return answer.fits

        found = self._waited.ask(asked, asked.answer, keep)
        return self.last if found is None else found

    @property
    def last(self) -> tuple[Fit, ...]:
        """What is known, whatever is shown now; asks for nothing."""
        return () if self._known is None else self._known[1].fits

    @property
    def largest_mm(self) -> float | None:
        """By how much they miss at most, while that is shown."""
        found = missed_most(self.last)
        return found[1].largest if self._shown and found is not None else None

    def drawn(self, drawing: Drawing) -> Drawn | str:
        """What a drawing shows; or why that is not known."""
        return self._of(self._session.document, drawing)

    def _asked(self, doc: Document) -> _Asked:
        return _Asked(
            self._compared(doc),
            tuple((d, self._of(doc, d), self._lines_of(doc, d)) for d in compared(doc)),
            self._session.previewing,
            self._coloured,
        )

    def _compared(self, doc: Document) -> tuple[MeshObject, ...]:
        """The meshes that count: all that are shown, or the chosen ones of them."""
        shown = tuple(item for item in doc.meshes if counts(doc, item))
        chosen = tuple(item for item in shown if item.id in self._session.chosen)
        return chosen if self._chosen_alone and chosen else shown

    def _lines_of(self, doc: Document, drawing: Drawing) -> tuple[Floats, ...] | None:
        """All lines of a drawing in its view's plane; None while they are not wanted or known, and
        while something is dragged."""
        if not self._inner or self._session.previewing:
            return None
        recipe = doc.recipe(drawing)
        strokes = self._inks.strokes_of(recipe)
        if strokes is None:
            return None
        basis = recipe, drawing.placement
        known = self._laid.get(drawing.id)
        if known is None or known[0] != basis:
            lines = tuple(drawing.placement.to_plane(line) for line in strokes)
            known = self._laid[drawing.id] = basis, lines
        return known[1]

    def _of(self, doc: Document, drawing: Drawing) -> Drawn | str:
        recipe = doc.recipe(drawing)
        ink = self._inks.of(recipe, drawing) if drawing.fit_by == "ink" else ""
        outlines = outlines_of(doc)
        basis = _Basis(drawing, ink, tuple(o for o in outlines if doc.visible(o)))
        known = self._drawn.get(drawing.id)
        if known is None or not known[0].same(basis):
            known = self._drawn[drawing.id] = basis, self._made(doc, drawing, ink)
        return known[1]

    @staticmethod
    def _made(doc: Document, drawing: Drawing, ink: Inked | str) -> Drawn | str:
        if isinstance(ink, str) and drawing.fit_by == "ink":
            return ink
        try:
            return drawn_of(doc, drawing, partial(_given, ink))
        except (OutlineError, MeshError) as error:
            return named(drawing, error)

    @property
    def reading(self) -> bool:
        """Whether a drawing's ink, or a figure, is still to come."""
        return self._inks.reading or self._waited.busy

    def _told(self, wrong: str) -> None:
        self.ready.emit()

    def _forget(self, project: bool) -> None:
        if project:
            self._drawn.clear()
            self._laid.clear()
            self._known = self._tinted = None


def _given(ink: Inked | str) -> Inked:
    assert isinstance(ink, Inked)
    return ink
