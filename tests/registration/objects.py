"""Made-up objects with known truth: landmarks in space, drawings of them, marks with noise."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.geometry.views import View
from dimetron.registration.pose import Pose
from dimetron.registration.problem import Landmark, Length, Picture, Problem, Sighting

THREE = (View.FRONT, View.RIGHT, View.TOP)


@dataclass(frozen=True)
class Truth:
    problem: Problem
    poses: tuple[Pose, ...]
    points: np.ndarray


def made(
    rng: np.random.Generator,
    views: Sequence[View] = THREE,
    count: int = 10,
    noise: float = 1.0,
    mirrored: Sequence[bool] = (),
    turn_deg: float = 2.0,
    lengths: int = 1,
    anchored: bool = False,
) -> Truth:
    """count landmarks within 300 mm, each marked in every view. anchored: the first landmark's
    coordinates are known, so that nothing is left to convention."""
    points = rng.uniform((-150, -150, 0), (150, 150, 300), (count, 3))
    poses, pictures, marks = [], [], []
    for i, view in enumerate(views):
        scale = 0.2 * rng.uniform(0.5, 2.0)
        turn = np.radians(rng.uniform(-turn_deg, turn_deg))
        origin = (float(rng.uniform(500, 2000)), float(rng.uniform(500, 2000)))
        flipped = bool(mirrored[i]) if mirrored else False
        pose = Pose(float(np.cos(turn)) / scale, float(np.sin(turn)) / scale, origin, flipped)
        px = pose.to_px(view.to_plane(points)) + rng.normal(size=(count, 2)) * noise
        poses.append(pose)
        pictures.append(Picture(f"p{i}", view.value, view))
        marks += [
            Sighting(f"m{k}", f"p{i}", (float(px[k, 0]), float(px[k, 1]))) for k in range(count)
        ]
    landmarks = []
    for k in range(count):
        at = points[0] if anchored and k == 0 else (None,) * 3
        landmarks.append(Landmark(f"m{k}", tuple(None if v is None else float(v) for v in at)))
    known = []
    for j in range(lengths):
        mm = float(np.linalg.norm(points[2 * j] - points[2 * j + 1]))
        known.append(Length(f"m{2 * j}", f"m{2 * j + 1}", mm))
    problem = Problem(tuple(pictures), tuple(landmarks), tuple(marks), tuple(known))
    return Truth(problem, tuple(poses), points)


@dataclass(frozen=True)
class Few:
    """A set as people begin it. alike: whether its drawings are of one sheet; shared: pairs of
    drawings with two marks well apart along an axis that both show, and more so than across it,
    where half a degree is worth a hundredth."""

    truth: Truth
    alike: bool
    shared: tuple[tuple[int, int], ...]


def few(seed: int, count: int, noise: float = 1.0) -> Few:
    """Three drawings that stand level, on the ground and about the centre line as people place
    them, of one sheet or each of another size; and 2 to 4 landmarks at the ends of the object,
    every second of them marked in two of the drawings only."""
    rng = np.random.default_rng([seed, count])
    half = rng.uniform(40, 160, 3)
    points = rng.uniform(-0.5, 0.5, (count, 3)) * half
    for k in range(count):  # an end of the object along some axis
        axis = (k // 2 + seed) % 3
        points[k, axis] = half[axis] * (-1 if k % 2 else 1) * rng.uniform(0.8, 1.0)
    points[:, 2] += half[2]
    alike = bool(seed % 2)
    poses, pictures, marks = [], [], []
    shrunk = rng.uniform(0.3, 3.0)
    for i, view in enumerate(THREE):
        scale = 0.2 * (1.0 if alike else rng.uniform(0.67, 1.5))
        turn = np.radians(np.clip(rng.normal(0, 0.5), -1.2, 1.2))
        high = half[2] * 2 if view is not View.TOP else 0.0
        origin = (600.0 + float(rng.uniform(-4, 4)), 200.0 + high / scale)
        pose = Pose(float(np.cos(turn)) / scale, float(np.sin(turn)) / scale, origin)
        poses.append(pose)
        lies = scale * shrunk * (1.0 if alike else float(np.exp(rng.normal(0, 0.15))))
        now = Pose(1.0 / lies, 0.0, origin)
        pictures.append(Picture(f"p{i}", view.value, view, now, body="sheet" if alike else ""))
    for k in range(count):
        seen = [0, 1, 2] if k % 2 == 0 else list(rng.permutation(3)[:2])
        for i in sorted(seen):
            px = poses[i].to_px(THREE[i].to_plane(points[k])) + rng.normal(size=2) * noise
            marks.append(Sighting(f"m{k}", f"p{i}", (float(px[0]), float(px[1]))))
    landmarks = tuple(Landmark(f"m{k}") for k in range(count))
    problem = Problem(tuple(pictures), landmarks, tuple(marks), in_place=True)
    return Few(Truth(problem, tuple(poses), points), alike, _shared(problem, points))


def _shared(problem: Problem, points: np.ndarray) -> tuple[tuple[int, int], ...]:
    """Pairs of pictures that share two landmarks at least 40 mm apart along an axis."""
    seen = [
        {int(m.landmark[1:]) for m in problem.sightings if m.picture == p.id}
        for p in problem.pictures
    ]
    found = []
    for i, j in ((0, 1), (0, 2), (1, 2)):
        both = points[sorted(seen[i] & seen[j])]
        if len(both) < 2:
            continue
        wide = np.ptp(both, axis=0)
        axes = set(problem.pictures[i].view.axes) & set(problem.pictures[j].view.axes)
        if any(wide[a] > max(60.0, 1.2 * np.delete(wide, a).max()) for a in axes):
            found.append((i, j))
    return tuple(found)
