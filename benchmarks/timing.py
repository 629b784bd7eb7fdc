"""Medians of repeated runs, taken in turn so that both sides see the same machine."""

from __future__ import annotations

import json
import statistics
import time
from collections.abc import Callable


def in_turn(ours: Callable[[], None], bare: Callable[[], None], rounds: int) -> tuple[float, float]:
    """Median milliseconds of each, run alternately."""
    both: tuple[list[float], list[float]] = ([], [])
    for work in (ours, bare):
        work()
    for _ in range(rounds):
        for times, work in zip(both, (ours, bare), strict=True):
            begin = time.perf_counter()
            work()
            times.append((time.perf_counter() - begin) * 1000)
    return statistics.median(both[0]), statistics.median(both[1])


def report(*rows: dict[str, object]) -> None:
    print(json.dumps(rows))


def row(what: str, ours: float, bare: float | None, goal: str) -> dict[str, object]:
    return {"what": what, "ours_ms": ours, "bare_ms": bare, "goal": goal}


def fact(what: str, value: str, goal: str) -> dict[str, object]:
    """A figure that is no time."""
    return {"what": what, "value": value, "goal": goal}
