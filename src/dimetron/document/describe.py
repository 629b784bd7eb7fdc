"""What is in a project, as plain data for scripts and in words for people."""

from __future__ import annotations

from typing import Any

from dimetron.document.kind import kinds
from dimetron.document.model import Document


def described(doc: Document) -> dict[str, Any]:
    """Plain JSON data; lengths in millimetres. position_mm (3,): where the middle of a drawing
    stands; corners_mm (4, 3): top-left, top-right, bottom-right, bottom-left."""
    return {
        "unit": doc.unit.value,
        "projection": doc.projection.value,
        **{k.told.key: [k.told.data(doc, item) for item in k.of(doc)] for k in kinds()},
        "auxiliary_views": [
            {"name": a.name, "right": list(a.right), "up": list(a.up), "through": list(a.through)}
            for a in doc.auxiliaries
        ],
    }


def in_words(told: dict[str, Any]) -> str:
    """The same for reading, one line an item."""
    lines = [f"unit {told['unit']}, {told['projection']} projection"]
    lines += [kind.told.words(data) for kind in kinds() for data in told[kind.told.key]]
    lines += [f"view     {a['name']}: auxiliary" for a in told["auxiliary_views"]]
    return "\n".join(lines)
