"""The solution of the project's marks, worked out anew only when something it rests on changed;
on a worker where that would be felt."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
from PySide6.QtCore import QObject, Signal

from dimetron.app.session import Session
from dimetron.app.work import Worker
from dimetron.document.model import Document
from dimetron.geometry.placement import Placement

if TYPE_CHECKING:
    from dimetron.registration.diagnosis import Finding
    from dimetron.registration.solve import Solution
    from dimetron.registration.suspects import Suspect

_Key = tuple[object, ...]
#: Suspects are told beside the first while they leave no more than this share of what it gains.
_NEARLY = 0.15
#: More marks than these are solved, and their disagreements looked for, on a worker.
_SOLVED_AT_ONCE, _ADVISED_AT_ONCE = 600, 150
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
        return not (found.gauge.scale or found.loose or stays)


@dataclass(frozen=True, slots=True, eq=False)
class Advice:
    """What does not agree in a solution, what cannot be known, and what can be set right."""

    suspects: tuple[Suspect, ...]
    problems: tuple[str, ...]
    findings: tuple[Finding, ...]


NO_ADVICE = Advice((), (), ())


class Registration(QObject):
    """Solutions by what they rest on; a drag asks for one with each move. ``solved``: what a
    worker was asked for is there."""

    solved = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        #: The last two: while a mark is dragged, the project with it and without.
        self._known: list[_Solved] = []
        self._advice: tuple[Solution, Advice] | None = None
        self._worker = Worker(self, threads=1)
        #: What the worker was last asked for.
        self._wanted: object = None

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
        for known in self._known:
            fits = known.determined or known.placements == placements
            if known.key == key and fits and not (known.quick and self._resting(doc)):
                return known
        if len(doc.sightings) > _SOLVED_AT_ONCE:
            return self._awaited(doc, key, placements)
        near = self._near(doc)
        found = _Solved(key, placements, *_made(doc, near), near is not None)
        self._known = [found, *self._known[:1]]
        return found

    def _resting(self, doc: Document) -> bool:
        return doc is self._session.committed

    def _near(self, doc: Document) -> Solution | None:
        """A solution that a drag begins from: of the same drawings and landmarks."""
        if self._resting(doc):
            return None
        for known in self._known:
            near = known.solution
            if near is None or near.gauge.scale or near.loose:
                continue
            same = [p.id for p in near.problem.pictures] == [d.id for d in doc.planes]
            if same and [m.name for m in near.problem.landmarks] == [m.name for m in doc.landmarks]:
                return near
        return None

    def _awaited(self, doc: Document, key: _Key, placements: tuple[Placement, ...]) -> _Solved:
        """What is shown until a worker has solved: the solution before, if it is of the same
        drawings."""

        def done(answer: tuple[Solution | None, str]) -> None:
            found = _Solved(key, placements, *answer, near is not None)
            self._known = [found, *self._known[:1]]

        near = self._near(doc)
        self._ask((key, placements), lambda: _made(doc, near), done)
        before = self._known[0].solution if self._known else None
        ids = [p.id for p in before.problem.pictures] if before is not None else []
        if ids == [d.id for d in doc.planes]:
            return _Solved(key, placements, before, _WORKING, stale=True)
        return _Solved(key, placements, None, _WORKING)

    def _ask(self, wanted: object, work: Callable[[], Any], done: Callable[[Any], None]) -> None:
        """Of what is asked for while the worker is busy only the last is done."""
        if self._wanted == wanted:
            return
        self._wanted = wanted

        def job() -> Any:
            return work() if self._wanted == wanted else None

        def finished(answer: Any) -> None:
            if self._wanted == wanted:
                self._wanted = None
                done(answer)
                self.solved.emit()

        def failed(error: Exception) -> None:
            if self._wanted == wanted:
                self._wanted = None
                self._session.warn(str(error))

        self._worker.run(job, finished, failed)

    def advice(self, doc: Document) -> Advice:
        """What does not agree, what cannot be known and what can be set right."""
        solved = self._solved(doc)
        solution = solved.solution
        if solution is None or solved.stale:
            return NO_ADVICE
        if not self._resting(doc):
            # While a mark is dragged only what is quickly known is said.
            return Advice((), _problems(solution), ())
        if self._advice is not None and self._advice[0] is solution:
            return self._advice[1]
        if len(solution.problem.sightings) > _ADVISED_AT_ONCE:

            def done(answer: Advice) -> None:
                self._advice = solution, answer

            self._ask(solution, lambda: _advised(solution), done)
            return NO_ADVICE
        self._advice = solution, _advised(solution)
        return self._advice[1]

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
        return self._worker.busy


def _made(doc: Document, near: Solution | None) -> tuple[Solution | None, str]:
    """Solve, from a solution that is near if there is one; and why not, in words."""
    if not any(m.counts for m in doc.sightings):
        return None, ""
    # Loaded with the first mark, not with the window.
    from dimetron.document.registering import problem_of
    from dimetron.registration.problem import RegistrationError
    from dimetron.registration.solve import solve
    from dimetron.registration.suspects import started

    try:
        problem = problem_of(doc)
        if near is not None:
            return solve(problem, started(near), quick=True), ""
        return solve(problem), ""
    except RegistrationError as error:
        return None, str(error)
    except np.linalg.LinAlgError:
        return None, "The marks contradict each other too much to be solved; remove some."


def _advised(solution: Solution) -> Advice:
    from dimetron.registration.diagnosis import findings
    from dimetron.registration.suspects import suspects

    return Advice(suspects(solution), _problems(solution), findings(solution))


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
