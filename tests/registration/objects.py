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
