"""Size references: things of known size that stand beside the object."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, replace

import numpy as np
from numpy.typing import ArrayLike

from dimetron.document import size_references
from dimetron.document.kind import ItemKind, Json, Reading, Told
from dimetron.document.model import Document
from dimetron.document.parts import Reference, ReferenceKind
from dimetron.geometry.views import AnyView, Auxiliary, Triple


def _to_json(item: Reference) -> Json:
    own = {"gauge": item.gauge.value, "size": list(item.size), "at": list(item.at)}
    return {**asdict(item), **own}


def _from_json(tree: Json, reading: Reading) -> Reference:
    return Reference(
        tree["id"],
        tree["name"],
        ReferenceKind(tree["gauge"]),
        _triple(tree["size"]),
        _triple(tree["at"]),
        tree["shown"],
        tree["held"],
        tree["group"],
    )


def _triple(values: list[float]) -> Triple:
    return float(values[0]), float(values[1]), float(values[2])


def _scaled(item: Reference, factor: float, views: Mapping[str, Auxiliary]) -> Reference:
    size, at = ([value * factor for value in triple] for triple in (item.size, item.at))
    return replace(item, size=_triple(size), at=_triple(at))


def _moved(item: Reference, by: ArrayLike, view: AnyView) -> Reference:
    return replace(
        item, at=_triple((np.array(item.at) + view.to_world(np.asarray(by, dtype=float))).tolist())
    )


def _told(doc: Document, item: Reference) -> Json:
    return {"name": item.name, "kind": item.gauge.value, "size_mm": list(item.size)}


def _words(told: Json) -> str:
    return f"size     {told['name']}: {' × '.join(f'{s:g}' for s in told['size_mm'])} mm"


KIND = ItemKind(
    "reference",
    "references",
    Reference,
    _to_json,
    _from_json,
    Told("size_references", _told, _words),
    lies=lambda doc, item: size_references.reference_box(item),
    scaled=_scaled,
    moved=_moved,
    lines=size_references.reference_lines,
)
