"""What a project is checked for in ``project.json``: sizes and notes."""

from __future__ import annotations

from typing import Any

from dimetron.document.model import Document, PinnedNote, SizeCheck, SizeEnd

Json = dict[str, Any]


def checks_json(doc: Document) -> Json:
    """Plain JSON data."""
    return {
        "sizes": [
            {
                "id": check.id,
                "name": check.name,
                "mm": check.mm,
                "tolerance_mm": check.tolerance_mm,
                "axis": check.axis,
                "ends": [
                    {"mesh": end.mesh, "spot": end.spot, "landmark": end.landmark}
                    for end in check.ends
                ],
                "of": check.of,
            }
            for check in doc.sizes
        ],
        "notes": [
            {"id": note.id, "text": note.text, "view": note.view, "at": list(note.at)}
            for note in doc.notes
        ],
    }


def checks_from(tree: Json) -> Json:
    """The document's own values, by the name of its fields, from a checked tree."""
    return {
        "sizes": tuple(_size(one) for one in tree["sizes"]),
        "notes": tuple(_note(one) for one in tree["notes"]),
    }


def _size(tree: Json) -> SizeCheck:
    ends = tuple(SizeEnd(end["mesh"], end["spot"], end["landmark"]) for end in tree["ends"])
    return SizeCheck(
        tree["id"],
        tree["name"],
        float(tree["mm"]),
        float(tree["tolerance_mm"]),
        tree["axis"],
        ends,
        tree["of"],
    )


def _note(tree: Json) -> PinnedNote:
    x, y, z = (float(v) for v in tree["at"])
    return PinnedNote(tree["id"], tree["text"], tree["view"], (x, y, z))
