"""Hand off: everything out in open forms."""

from __future__ import annotations

from dimetron.app.stations.spec import Place, StationSpec


def _state(place: Place) -> str:
    written = place.hand_off.exported
    return f"written: {written}" if written else "nothing written yet"


def _to_do(place: Place) -> str:
    meshes = place.session.document.meshes
    return "" if meshes else "Add a mesh first, or hand off the drawings alone."


STATION = StationSpec("hand-off", "Hand off", 70, _state, _to_do, shows_hand_off=True)
