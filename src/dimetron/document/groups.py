"""The order of cards in the tray, and groups of them. Pure functions ``document -> document``."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from dimetron.document.edits import numbered
from dimetron.document.model import Document, Item, new_id, with_item
from dimetron.document.names import plain_name
from dimetron.document.parts import Group


def tray_order(doc: Document) -> tuple[Item | Group, ...]:
    """Cards and groups as they lie in the tray: each group followed by what is in it."""
    rank = {id_: place for place, id_ in enumerate(doc.order)}
    beyond = len(rank)
    items = sorted(doc.items, key=lambda item: rank.get(item.id, beyond))
    groups = {group.id: group for group in doc.groups}
    heaps: dict[str, list[Item]] = {id_: [] for id_ in groups}
    for item in items:
        if item.group in heaps:
            heaps[item.group].append(item)
    top: list[Item | Group] = [i for i in items if i.group not in heaps]
    top.extend(groups.values())
    # Without a rank of its own a group lies where its first card would.
    first = {
        id_: min((rank.get(i.id, beyond) for i in heap), default=beyond)
        for id_, heap in heaps.items()
    }
    top.sort(key=lambda part: rank.get(part.id, first.get(part.id, beyond)))
    laid: list[Item | Group] = []
    for part in top:
        laid.append(part)
        if isinstance(part, Group):
            laid.extend(heaps[part.id])
    return tuple(laid)


def members(doc: Document, group: str) -> tuple[Item, ...]:
    """What is in a group, in tray order."""
    return tuple(
        part for part in tray_order(doc) if not isinstance(part, Group) and part.group == group
    )


def grouped(doc: Document, ids: Sequence[str], name: str = "group") -> tuple[Document, str]:
    """Put items into a new group; returns the document and the group's id."""
    group = Group(new_id(), numbered(name, {g.name for g in doc.groups}))
    laid = [part.id for part in tray_order(doc)]
    at = min((laid.index(id_) for id_ in ids if id_ in laid), default=len(laid))
    laid.insert(at, group.id)
    doc = replace(doc, groups=(*doc.groups, group), order=tuple(laid))
    for id_ in ids:
        doc = with_item(doc, id_, group=group.id)
    return doc, group.id


def ungrouped(doc: Document, group: str) -> Document:
    """Take a group apart; what was in it stays where it lay."""
    laid = tuple(part.id for part in tray_order(doc) if part.id != group)
    for item in members(doc, group):
        doc = with_item(doc, item.id, group=None)
    return replace(doc, groups=tuple(g for g in doc.groups if g.id != group), order=laid)


def with_group(doc: Document, id_: str, **changes: object) -> Document:
    """Change a group's name, or whether it is shown, held or folded."""
    if "name" in changes:
        changes["name"] = plain_name(str(changes["name"]))
    groups = tuple(
        replace(g, **changes) if g.id == id_ else g  # type: ignore[arg-type]
        for g in doc.groups
    )
    return replace(doc, groups=groups)


def laid_before(doc: Document, id_: str, before: str | None, group: str | None) -> Document:
    """Lay a card (or a group) before another one, or last, inside a group or outside of all."""
    laid = [part.id for part in tray_order(doc) if part.id != id_]
    if doc.group(id_) is None:
        doc = with_item(doc, id_, group=group if doc.group(group) is not None else None)
    at = laid.index(before) if before in laid else len(laid)
    laid.insert(at, id_)
    return replace(doc, order=tuple(laid))


def hidden(doc: Document) -> tuple[Item, ...]:
    """Everything that is not to be seen because of its card, its group, or another shown alone."""
    return tuple(item for item in doc.items if not doc.visible(item))


def all_shown(doc: Document) -> Document:
    """Show every card and group, and nothing alone."""
    for item in doc.items:
        if not item.shown:
            doc = with_item(doc, item.id, shown=True)
    groups = tuple(replace(g, shown=True) for g in doc.groups)
    return replace(doc, groups=groups, solo=())


def alone(doc: Document, ids: Sequence[str]) -> Document:
    """Show items alone among their kind; if they are alone already, show the others again."""
    wanted = tuple(ids)
    on = set(wanted) <= set(doc.solo)
    kinds = {type(doc.item(id_)) for id_ in wanted}
    others = tuple(i for i in doc.solo if type(doc.item(i)) not in kinds)
    return replace(doc, solo=others if on else (*others, *wanted))
