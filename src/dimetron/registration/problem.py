"""What registration works on: drawings, landmarks, sightings of them, known lengths."""

from __future__ import annotations

import math
from collections import Counter
from dataclasses import dataclass

from dimetron.geometry.views import AXIS_NAMES, AnyView
from dimetron.registration.pose import Pose

#: How exactly a known length is known, if it is not said: a share of it, and never less than mm.
LENGTH_SHARE, LENGTH_LEAST_MM = 2e-4, 0.02
#: Known coordinates that differ by less are the same.
_SAME_MM = 1e-6
UNPLACED = Pose()
Pair = tuple[float, float]


class RegistrationError(ValueError):
    """What was given has no meaning; the message says what and where."""


@dataclass(frozen=True, slots=True)
class Picture:
    """A drawing as registration sees it. present: where it lies now; trust: how much its sightings
    count against others'; pinned: it stays where it is; stretched: its height is scaled apart;
    body: what it was drawn on with others, as large as they are; empty if with none."""

    id: str
    name: str
    view: AnyView
    present: Pose = UNPLACED
    trust: float = 1.0
    pinned: bool = False
    stretched: bool = False
    body: str = ""


@dataclass(frozen=True, slots=True)
class Landmark:
    """A named point of the object. fixed: known coordinates in mm, None where one is not known
    (0 for Z is the ground, 0 for X the centre plane); mirror: its twin beyond the centre plane."""

    name: str
    fixed: tuple[float | None, float | None, float | None] = (None, None, None)
    mirror: str | None = None


@dataclass(frozen=True, slots=True)
class Sighting:
    """Where a landmark was marked in a drawing: pixels of the drawing, and how exactly.

    axis: None, or the one world axis it counts for (a guide line). counts: if not, it is shown how
    far it misses and nothing follows from it."""

    landmark: str
    picture: str
    px: Pair
    sigma_px: float = 1.0
    axis: int | None = None
    counts: bool = True


@dataclass(frozen=True, slots=True)
class Length:
    """A known distance in mm between two landmarks, or along one world axis. counts: if not, it is
    only compared with what comes out."""

    a: str
    b: str
    mm: float
    axis: int | None = None
    tolerance_mm: float | None = None
    counts: bool = True

    @property
    def sigma_mm(self) -> float:
        """How exactly it is known: its tolerance, else a share of it."""
        if self.tolerance_mm is not None:
            return max(self.tolerance_mm, 1e-6)
        return max(LENGTH_SHARE * self.mm, LENGTH_LEAST_MM)

    @property
    def words(self) -> str:
        """What it is called where it is told of."""
        along = "" if self.axis is None else f" along {AXIS_NAMES[self.axis]}"
        return f"{self.a} to {self.b}{along}"


@dataclass(frozen=True, slots=True)
class PictureLength:
    """A known distance in mm between two points of one drawing. counts: as of ``Length``."""

    picture: str
    a_px: Pair
    b_px: Pair
    mm: float
    tolerance_mm: float | None = None
    counts: bool = True

    @property
    def sigma_share(self) -> float:
        """How exactly it is known, as a share."""
        if self.tolerance_mm is not None:
            return max(self.tolerance_mm / self.mm, 1e-9)
        return max(LENGTH_SHARE, LENGTH_LEAST_MM / self.mm)

    @property
    def px(self) -> float:
        """How far apart its ends are in the drawing."""
        return math.hypot(self.b_px[0] - self.a_px[0], self.b_px[1] - self.a_px[1])


@dataclass(frozen=True, slots=True)
class Problem:
    """in_place: along axes on which nothing fixes the origin, the object stays about where the
    pictures put it now, instead of on the ground about the origin."""

    pictures: tuple[Picture, ...]
    landmarks: tuple[Landmark, ...]
    sightings: tuple[Sighting, ...]
    lengths: tuple[Length, ...] = ()
    picture_lengths: tuple[PictureLength, ...] = ()
    in_place: bool = False

    def picture(self, id_: str) -> Picture:
        """The picture with this id. Raises StopIteration."""
        return next(p for p in self.pictures if p.id == id_)


def checked(problem: Problem) -> Problem:
    """The same problem. Raises RegistrationError for what has no meaning."""
    pictures = {p.id: p for p in problem.pictures}
    landmarks = {m.name for m in problem.landmarks}
    if len(landmarks) != len(problem.landmarks):
        twice = Counter(m.name for m in problem.landmarks).most_common(1)[0][0]
        raise RegistrationError(f"The landmark “{twice}” is there twice; give one another name.")
    for mark in problem.sightings:
        if mark.picture not in pictures:
            raise RegistrationError(f"“{mark.landmark}” is marked in a drawing that is not there.")
        if mark.landmark not in landmarks:
            raise RegistrationError(f"There is no landmark “{mark.landmark}”.")
        if not all(math.isfinite(v) for v in (*mark.px, mark.sigma_px)) or mark.sigma_px <= 0:
            name = pictures[mark.picture].name
            raise RegistrationError(f"“{mark.landmark}” in {name} is not marked at a place.")
    _check_twice(problem)
    _check_lengths(problem, landmarks, set(pictures))
    _check_mirrors(problem, landmarks)
    return problem


def _check_twice(problem: Problem) -> None:
    seen: set[tuple[str, str, int | None]] = set()
    for mark in problem.sightings:
        key = mark.landmark, mark.picture, mark.axis
        if key in seen:
            name = problem.picture(mark.picture).name
            raise RegistrationError(f"“{mark.landmark}” is marked twice in {name}; remove one.")
        seen.add(key)


def _check_lengths(problem: Problem, landmarks: set[str], pictures: set[str]) -> None:
    for length in problem.lengths:
        for name in (length.a, length.b):
            if name not in landmarks:
                raise RegistrationError(f"A length names “{name}”, which is no landmark.")
        if length.a == length.b:
            raise RegistrationError(f"A length goes from “{length.a}” to itself.")
        if not (math.isfinite(length.mm) and length.mm > 0):
            raise RegistrationError(f"The length {length.words} must be more than zero.")
    for known in problem.picture_lengths:
        if known.picture not in pictures:
            raise RegistrationError("A length lies in a drawing that is not there.")
        if not (math.isfinite(known.mm) and known.mm > 0 and known.px > 0):
            raise RegistrationError("A length between two points must be more than zero.")


def _check_mirrors(problem: Problem, landmarks: set[str]) -> None:
    for mark in problem.landmarks:
        if mark.mirror is None:
            continue
        if mark.mirror not in landmarks or mark.mirror == mark.name:
            raise RegistrationError(f"“{mark.name}” is mirrored by “{mark.mirror}”, which is not.")
        _check_twins(mark, next(m for m in problem.landmarks if m.name == mark.mirror))
        fixed = [v for v in mark.fixed if v is not None]
        if not all(math.isfinite(v) for v in fixed):
            raise RegistrationError(f"A coordinate of “{mark.name}” is not a number.")


def _check_twins(one: Landmark, other: Landmark) -> None:
    """What is known of two landmarks that mirror each other must be mirrored, too."""
    for axis, sign in enumerate((-1.0, 1.0, 1.0)):
        a, b = one.fixed[axis], other.fixed[axis]
        if a is not None and b is not None and abs(a - sign * b) > _SAME_MM:
            raise RegistrationError(
                f"“{one.name}” and “{other.name}” mirror each other, but {AXIS_NAMES[axis]} "
                f"{a:g} mm and {b:g} mm do not; leave one of them open."
            )
