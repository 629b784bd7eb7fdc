"""What is not sound about the meshes: each with where it is and what mends it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from dimetron.app.kit.instrument import Action, Field
from dimetron.app.ledger.page import NONE, LedgerPage, Place
from dimetron.app.ledger.table import Row
from dimetron.document.model import MeshObject
from dimetron.mesh.findings import Finding
from dimetron.mesh.operation import by_name


def _shown(place: Place) -> list[MeshObject]:
    doc = place.session.document
    return [item for item in doc.meshes if doc.visible(item)]


def _of(place: Place, item: MeshObject) -> tuple[tuple[Finding, ...] | None, ...]:
    """What is found at once, and what takes longer; None of what is not known yet."""
    over = place.session.looking_over
    return over.of_item(item), over.deeper(item.mesh)


def _found(place: Place) -> Iterator[tuple[MeshObject, Finding]]:
    for item in _shown(place):
        for part in _of(place, item):
            for one in part or ():
                yield item, one


def _key(item: MeshObject, one: Finding) -> str:
    return f"{item.id}:{one.name}"


def _rows(place: Place) -> list[Row]:
    rows = []
    for item, one in _found(place):
        mends = by_name(one.repair).title if one.repair else NONE
        rows.append(Row(_key(item, one), (item.name, one.words, mends)))
    return rows


def _words(place: Place) -> str:
    shown = _shown(place)
    if not shown:
        return "No mesh is shown."
    if any(part is None for item in shown for part in _of(place, item)):
        return "The meshes are being looked over…"
    return "" if any(_found(place)) else "All meshes are sound: nothing was found."


def _of_row(place: Place, key: str | None) -> tuple[MeshObject, Finding] | None:
    return next(((i, one) for i, one in _found(place) if _key(i, one) == key), None)


def _go_to(place: Place, key: str) -> None:
    """Where it is becomes selected."""
    found = _of_row(place, key)
    if found is not None:
        item, one = found
        place.session.choose((item.id,))
        place.session.select(one.where.kind, one.where.indices)


def _actions(place: Place) -> Sequence[Action]:
    def mend() -> None:
        key = place.row
        found = _of_row(place, key)
        if key is None or found is None or not found[1].repair:
            place.session.refuse("Click a row that can be mended first.")
            return
        _go_to(place, key)
        place.mend(found[1].repair, dict(found[1].numbers))

    hint = "Mend what the row gone to tells, with the operation it names"
    return (Action("mend", "Mend it", mend, hint, any(o.repair for _, o in _found(place))),)


def _fields(place: Place) -> Sequence[Field]:
    over = place.session.looking_over
    hint = "Walls that are thinner than this are listed"
    return (Field("Thin walls under", over.wall_mm, over.set_wall, hint=hint),)


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
    fields=_fields,
)
