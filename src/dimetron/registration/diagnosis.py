"""What is wrong with marks and drawings, in words, and how it can be set right."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from dimetron.registration.bent import Bent, bent
from dimetron.registration.problem import Problem, RegistrationError, Sighting
from dimetron.registration.solve import POOR, Solution, solve
from dimetron.registration.start import other_starts
from dimetron.registration.suspects import expected, guess_from, solution_noise, suspects

#: A mark lies at another landmark's place if that is nearer by this factor, and the mismatch falls
#: to this share with the names set right.
_NEARER, _BETTER = 0.25, 0.6


@dataclass(frozen=True, slots=True)
class Finding:
    """words: what is wrong. repair: what the problem would be with it set right, and do: the words
    for doing so; None and empty if nothing can be done here."""

    words: str
    do: str = ""
    repair: Problem | None = None


def findings(solution: Solution) -> tuple[Finding, ...]:
    """Misnamed marks; else mirrored drawings, then bent ones: while a mark bears a wrong name
    nothing else can be told from the solution."""
    misnamed = _misnamed(solution) or _misnamed_elsewhere(solution)
    return misnamed or (*_mirrored(solution), *_bent(solution))


def _misnamed_elsewhere(solution: Solution) -> tuple[Finding, ...]:
    """Misnamed marks that lead solving itself astray, as to which drawing is mirrored above all:
    looked for from where other starts end."""
    problem = solution.problem
    if solution.noise < POOR:
        return ()
    flips = np.array([solution.poses[p.id].mirrored for p in problem.pictures])
    for start in other_starts(problem, flips):
        try:
            found = _misnamed(solve(problem, start))
        except (RegistrationError, np.linalg.LinAlgError):
            continue
        if found and _is_better(solution, found[0]):
            return found
    return ()


def _misnamed(solution: Solution) -> tuple[Finding, ...]:
    """Marks of one drawing that lie where another landmark belongs."""
    problem = solution.problem
    odd = np.flatnonzero(solution.strength > 3.3 * solution_noise(solution))
    if not len(odd):
        return ()
    odd = odd[np.argsort(-solution.strength[odd])]
    for picture in dict.fromkeys(problem.sightings[i].picture for i in odd):
        # Two that are exchanged draw others along: only the oddest two are looked at.
        mine = {int(i) for i in odd if problem.sightings[i].picture == picture}
        mine = set(sorted(mine, key=lambda i: -solution.strength[i])[:2])
        others = tuple(m for i, m in enumerate(problem.sightings) if i not in mine)
        try:
            rest = solve(replace(problem, sightings=others), guess_from(solution))
        except (RegistrationError, np.linalg.LinAlgError):
            continue
        for i in sorted(mine):
            found = _renamed(problem, rest, problem.sightings[i])
            if found is not None and _is_better(solution, found):
                return (found,)
    return ()


def _renamed(problem: Problem, rest: Solution, mark: Sighting) -> Finding | None:
    """A mark under the name of the landmark whose place it is at; an exchange if that is marked
    at the mark's own place."""
    pose, picture = rest.poses[mark.picture], problem.picture(mark.picture)
    places = {}
    for landmark in problem.landmarks:
        where = expected(rest, landmark.name, mark.picture)
        if where is not None:
            places[landmark.name] = pose.to_px(where)
    own = places.pop(mark.landmark, None)
    if own is None or not places:
        return None
    away = {name: float(np.hypot(*(at - mark.px))) for name, at in places.items()}
    nearest = min(away, key=lambda name: away[name])
    if away[nearest] > _NEARER * float(np.hypot(*(own - mark.px))):
        return None
    there = [m for m in problem.sightings if (m.landmark, m.picture) == (nearest, mark.picture)]
    names = {mark.landmark: nearest, nearest: mark.landmark} if there else {mark.landmark: nearest}
    marks = tuple(
        replace(m, landmark=names.get(m.landmark, m.landmark)) if m.picture == mark.picture else m
        for m in problem.sightings
    )
    repaired = replace(problem, sightings=marks)
    if there:
        words = f"{mark.landmark} and {nearest} seem to be exchanged in {picture.name}"
        return Finding(words, f"Exchange {mark.landmark} and {nearest}", repaired)
    words = f"the mark of {mark.landmark} in {picture.name} lies where {nearest} belongs"
    return Finding(words, f"Let it mark {nearest}", repaired)


def _is_better(solution: Solution, finding: Finding) -> bool:
    assert finding.repair is not None
    try:
        after = solve(finding.repair)
    except (RegistrationError, np.linalg.LinAlgError):
        return False
    return after.rms_px < _BETTER * solution.rms_px and after.noise < solution.noise


def _mirrored(solution: Solution) -> tuple[Finding, ...]:
    """Drawings that the marks show the other way round than they lie now."""
    found = []
    for picture in solution.problem.pictures:
        loose = any(id_ == picture.id for id_, _ in solution.loose)
        turned = solution.poses[picture.id].mirrored != picture.present.mirrored
        if turned and not picture.pinned and not loose:
            found.append(
                Finding(f"{picture.name} is drawn the wrong way round; registering turns it over")
            )
    return tuple(found)


def _without_worst(solution: Solution, ways: tuple[Bent, ...]) -> tuple[Bent, ...]:
    odd = suspects(solution)
    if not odd:
        return ways
    marks = solution.problem.sightings
    i = odd[0].sighting
    try:
        rest = solve(
            replace(solution.problem, sightings=marks[:i] + marks[i + 1 :]), guess_from(solution)
        )
    except (RegistrationError, np.linalg.LinAlgError):
        return ()
    return bent(rest)


def _bent(solution: Solution) -> tuple[Finding, ...]:
    problem = solution.problem
    ways = bent(solution)
    if ways:
        # One wrong mark can look like a bend; a bend is still there without the worst mark.
        ways = _without_worst(solution, ways)
    if not ways:
        return ()
    names = [problem.picture(b.picture).name for b in ways]
    first = ways[0]
    one_of = f"; {' or '.join(names[1:])} would explain it as well" if names[1:] else ""
    if first.kind == "stretch":
        more = "long" if first.amount > 0 else "short"
        words = f"{names[0]} looks stretched, {abs(first.amount):.1%} too {more} upwards{one_of}"
        if names[1:]:
            return (Finding(f"{words}: a known length along another axis would tell"),)
        pictures = tuple(
            replace(p, stretched=True) if p.id == first.picture else p for p in problem.pictures
        )
        do = f"Scale {names[0]} apart"
        return (Finding(words, do, replace(problem, pictures=pictures)),)
    if first.kind == "shear":
        slant = f"{abs(first.amount):.1f}°"
        return (Finding(f"{names[0]} looks sheared by {slant}{one_of}: straighten it in Prepare"),)
    share = f"{abs(first.amount):.0%}"
    words = f"{names[0]} looks taken in perspective, its scale {share} apart across it{one_of}"
    return (Finding(f"{words}: flatten it in Prepare"),)
