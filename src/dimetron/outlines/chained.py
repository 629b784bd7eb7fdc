"""Open paths that end where others begin, put together."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.spatial import cKDTree

from dimetron.outlines.edit import closed
from dimetron.outlines.path import Path, joined, turned_round


def chained(paths: Sequence[Path], within: float) -> list[Path]:
    """Paths joined where just two ends meet; what comes back to its beginning is closed."""
    open_ = [path for path in paths if not path.closed]
    done = [path for path in paths if path.closed]
    if not open_:
        return done
    ends = np.array([path.points[k] for path in open_ for k in (0, -1)])
    near = cKDTree(ends).query_ball_point(ends, within)
    partner = [
        next(k for k in group if k != end) if len(group) == 2 else -1
        for end, group in enumerate(near)
    ]
    used: set[int] = set()
    begins = [end for end in range(len(ends)) if partner[end] < 0] + list(range(len(ends)))
    for begin in begins:
        if begin // 2 in used:
            continue
        run, at = [], begin
        while at // 2 not in used:
            used.add(at // 2)
            path = open_[at // 2]
            run.append(path if at % 2 == 0 else turned_round(path))
            on = partner[at ^ 1]
            if on < 0:
                break
            at = on
        whole = _joined(run)
        back = len(whole) > 2 and float(np.hypot(*(whole.points[0] - whole.points[-1]))) <= within
        done.append(closed(_met(whole)) if back else whole)
    return done


def nearest_joined(paths: Sequence[Path]) -> Path:
    """Open paths as one, each turned and put where its end lies nearest to the one that is there;
    ends in one place become one point, others are joined the straight way."""
    left = list(paths[1:])
    whole = paths[0]
    while left:
        best, turn_whole, turn_other, gap = 0, False, False, np.inf
        for number, other in enumerate(left):
            for a in (0, -1):
                for b in (0, -1):
                    away = float(np.hypot(*(whole.points[a] - other.points[b])))
                    if away < gap:
                        best, turn_whole, turn_other, gap = number, a == 0, b == -1, away
        other = left.pop(best)
        whole = turned_round(whole) if turn_whole else whole
        whole = joined([whole, turned_round(other) if turn_other else other])
    return whole


def _joined(run: Sequence[Path]) -> Path:
    """One after the other, each begun exactly where the one before ended."""
    placed = [run[0]]
    for path in run[1:]:
        placed.append(_begun(path, placed[-1].points[-1]))
    return joined(placed)


def _begun(path: Path, at: np.ndarray) -> Path:
    points = path.points.copy()
    points[0] = at
    return Path(points, path.before, path.after, path.corner, path.radius, path.closed)


def _met(path: Path) -> Path:
    points = path.points.copy()
    points[-1] = points[0]
    return Path(points, path.before, path.after, path.corner, path.radius, path.closed)
