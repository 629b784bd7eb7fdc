"""The stations of the route in words: how each stands, and what is still to do."""

from __future__ import annotations

from dimetron.app.handoff import HandOff
from dimetron.app.registering import Registration
from dimetron.app.session import Session
from dimetron.geometry.units import format_length

#: More views than this are counted instead of named.
_VIEWS_NAMED = 3


def counted(number: int, one: str, many: str) -> str:
    return f"{number} {one if number == 1 else many}"


def prepare_state(session: Session) -> str:
    doc = session.document
    if not doc.sheets:
        return "no sheet yet"
    words = counted(len(doc.sheets), "sheet", "sheets")
    return f"{words}, {counted(len(doc.drawings), 'drawing', 'drawings')}"


def prepare_to_do(session: Session) -> str:
    doc = session.document
    if not doc.sheets:
        return "Bring in a sheet to begin."
    waiting = [d for d in doc.drawings if not d.placed]
    unnamed = [d for d in waiting if not d.named]
    if unnamed:
        return f"Say which view {counted(len(unnamed), 'drawing shows', 'drawings show')}."
    if waiting:
        return f"{counted(len(waiting), 'drawing waits', 'drawings wait')} to be placed."
    return ""


def place_state(session: Session) -> str:
    doc = session.document
    if not doc.planes:
        return "no drawings yet"
    views = list(dict.fromkeys(d.view.title for d in doc.planes))
    words = counted(len(doc.planes), "drawing", "drawings")
    if len(views) > _VIEWS_NAMED:
        return f"{words} on {len(views)} views"
    return f"{words}: {', '.join(views)}"


def place_to_do(session: Session) -> str:
    doc = session.document
    if not doc.planes:
        return "Bring in a drawing to begin."
    if len(doc.planes) == 1:
        return "Bring in the other views, each onto its pane."
    return ""


def register_state(session: Session, registration: Registration) -> str:
    # Not the preview: while things are dragged the state need not follow.
    doc = session.committed
    if not doc.sightings:
        return "nothing marked yet"
    words = counted(len(doc.landmarks), "landmark", "landmarks")
    solution = registration.solution(doc)
    if solution is None:
        return words
    return f"{words}, {format_length(solution.rms_mm, doc.unit)} mismatch"


def register_to_do(session: Session) -> str:
    doc = session.document
    if len(doc.planes) < 2:
        return "Place two drawings first."
    if not doc.sightings:
        return "Mark a point of the object in two drawings."
    seen = [m.landmark for m in doc.sightings]
    once = [m.name for m in doc.landmarks if seen.count(m.name) == 1]
    return f"Mark {once[0]} in a second drawing." if once else ""


def model_state(session: Session) -> str:
    meshes = session.document.meshes
    if not meshes:
        return "no mesh yet"
    faces = sum(m.mesh.topology.face_count for m in meshes)
    words = counted(faces, "face", "faces")
    return f"{meshes[0].name}, {words}" if len(meshes) == 1 else f"{len(meshes)} meshes, {words}"


def hand_off_state(panel: HandOff) -> str:
    return f"exported {panel.exported[-1].name}" if panel.exported else "nothing exported yet"


def hand_off_to_do(session: Session) -> str:
    return "" if session.document.meshes else "Add a mesh first, or export the drawings alone."
