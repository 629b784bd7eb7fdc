"""Prepare: sheets are cut, straightened and cleaned."""

from __future__ import annotations

from dimetron.app.sheet.cut import CutViews
from dimetron.app.sheet.figure import SayDrawn
from dimetron.app.sheet.flatten import FlattenPhoto
from dimetron.app.sheet.scan import ScanSheet
from dimetron.app.sheet.size import SizeSheet
from dimetron.app.sheet.straighten import Straighten
from dimetron.app.sheet.tone import SetTone
from dimetron.app.stations.spec import Place, StationSpec
from dimetron.counting import counted


def _state(place: Place) -> str:
    doc = place.session.document
    if not doc.sheets:
        return "no sheet yet"
    words = counted(len(doc.sheets), "sheet", "sheets")
    return f"{words}, {counted(len(doc.drawings), 'drawing', 'drawings')}"


def _to_do(place: Place) -> str:
    doc = place.session.document
    if not doc.sheets:
        return "Bring in a sheet to begin."
    waiting = [d for d in doc.drawings if not d.placed]
    unnamed = [d for d in waiting if not d.named]
    if unnamed:
        return f"Say which view {counted(len(unnamed), 'drawing shows', 'drawings show')}."
    if waiting:
        return f"{counted(len(waiting), 'drawing waits', 'drawings wait')} to be placed."
    return ""


STATION = StationSpec(
    "prepare",
    "Prepare",
    10,
    _state,
    _to_do,
    (CutViews, SayDrawn, Straighten, FlattenPhoto, SetTone, SizeSheet, ScanSheet),
    plain="cut",
    actions=("bring", "browse"),
    at_sheet=True,
)
