"""Graduations: the steps of an adaptive grid, in the unit people read it in."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from dimetron.geometry.units import MM_PER_INCH, Unit
from dimetron.geometry.views import Vector

#: Inch steps: fractions to 1/64, then inches, feet and whole multiples of feet.
_INCH_STEPS = (
    *(MM_PER_INCH / 2**n for n in range(6, 0, -1)),
    *(MM_PER_INCH * n for n in (1, 3, 6, 12, 24, 60, 120, 240, 600, 1200, 12000)),
)


@dataclass(frozen=True, slots=True)
class Graduation:
    """Fine and coarse line distance in millimetres; coarse lines carry the numbers."""

    fine: float
    coarse: float


def graduation(mm_per_px: float, unit: Unit, fine_px: float = 9.0) -> Graduation:
    """The finest graduation whose fine lines stand at least ``fine_px`` pixels apart."""
    least = mm_per_px * fine_px
    if unit in (Unit.INCH, Unit.FEET_INCHES):
        for step in _INCH_STEPS:
            if step >= least and least > _INCH_STEPS[0] / 4:
                coarse = next((s for s in _INCH_STEPS if s >= 3.9 * step), step * 5)
                return Graduation(step, coarse)
    exponent = math.floor(math.log10(least))
    for factor in (1.0, 2.0, 5.0, 10.0, 20.0):
        step = factor * 10.0**exponent
        if step >= least * (1 - 1e-9):
            return Graduation(step, step * (5 if factor in (2.0, 20.0) else 10))
    raise AssertionError("a step of 1, 2 or 5 always fits within a decade")


def ticks(low: float, high: float, step: float) -> Vector:
    """Multiples of ``step`` in [low, high], (n,)."""
    first, last = math.ceil(low / step - 1e-9), math.floor(high / step + 1e-9)
    return np.arange(first, last + 1, dtype=np.float64) * step


def snapped(value: float, step: float) -> float:
    """The multiple of ``step`` nearest to ``value``."""
    return round(value / step) * step
