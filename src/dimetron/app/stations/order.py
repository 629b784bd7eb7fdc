"""The stations in working order, and where a tool belongs."""

from __future__ import annotations

from functools import cache

from dimetron.app.sheet.tool import SheetTool
from dimetron.app.stations.spec import StationSpec
from dimetron.app.tools.base import Tool
from dimetron.standing import modules_in, values_in


@cache
def stations() -> tuple[StationSpec, ...]:
    """Every station there is, in working order."""
    found = {
        spec.name: spec
        for module in modules_in(__name__.rpartition(".")[0])
        for spec in values_in(module, StationSpec)
    }
    return tuple(sorted(found.values(), key=lambda spec: spec.order))


def sheet_tools() -> tuple[type[SheetTool], ...]:
    return tuple(t for s in stations() for t in s.tools if issubclass(t, SheetTool))


def board_tools() -> tuple[type[Tool], ...]:
    return tuple(t for s in stations() for t in s.tools if issubclass(t, Tool))


def station(name: str) -> StationSpec:
    return next(spec for spec in stations() if spec.name == name)


def station_of(tool: str) -> StationSpec:
    """The station that a tool belongs to."""
    return next(spec for spec in stations() if any(t.name == tool for t in spec.tools))
