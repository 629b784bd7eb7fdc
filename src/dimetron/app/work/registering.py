"""The solution of the project's marks, worked out anew only when something it rests on changed, on
a worker: the interface waits for it no longer than a frame."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QObject, Signal

from dimetron.app.work.session import Session
from dimetron.app.work.worker import Waited
from dimetron.border import border
from dimetron.document.landmarked import landmark_places
from dimetron.document.model import Document
from dimetron.geometry.placement import Placement
from dimetron.mesh.arrays import Floats

if TYPE_CHECKING:
    from dimetron.registration.diagnosis import Finding
    from dimetron.registration.gain import Gain
    from dimetron.registration.solve import Solution
    from dimetron.registration.suspects import Suspect

_Key = tuple[object, ...]
#: Suspects are told beside the first while they leave no more than this share of what it gains.
_NEARLY = 0.15
#: Solutions kept, so that undo and redo find theirs.
_KEPT = 200
_WORKING = "Working out what the marks say…"


@dataclass(frozen=True, slots=True, eq=False)
class _Solved:
    key: _Key
    placements: tuple[Placement, ...]
    solution: Solution | None
    fault: str
    #: As while dragging: near enough to be seen, not to be kept.
    quick: bool = False
    #: Of another state of the project: shown while the worker is at this one.
    stale: bool = False

    @property
    def determined(self) -> bool:
        """Whether the marks tell everything; else it rests on where drawings lie now, too."""
        found = self.solution
        if found is None:
            return True
        stays = found.problem.in_place and any(found.gauge.free)
        return not (found.gauge.scale or found.as_usual or stays)


@dataclass(frozen=True, slots=True, eq=False)
class Advice:
    """What does not agree in a solution, what cannot be known, and what can be set right."""

    suspects: tuple[Suspect, ...]
    problems: tuple[str, ...]
    findings: tuple[Finding, ...]


NO_ADVICE = Advice((), (), ())


class Registration(QObject):
    """Solutions by what they rest on; a drag asks for one with each move. ``solved``: what was
    longer than a frame in coming is there."""

    solved = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        #: The last ones first.
        self._known: list[_Solved] = []
        self._advice: list[tuple[Solution, Advice]] = []
        self._solver = Waited(self, self._told)
        self._adviser = Waited(self, self._told)
        #: What solutions gain against drawings that lie as these do.
        self._gains: list[tuple[Solution, tuple[Placement, ...], Gain]] = []
        self._weigher = Waited(self, self._told)

    def _told(self, fault: str) -> None:
        if fault:
            self._session.warn(fault)
        self.solved.emit()

    def be_patient(self, seconds: float) -> None:
        """How long the interface waits for an answer; a frame, if nothing else is said."""
        for waited in (self._solver, self._adviser, self._weigher):
            waited.patience_s = seconds

    def solution(self, doc: Document) -> Solution | None:
        """None if there is nothing to solve or it cannot be. While a worker is at it, it is the one
        before; ``fault`` says so."""
        return self._solved(doc).solution

    def fault(self, doc: Document) -> str:
        """Why there is no solution of just this, in words; empty if there is one or nothing is
        marked."""
        return self._solved(doc).fault

    def _solved(self, doc: Document) -> _Solved:
        key, placements = _key(doc), tuple(d.placement for d in doc.planes)
        for at, known in enumerate(self._known):
            fits = known.determined or known.placements == placements
            if known.key == key and fits and not (known.quick and self._resting(doc)):
                self._known.insert(0, self._known.pop(at))
                return known
        if not any(m.counts for m in doc.sightings):
            return self._keep(_Solved(key, placements, None, ""))
        near = self._near(doc)

        def keep(answer: tuple[Solution | None, str]) -> _Solved:
            return self._keep(_Solved(key, placements, *answer, near is not None))

        found: _Solved | None = self._solver.ask((key, placements), lambda: _made(doc, near), keep)
        return found or self._meanwhile(doc, key, placements)

    def _keep(self, solved: _Solved) -> _Solved:
        # Of a drag only the last is kept.
        known = self._known[1:] if self._known and self._known[0].quick else self._known
        self._known = [solved, *known[: _KEPT - 1]]
        return solved

    def _resting(self, doc: Document) -> bool:
        return doc is self._session.committed

    def _near(self, doc: Document) -> Solution | None:
        """A solution that a drag begins from: of the same drawings and landmarks."""
        if self._resting(doc):
            return None
        for known in self._known[:2]:
            near = known.solution
            if near is None or near.gauge.scale or near.as_usual:
                continue
            same = [p.id for p in near.problem.pictures] == [d.id for d in doc.planes]
            if same and [m.name for m in near.problem.landmarks] == [m.name for m in doc.landmarks]:
                return near
        return None

    def _meanwhile(self, doc: Document, key: _Key, placements: tuple[Placement, ...]) -> _Solved:
        """What is shown until a worker has solved: the solution before, if it is of the same
        drawings."""
        before = self._known[0].solution if self._known else None
        ids = [p.id for p in before.problem.pictures] if before is not None else []
        shown = before if ids == [d.id for d in doc.planes] else None
        return _Solved(key, placements, shown, _WORKING, stale=True)

    def advice(self, doc: Document) -> Advice:
        """What does not agree, what cannot be known and what can be set right."""
        solved = self._solved(doc)
        solution = solved.solution
        if solution is None or solved.stale:
            return NO_ADVICE
        if not self._resting(doc):
            # While a mark is dragged only what is quickly known is said.
            return Advice((), _problems(solution), ())
        for of, known in self._advice:
            if of is solution:
                return known

        def keep(answer: Advice) -> Advice:
            self._advice = [(solution, answer), *self._advice[: _KEPT - 1]]
            return answer

        found: Advice | None = self._adviser.ask(solution, lambda: _advised(solution), keep)
        return found or NO_ADVICE

    def gain(self, doc: Document) -> Gain | None:
        """What registering would better; None while that is not known, or there is no solution of
        just this."""
        solved = self._solved(doc)
        solution, placements = solved.solution, tuple(d.placement for d in doc.planes)
        if solution is None or solved.stale or not self._resting(doc):
            return None
        for of, lying, known in self._gains:
            if of is solution and lying == placements:
                return known

        def keep(answer: Gain) -> Gain:
            self._gains = [(solution, placements, answer), *self._gains[: _KEPT - 1]]
            return answer

        wanted = solution, placements
        found: Gain | None = self._weigher.ask(wanted, lambda: _weighed(solution, doc), keep)
        return found

    def places(self, doc: Document) -> dict[str, Floats]:
        """Where the landmarks of a document lie, as far as that is known."""
        return landmark_places(doc, self.solution(doc))

    def mismatch(self, drawing: str) -> float | None:
        """By how much the marks of a drawing miss now, in mm (root mean square)."""
        doc = self._session.committed
        if not any(m.picture == drawing and m.counts for m in doc.sightings):
            return None
        solution = self.solution(doc)
        if solution is None:
            return None
        marks = solution.problem.sightings
        mine = [off for m, off in zip(marks, solution.off_mm, strict=True) if m.picture == drawing]
        return float(np.sqrt(np.mean(np.square(mine)))) if mine else None

    def overall_mm(self) -> float | None:
        """By how much all marks miss now (root mean square); None if nothing is marked."""
        doc = self._session.committed
        solution = self.solution(doc) if doc.sightings else None
        return solution.rms_mm if solution is not None else None

    def suspects(self, doc: Document) -> tuple[Suspect, ...]:
        """Marks that do not agree with the rest, the oddest first."""
        return self.advice(doc).suspects

    def suspected_words(self, doc: Document) -> tuple[str, ...]:
        """The first suspect in words, and others that explain nearly as much."""
        found = self.suspects(doc)
        if not found:
            return ()
        best = found[0]
        near = best.after_mm + _NEARLY * (best.before_mm - best.after_mm)
        return tuple(s.words for s in found if s.after_mm <= near)

    def problems(self, doc: Document) -> tuple[str, ...]:
        """What cannot be known, lengths that contradict each other, and what is wrong with whole
        drawings, in words."""
        advice = self.advice(doc)
        return (*(f.words for f in advice.findings), *advice.problems)

    @property
    def busy(self) -> bool:
        return self._solver.busy or self._adviser.busy or self._weigher.busy


def _made(doc: Document, near: Solution | None) -> tuple[Solution | None, str]:
    """Solve, from a solution that is near if there is one; and why not, in words."""
    # Loaded with the first mark, not with the window.
    from dimetron.document.registering import problem_of
    from dimetron.registration.problem import RegistrationError
    from dimetron.registration.solve import solve
    from dimetron.registration.suspects import guess_from

    try:
        with border(RegistrationError, "The marks", "contradict each other too much to be solved."):
            problem = problem_of(doc)
            if near is not None:
                return solve(problem, guess_from(near), quick=True), ""
            return solve(problem), ""
    except RegistrationError as error:
        return None, str(error)


def _advised(solution: Solution) -> Advice:
    from dimetron.registration.diagnosis import findings
    from dimetron.registration.suspects import suspects

    return Advice(suspects(solution), _problems(solution), findings(solution))


def _weighed(solution: Solution, doc: Document) -> Gain:
    from dimetron.document.registering import problem_of
    from dimetron.registration.gain import gain_of

    return gain_of(solution, problem_of(doc))


def _problems(solution: Solution) -> tuple[str, ...]:
    from dimetron.registration.suspects import odd_lengths, unknown

    return (*unknown(solution), *odd_lengths(solution))


def _key(doc: Document) -> _Key:
    """What a solution rests on. Where drawings lie now counts for what is pinned."""
    drawings = tuple(
        (d.id, d.name, d.view, d.aspect_locked, d.placement if d.id in doc.pinned else None)
        for d in doc.planes
    )
    known = doc.landmarks, doc.sightings, doc.lengths, doc.drawing_lengths
    return drawings, known, doc.pinned, doc.trust, bool(doc.meshes)
