"""Trace: outlines drawn on the ink, and solids made from them."""

from __future__ import annotations

from dimetron.app.stations.spec import Place, StationSpec
from dimetron.app.tools.tracing.block import BlockOut
from dimetron.app.tools.tracing.follow import FollowInk
from dimetron.app.tools.tracing.guides import Guides
from dimetron.app.tools.tracing.itself import TraceItself
from dimetron.app.tools.tracing.letters import Letters
from dimetron.app.tools.tracing.make import MakeSolid
from dimetron.app.tools.tracing.points import EditPoints
from dimetron.app.tools.tracing.shapes import BeginShape
from dimetron.counting import counted
from dimetron.document.outline import outlines_of


def _state(place: Place) -> str:
    found = outlines_of(place.session.document)
    return counted(len(found), "outline", "outlines") if found else "nothing traced yet"


def _to_do(place: Place) -> str:
    doc = place.session.document
    return "" if doc.planes else "Place a drawing first."


STATION = StationSpec(
    "trace",
    "Trace",
    40,
    _state,
    _to_do,
    (FollowInk, EditPoints, TraceItself, BeginShape, Letters, MakeSolid, BlockOut, Guides),
    plain="points",
    compact=True,
)
