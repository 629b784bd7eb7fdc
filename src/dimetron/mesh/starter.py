"""Shapes to begin with, as data: each fills a box, with numbers that can be changed.

A shape stands in one module of ``mesh/starters/`` and is registered by standing there.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache
from typing import Any

import numpy as np

from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import Parameter, checked, parameters_of
from dimetron.standing import modules_in, values_in

#: Thinner than this is nothing.
_LEAST_MM = 1e-6


@dataclass(frozen=True, slots=True)
class Starter:
    """make: the shape in a box from -1 to 1 along each axis, upright along Z. flat: it has no
    height, and lies in the plane of the pane it is drawn in. round: it is as deep as wide. order:
    among the shapes."""

    name: str
    title: str
    sentence: str
    icon: str
    order: int
    settings: type
    make: Callable[[Any], Mesh]
    key: str = ""
    flat: bool = False
    round: bool = False
    parameters: tuple[Parameter, ...] = field(init=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "parameters", parameters_of(self.settings))

    def filling(self, low: Floats, high: Floats, axis: int, how: Any) -> Mesh:
        """The shape in the box between two corners (3,), upright along an axis. Raises MeshError
        for a box without room."""
        sides = np.asarray(high, float) - low
        open_ = [k for k in range(3) if not (self.flat and k == axis)]
        if not (sides[open_] > _LEAST_MM).all():
            raise MeshError("A shape needs a width, a depth and a height of more than zero.")
        made = self.make(checked(how))
        # Z goes over to the axis, and the other two follow in turn.
        places = np.roll(made.positions, axis - 2, axis=1)
        middle = (np.asarray(low, float) + high) / 2
        return made.with_positions(places * (sides / 2) + middle)


@cache
def starters() -> dict[str, Starter]:
    """All shapes by name, in their order."""
    modules = modules_in("dimetron.mesh.starters")
    found = [value for module in modules for value in values_in(module, Starter)]
    return {one.name: one for one in sorted(found, key=lambda one: one.order)}
