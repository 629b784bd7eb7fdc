"""How a project was handed off last: remembered with it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from dimetron.document.model import Document

Json = dict[str, Any]


def handed(doc: Document, way: str) -> dict[str, float | str | bool]:
    """The numbers and choices of a way by name; none if it was not used yet."""
    return dict(next((numbers for name, numbers in doc.hand_off if name == way), ()))


def with_handed(doc: Document, way: str, how: Mapping[str, float | str | bool]) -> Document:
    """The project with a way's numbers and choices remembered."""
    if handed(doc, way) == dict(how):
        return doc
    others = tuple(row for row in doc.hand_off if row[0] != way)
    return replace(doc, hand_off=(*others, (way, tuple(how.items()))))


def handing_json(doc: Document) -> Json:
    """Plain JSON data."""
    return {"hand_off": {name: dict(numbers) for name, numbers in doc.hand_off}}


def handing_from(tree: Json) -> Json:
    """The document's own values, by the name of its fields, from a checked tree."""
    found = tree["hand_off"].items()
    return {"hand_off": tuple((name, tuple(numbers.items())) for name, numbers in found)}
