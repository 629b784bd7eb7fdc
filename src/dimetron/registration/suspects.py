"""Which marks and lengths do not agree with the rest, ranked by what the rest would gain."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from dimetron.geometry.views import AXIS_NAMES
from dimetron.registration.problem import Problem, RegistrationError
from dimetron.registration.solve import Solution, solve
from dimetron.registration.start import Start

#: Marks that miss by more than so many of their own standard deviations are looked at.
_ODD = 3.3
#: As many are solved without, the oddest first.
_MOST_TRIED = 8
#: A mark that is left out must better the mismatch by this share to be named.
_WORTH = 0.12


@dataclass(frozen=True, slots=True)
class Suspect:
    """A mark that the rest would do better without. off_mm, (right, up) on the paper: from where
    the rest puts it to where it was marked; before, after: mismatch in mm with it and without."""

    sighting: int
    landmark: str
    picture: str
    off_mm: tuple[float, float]
    before_mm: float
    after_mm: float
    words: str

    @property
    def size_mm(self) -> float:
        """How far the mark is off."""
        return float(np.hypot(*self.off_mm))


def suspects(solution: Solution) -> tuple[Suspect, ...]:
    """The most suspicious mark first; nothing if all agree."""
    order = np.argsort(-solution.strength)[:_MOST_TRIED]
    odd = [int(i) for i in order if solution.strength[i] > _ODD * solution_noise(solution)]
    found = [suspect for i in odd if (suspect := _without(solution, i)) is not None]
    return tuple(sorted(found, key=lambda s: s.after_mm))


def solution_noise(solution: Solution) -> float:
    """The typical miss over its standard deviation, by the median, which a wrong mark leaves as
    it is; at least 1."""
    typical = float(np.median(solution.strength)) / 1.18 if len(solution.strength) else 1.0
    return max(1.0, typical)


def _without(solution: Solution, i: int) -> Suspect | None:
    problem = solution.problem
    mark = problem.sightings[i]
    others = problem.sightings[:i] + problem.sightings[i + 1 :]
    try:
        rest = solve(replace(problem, sightings=others), guess_from(solution))
    except (RegistrationError, np.linalg.LinAlgError):
        return None
    before, after = solution.rms_mm, rest.rms_mm
    where = expected(rest, mark.landmark, mark.picture)
    if where is None or after > before * (1 - _WORTH):
        return None
    view = problem.picture(mark.picture).view
    marked = rest.poses[mark.picture].to_plane(mark.px)
    off = marked - where
    if mark.axis is not None and mark.axis in view.paper_axes:
        off = off * (np.arange(2) == view.paper_axes.index(mark.axis))
    words = _words(problem, mark.landmark, mark.picture, off, before, after)
    return Suspect(
        i, mark.landmark, mark.picture, (float(off[0]), float(off[1])), before, after, words
    )


def expected(rest: Solution, landmark: str, picture: str) -> np.ndarray | None:
    """Where the rest puts a landmark on a view's paper; None where it cannot tell."""
    view = rest.problem.picture(picture).view
    point = rest.points[landmark]
    shown = np.abs(np.stack([view.directions.right, view.directions.up])).max(axis=0) > 1e-6
    if any(shown[axis] and point[axis] is None for axis in range(3)):
        return None
    return view.to_plane(np.array([0.0 if v is None else v for v in point]))


def _words(
    problem: Problem, landmark: str, picture: str, off: np.ndarray, before: float, after: float
) -> str:
    name = problem.picture(picture).name
    side = int(np.argmax(np.abs(off)))
    way = (("too far right", "too far left"), ("too high", "too low"))[side][int(off[side] < 0)]
    return (
        f"{landmark} in {name} is {abs(off[side]):.1f} mm {way}; without it the mismatch falls "
        f"from {before:.1f} to {after:.1f} mm"
    )


def guess_from(solution: Solution) -> Start:
    """A start from where a solution ended, for solving nearly the same again."""
    points = {name: list(at) for name, at in solution.points.items()}
    ids = [p.id for p in solution.problem.pictures]
    flips = np.array([solution.poses[i].mirrored for i in ids])
    return Start([solution.poses[i] for i in ids], flips, points)


def odd_lengths(solution: Solution) -> tuple[str, ...]:
    """Known lengths that the drawings and the other lengths contradict, in words."""
    found = []
    for length, off in zip(solution.problem.lengths, solution.length_off_mm, strict=True):
        ends = (*solution.sigmas[length.a], *solution.sigmas[length.b])
        marked = float(np.linalg.norm([v for v in ends if v is not None]))
        if abs(off) > 4 * float(np.hypot(length.sigma_mm, marked)):
            more = "more" if off > 0 else "less"
            found.append(
                f"the length {length.words} comes out {abs(off):.1f} mm {more} than the "
                f"{length.mm:g} mm it was given"
            )
    return tuple(found)


def unknown(solution: Solution) -> tuple[str, ...]:
    """What the marks do not determine, and what would settle it, in words."""
    said: list[str] = []
    problem = solution.problem
    if solution.gauge.scale:
        said.append("only proportions are known: give one known length or extent")
    by_picture: dict[str, list[str | int]] = {}
    for picture, freedom in solution.loose:
        by_picture.setdefault(picture, []).append(freedom)
    for picture, freedoms in by_picture.items():
        said.append(_unknown_of(problem, picture, freedoms))
    return tuple(said)


def _unknown_of(problem: Problem, id_: str, freedoms: list[str | int]) -> str:
    picture = problem.picture(id_)
    axes = [AXIS_NAMES[f] for f in freedoms if isinstance(f, int)]
    places = [f"place along {' and '.join(axes)}"] if 0 < len(axes) < len(picture.view.axes) else []
    if len(axes) == len(picture.view.axes):
        places = ["place"]
    words = {"scale": "size", "turn": "turn"}
    what = [*(words[f] for f in freedoms if isinstance(f, str)), *places]
    stays = "is not determined and stays" if len(what) == 1 else "are not determined and stay"
    cure = _cure(problem, id_, freedoms)
    return f"the {' and '.join(_enumerated(what))} of {picture.name} {stays}: {cure}"


def _cure(problem: Problem, id_: str, freedoms: list[str | int]) -> str:
    """What would settle what a drawing leaves open."""
    picture = problem.picture(id_)
    shared = _shared_axes(problem, id_)
    lacking = [AXIS_NAMES[a] for a in picture.view.axes if a not in shared]
    if len(lacking) == len(picture.view.axes):
        return "mark two of its landmarks in another drawing"
    if set(freedoms) == {"turn"}:
        return "mark one more of its landmarks in another drawing"
    if "scale" in freedoms and _most_shared(problem, id_) < 2:
        return f"it shares one landmark along {AXIS_NAMES[shared[0]]}; mark a second one"
    if not lacking:
        return "mark one or two more of its landmarks in other drawings"
    return f"mark one of its landmarks in a drawing that shows {' and '.join(lacking)}"


def _shared_axes(problem: Problem, id_: str) -> list[int]:
    """Axes along which a drawing shares a landmark with another one."""
    view = problem.picture(id_).view
    return [axis for axis in view.axes if _shared_along(problem, id_, axis)]


def _most_shared(problem: Problem, id_: str) -> int:
    """How many landmarks a drawing shares with others along the axis where it shares most."""
    axes = problem.picture(id_).view.axes
    return max((len(_shared_along(problem, id_, axis)) for axis in axes), default=0)


def _shared_along(problem: Problem, id_: str, axis: int) -> set[str]:
    """Landmarks of a drawing whose coordinate another drawing shows too, or that is known."""
    mine = {m.landmark for m in problem.sightings if m.picture == id_}
    shared = {
        m.landmark
        for m in problem.sightings
        if m.picture != id_
        and m.landmark in mine
        and axis in problem.picture(m.picture).view.axes
        and m.axis in (None, axis)
    }
    fixed = {m.name for m in problem.landmarks if m.fixed[axis] is not None}
    return shared | (fixed & mine)


def _enumerated(parts: list[str]) -> list[str]:
    """All but the last as one, with commas."""
    return [", ".join(parts[:-1]), parts[-1]] if len(parts) > 1 else parts
