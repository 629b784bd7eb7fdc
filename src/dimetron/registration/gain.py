"""What registering gains against how the drawings lie now."""

from __future__ import annotations

from dataclasses import dataclass, replace

from dimetron.registration.problem import Problem
from dimetron.registration.solve import Solution, solve

#: What is left over must fall by more than this to be worth a change: with less, the marks do not
#: tell where the drawings lie from where they would.
_WORTH = 4.0


@dataclass(frozen=True, slots=True)
class Gain:
    """determines: whether the marks say anything of how the drawings lie. worth: whether they lie
    otherwise than the marks say. before_mm, after_mm: the mismatch (root mean square) as they lie
    now, the landmarks as well between them as can be, and registered."""

    determines: bool
    worth: bool
    before_mm: float
    after_mm: float


def gain_of(solution: Solution, problem: Problem) -> Gain:
    """By how much a solution betters how the drawings of its problem lie. Raises
    RegistrationError."""
    stay = replace(problem, pictures=tuple(replace(p, pinned=True) for p in problem.pictures))
    now = solve(stay)
    worth = now.cost - solution.cost > _WORTH
    told = determines(problem)
    return Gain(told, told and worth, now.rms_mm, solution.rms_mm)


def determines(problem: Problem) -> bool:
    """Whether marks, lengths or known coordinates say anything of how drawings lie or how large
    they are."""
    views = {p.id: p.view for p in problem.pictures}
    seen: dict[tuple[str, int], set[str]] = {}
    marked = set()
    for mark in problem.sightings:
        marked.add(mark.landmark)
        for axis in views[mark.picture].axes:
            if mark.axis in (None, axis):
                seen.setdefault((mark.landmark, axis), set()).add(mark.picture)
    if problem.picture_lengths or any(len(pictures) > 1 for pictures in seen.values()):
        return True
    if any(length.a in marked and length.b in marked for length in problem.lengths):
        return True
    return any(
        m.fixed[axis] is not None and (m.name, axis) in seen
        for m in problem.landmarks
        for axis in range(3)
    )
