"""What is known of the object in ``project.json``: landmarks, marks, lengths, trust."""

from __future__ import annotations

from typing import Any

from dimetron.document.model import Document
from dimetron.registration.problem import Landmark, Length, PictureLength, Sighting

Json = dict[str, Any]


def landmarks_json(doc: Document) -> Json:
    """Plain JSON data."""
    return {
        "landmarks": [
            {"name": m.name, "fixed": list(m.fixed), "mirror": m.mirror} for m in doc.landmarks
        ],
        "sightings": [
            {
                "landmark": m.landmark,
                "drawing": m.picture,
                "px": list(m.px),
                "sigma_px": m.sigma_px,
                "axis": m.axis,
                "counts": m.counts,
            }
            for m in doc.sightings
        ],
        "lengths": [
            {
                "a": n.a,
                "b": n.b,
                "mm": n.mm,
                "axis": n.axis,
                "tolerance_mm": n.tolerance_mm,
                "counts": n.counts,
            }
            for n in doc.lengths
        ],
        "drawing_lengths": [
            {
                "drawing": n.picture,
                "a_px": list(n.a_px),
                "b_px": list(n.b_px),
                "mm": n.mm,
                "tolerance_mm": n.tolerance_mm,
                "counts": n.counts,
            }
            for n in doc.drawing_lengths
        ],
        "pinned": list(doc.pinned),
        "trust": dict(doc.trust),
    }


#: What a project lacks in which nothing is known.
NO_LANDMARKS = landmarks_json(Document())


def landmarks_from(tree: Json) -> Json:
    """The document's own values, by the name of its fields, from a checked tree."""
    return {
        "landmarks": tuple(_landmark(m) for m in tree["landmarks"]),
        "sightings": tuple(_sighting(m) for m in tree["sightings"]),
        "lengths": tuple(_length(n) for n in tree["lengths"]),
        "drawing_lengths": tuple(_drawing_length(n) for n in tree["drawing_lengths"]),
        "pinned": tuple(tree["pinned"]),
        "trust": tuple((id_, float(v)) for id_, v in tree["trust"].items()),
    }


def from_format_3(tree: Json) -> Json:
    """A project of format 3, in which all marks and lengths counted and every drawing alike, as one
    of 4."""
    counted = {
        kind: [{"counts": True, **m} if isinstance(m, dict) else m for m in tree[kind]]
        for kind in ("sightings", "lengths")
        if isinstance(tree.get(kind), list)
    }
    return {**NO_LANDMARKS, **tree, **counted, "version": 4}


def _landmark(tree: Json) -> Landmark:
    x, y, z = (None if v is None else float(v) for v in tree["fixed"])
    return Landmark(tree["name"], (x, y, z), tree["mirror"])


def _sighting(tree: Json) -> Sighting:
    return Sighting(
        tree["landmark"],
        tree["drawing"],
        _pair(tree["px"]),
        float(tree["sigma_px"]),
        tree["axis"],
        tree["counts"],
    )


def _length(tree: Json) -> Length:
    return Length(
        tree["a"], tree["b"], float(tree["mm"]), tree["axis"], _maybe(tree), tree["counts"]
    )


def _drawing_length(tree: Json) -> PictureLength:
    return PictureLength(
        tree["drawing"],
        _pair(tree["a_px"]),
        _pair(tree["b_px"]),
        float(tree["mm"]),
        _maybe(tree),
        tree["counts"],
    )


def _maybe(tree: Json) -> float | None:
    tolerance = tree["tolerance_mm"]
    return None if tolerance is None else float(tolerance)


def _pair(values: list[float]) -> tuple[float, float]:
    return float(values[0]), float(values[1])
