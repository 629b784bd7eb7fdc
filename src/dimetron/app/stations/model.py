"""Model: meshes are built over the drawings."""

from __future__ import annotations

from dimetron.app.stations.spec import Place, StationSpec
from dimetron.app.tools.cut_across import CutAcross
from dimetron.app.tools.health import Health
from dimetron.app.tools.lattice import LatticeTool
from dimetron.app.tools.linked import LinkedCopies
from dimetron.app.tools.operate import Operate, tool_for
from dimetron.app.tools.place_part import PlacePart
from dimetron.app.tools.resize import Resize
from dimetron.app.tools.section import CutSection
from dimetron.app.tools.shape import Shape
from dimetron.app.tools.span import Span
from dimetron.app.tools.start import starting_tool
from dimetron.app.tools.to_the_ink import ToTheInk
from dimetron.app.tools.turn import Turn
from dimetron.counting import counted
from dimetron.mesh.operation import operations
from dimetron.mesh.starter import starters


def _state(place: Place) -> str:
    meshes = place.session.document.meshes
    if not meshes:
        return "no mesh yet"
    faces = sum(m.mesh.topology.face_count for m in meshes)
    words = counted(faces, "face", "faces")
    return f"{meshes[0].name}, {words}" if len(meshes) == 1 else f"{len(meshes)} meshes, {words}"


STATION = StationSpec(
    "model",
    "Model",
    50,
    _state,
    tools=(
        *(Shape, Turn, Resize, CutSection, ToTheInk, CutAcross),
        *(LatticeTool, LinkedCopies, PlacePart, Health),
        *(starting_tool(one) for one in starters().values()),
        *(tool_for(o, Span if o.stations else Operate) for o in operations().values() if o.dragged),
    ),
    plain="shape",
    operations=tuple(o for o in operations().values() if not o.dragged),
)
