"""What is not sound about the meshes: each with where it is and what mends it."""

from __future__ import annotations

from collections.abc import Sequence

from dimetron.app.kit.instrument import Action
from dimetron.app.ledger.page import NONE, LedgerPage, Place
from dimetron.app.ledger.table import Row
from dimetron.document.model import MeshObject
from dimetron.mesh.findings import Finding
from dimetron.mesh.operation import by_name


def _found(place: Place) -> list[tuple[MeshObject, Finding]]:
    session = place.session
    return [
        (item, one)
        for item in session.document.meshes
        if session.document.visible(item)
        for one in session.looking_over.of_item(item) or ()
    ]


def _key(item: MeshObject, one: Finding) -> str:
    return f"{item.id}:{one.name}"


def _rows(place: Place) -> list[Row]:
    rows = []
    for item, one in _found(place):
        mends = by_name(one.repair).title if one.repair else NONE
        rows.append(Row(_key(item, one), (item.name, one.words, mends)))
    return rows


def _words(place: Place) -> str:
    doc = place.session.document
    shown = [m for m in doc.meshes if doc.visible(m)]
    if not shown:
        return "No mesh is shown."
    if any(place.session.looking_over.of_item(m) is None for m in shown):
        return "The meshes are being looked over…"
    return "" if _found(place) else "All meshes are sound: nothing was found."


def _named(place: Place, key: str) -> tuple[MeshObject, Finding] | None:
    return next(((i, o) for i, o in _found(place) if _key(i, o) == key), None)


def _go_to(place: Place, key: str) -> None:
    """Where it is becomes selected."""
    found = _named(place, key)
    if found is not None:
        item, one = found
        place.session.choose((item.id,))
        place.session.select(one.where.kind, one.where.indices)


def _actions(place: Place) -> Sequence[Action]:
    def mend() -> None:
        chosen, part = place.session.chosen, place.session.part
        for item, one in _found(place):
            same = chosen == (item.id,) and one.where.kind is part.kind
            if one.repair and same and one.where.indices.tolist() == part.indices.tolist():
                place.mend(one.repair, dict(one.numbers))
                return
        place.session.refuse("Click a row that can be mended first.")

    hint = "Mend what the row gone to tells, with the operation it names"
    return (Action("mend", "Mend it", mend, hint, any(o.repair for _, o in _found(place))),)


PAGE = LedgerPage(
    "health",
    "Health",
    60,
    ("mesh", "what was found", "what mends it"),
    _rows,
    go_to=_go_to,
    words=_words,
    widths=((1, 520),),
    actions=_actions,
)
