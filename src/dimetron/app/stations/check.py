"""Check: how far the meshes miss their drawings, while one works."""

from __future__ import annotations

from dimetron.app.stations.spec import Place, StationSpec
from dimetron.app.tools.leave_out import LeaveOut
from dimetron.app.tools.miss import HoldAgainst
from dimetron.app.tools.pin_note import PinNote
from dimetron.app.tools.pull import PullToDrawings
from dimetron.app.tools.size_check import SizeCheckTool
from dimetron.app.tools.tie_landmark import TieLandmark
from dimetron.document.fitting import compared, counts, missed_most
from dimetron.geometry.units import format_length


def _state(place: Place) -> str:
    found = missed_most(place.fitting.last)
    if found is None:
        return "not looked at yet"
    worst, miss = found
    most = format_length(miss.largest, place.session.unmoved.unit)
    return f"{most} in {worst.drawing.view.title}"


def _to_do(place: Place) -> str:
    doc = place.session.document
    if not compared(doc):
        return "Place a drawing first."
    if not any(counts(doc, item) for item in doc.meshes):
        return "Model or show a mesh first."
    return ""


STATION = StationSpec(
    "check",
    "Check",
    60,
    _state,
    _to_do,
    (HoldAgainst, LeaveOut, PullToDrawings, SizeCheckTool, TieLandmark, PinNote),
    plain="miss",
    actions=("ledger",),
)
