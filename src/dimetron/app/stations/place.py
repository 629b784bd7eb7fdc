"""Place: drawings are stood in space, sized and aligned."""

from __future__ import annotations

from dimetron.app.stations.spec import Place, StationSpec
from dimetron.app.tools.align import Align
from dimetron.app.tools.arrange import Arrange
from dimetron.app.tools.lengths import KnownLength, Measure
from dimetron.app.tools.match import MatchPoints
from dimetron.app.tools.place import PutPoint
from dimetron.app.tools.tilt import AuxiliaryView
from dimetron.counting import counted


def _state(place: Place) -> str:
    doc = place.session.document
    if not doc.planes:
        return "no drawings yet"
    views = counted(len({d.view for d in doc.planes}), "view", "views")
    return f"{counted(len(doc.planes), 'drawing', 'drawings')}, {views}"


def _to_do(place: Place) -> str:
    doc = place.session.document
    if not doc.planes:
        return "Bring in a drawing to begin."
    if len(doc.planes) == 1:
        return "Bring in the other views, each onto its pane."
    return ""


STATION = StationSpec(
    "place",
    "Place",
    20,
    _state,
    _to_do,
    (Arrange, KnownLength, Align, MatchPoints, PutPoint, Measure, AuxiliaryView),
    plain="arrange",
    actions=("bring",),
)
