"""Register: scale and place of the drawings are solved for."""

from __future__ import annotations

from dimetron.app.stations.spec import Place, StationSpec
from dimetron.app.tools.mark import MarkLandmarks
from dimetron.app.tools.propose import ProposeByInk
from dimetron.counting import counted
from dimetron.geometry.units import format_length


def _state(place: Place) -> str:
    # Not the preview: while things are dragged the state need not follow.
    doc = place.session.committed
    if not doc.sightings:
        return "nothing marked yet"
    solution = place.registration.solution(doc)
    if solution is None:
        return counted(len(doc.landmarks), "landmark", "landmarks")
    return f"{format_length(solution.rms_mm, doc.unit)} mismatch"


def _to_do(place: Place) -> str:
    doc = place.session.document
    if len(doc.planes) < 2:
        return "Place two drawings first."
    if not doc.sightings:
        return "Mark a point of the object in two drawings."
    seen = [m.landmark for m in doc.sightings]
    once = [m.name for m in doc.landmarks if seen.count(m.name) == 1]
    return f"Mark {once[0]} in a second drawing." if once else ""


STATION = StationSpec(
    "register",
    "Register",
    30,
    _state,
    _to_do,
    (ProposeByInk, MarkLandmarks),
    plain="mark",
    actions=("ledger",),
)
