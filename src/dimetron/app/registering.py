"""The solution of the project's marks, worked out anew only when something it rests on changed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QObject

from dimetron.app.session import Session
from dimetron.document.model import Document
from dimetron.geometry.placement import Placement

if TYPE_CHECKING:
    from dimetron.registration.solve import Solution
    from dimetron.registration.suspects import Suspect

_Key = tuple[object, ...]
#: Suspects are told beside the first while they leave no more than this share of what it gains.
_NEARLY = 0.15


@dataclass(frozen=True, slots=True, eq=False)
class _Solved:
    key: _Key
    placements: tuple[Placement, ...]
    solution: Solution | None
    fault: str

    @property
    def determined(self) -> bool:
        """Whether the marks tell everything; else it rests on where drawings lie now, too."""
        found = self.solution
        return found is None or not (found.gauge.scale or found.loose)


class Registration(QObject):
    """Solutions by what they rest on; a drag asks for one with each move."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        #: The last two: while a mark is dragged, the project with it and without.
        self._known: list[_Solved] = []
        self._suspected: tuple[Solution, tuple[Suspect, ...]] | None = None
        self._worded: tuple[Solution, tuple[str, ...]] | None = None

    def solution(self, doc: Document) -> Solution | None:
        """None if there is nothing to solve, or it cannot be; ``fault`` says why."""
        return self._solved(doc).solution

    def fault(self, doc: Document) -> str:
        """Why there is no solution, in words; empty if there is one or nothing is marked."""
        return self._solved(doc).fault

    def _solved(self, doc: Document) -> _Solved:
        key, placements = _key(doc), tuple(d.placement for d in doc.planes)
        for known in self._known:
            if known.key == key and (known.determined or known.placements == placements):
                return known
        found = _Solved(key, placements, *self._made(doc))
        self._known = [found, *self._known[:1]]
        return found

    def _made(self, doc: Document) -> tuple[Solution | None, str]:
        if not doc.sightings:
            return None, ""
        # Loaded with the first mark, not with the window.
        from dimetron.document.registering import problem_of
        from dimetron.registration.problem import RegistrationError
        from dimetron.registration.solve import solve

        try:
            return solve(problem_of(doc)), ""
        except RegistrationError as error:
            return None, str(error)
        except np.linalg.LinAlgError:
            return None, "The marks contradict each other too much to be solved; remove some."

    def suspects(self, doc: Document) -> tuple[Suspect, ...]:
        """Marks that do not agree with the rest, the oddest first."""
        solution = self.solution(doc)
        if solution is None:
            return ()
        if self._suspected is None or self._suspected[0] is not solution:
            from dimetron.registration.suspects import suspects

            self._suspected = solution, suspects(solution)
        return self._suspected[1]

    def suspected_words(self, doc: Document) -> tuple[str, ...]:
        """The first suspect in words, and others that explain nearly as much."""
        found = self.suspects(doc)
        if not found:
            return ()
        best = found[0]
        near = best.after_mm + _NEARLY * (best.before_mm - best.after_mm)
        return tuple(s.words for s in found if s.after_mm <= near)

    def problems(self, doc: Document) -> tuple[str, ...]:
        """What cannot be known, and lengths that contradict each other, in words."""
        solution = self.solution(doc)
        if solution is None:
            return ()
        if self._worded is None or self._worded[0] is not solution:
            from dimetron.registration.suspects import odd_lengths, unknown

            self._worded = solution, (*unknown(solution), *odd_lengths(solution))
        return self._worded[1]


def _key(doc: Document) -> _Key:
    """What a solution rests on. Where drawings lie now counts for what is pinned."""
    drawings = tuple(
        (d.id, d.name, d.view, d.aspect_locked, d.placement if d.id in doc.pinned else None)
        for d in doc.planes
    )
    return drawings, doc.landmarks, doc.sightings, doc.lengths, doc.pinned
