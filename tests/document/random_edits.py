"""Any sequence of edits on a project, drawn by Hypothesis or by a seeded generator."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import replace
from functools import cache

import numpy as np
from PIL import Image

from dimetron.document import (
    aligning,
    edits,
    formulas,
    groups,
    loosening,
    placing,
    preparing,
    registering,
    size_references,
    sizing,
)
from dimetron.document.model import Document, Made, Source, new_id, source_from, with_item
from dimetron.document.parts import Floating, PaneLook, ReferenceKind, SavedLook
from dimetron.geometry import auxiliary
from dimetron.geometry.units import Unit
from dimetron.geometry.views import Hinge, View
from dimetron.imaging.frame import Crop, Flattening, Straightening
from dimetron.imaging.tone import Tone
from dimetron.mesh.layers import Layer, On
from dimetron.mesh.primitives import box
from dimetron.registration.problem import Length, PictureLength

Choice = Callable[[int], int]
_NAMES = ("nose", "tail", "eye left", "eye right", "f\udcffoot", "a\nb", "x" * 900)


@cache
def source() -> Source:
    out = io.BytesIO()
    Image.new("L", (60, 40), 200).save(out, "PNG")
    return source_from(out.getvalue(), "sheet \udcff.png", "png", (60, 40), 0.1)


class _Picked(LookupError):
    """There is nothing to pick from yet."""


class Edits:
    """``choose(n)`` gives a number from 0 to n - 1."""

    def __init__(self, choose: Choice) -> None:
        self._choose = choose

    def any_of(self, things: object) -> object:
        listed = list(things)  # type: ignore[call-overload]
        if not listed:
            raise _Picked
        return listed[self._choose(len(listed))]

    def drawing(self, doc: Document) -> str:
        return self.any_of(doc.drawings).id  # type: ignore[attr-defined]

    def landmark(self, doc: Document) -> str:
        return self.any_of(doc.landmarks).name  # type: ignore[attr-defined]

    def number(self, low: float, high: float) -> float:
        return low + (high - low) * self._choose(1001) / 1000

    def apply(self, doc: Document) -> tuple[Document, str]:
        """One more edit; what the core refuses, or has nothing to work on, leaves it as it is."""
        name = str(self.any_of(sorted(_EDITS)))
        try:
            return _EDITS[name](self, doc), name
        except (_Picked, ValueError):
            return doc, f"{name} (nothing)"


def _mark(e: Edits, doc: Document) -> Document:
    px = (e.number(0, 60), e.number(0, 40))
    return registering.marked(doc, str(e.any_of(_NAMES)), e.drawing(doc), px)


def _length(e: Edits, doc: Document) -> Document:
    axis = e.any_of((None, 0, 1, 2))
    known = Length(e.landmark(doc), e.landmark(doc), e.number(1, 500), axis)  # type: ignore[arg-type]
    return registering.with_length(doc, known)


def _picture_length(e: Edits, doc: Document) -> Document:
    known = PictureLength(e.drawing(doc), (1.0, 1.0), (e.number(5, 60), 9.0), e.number(1, 900))
    return registering.with_drawing_length(doc, known)


def _look(e: Edits, doc: Document) -> Document:
    panes = (("side", PaneLook(e.any_of(doc.views).key, "solid")),)  # type: ignore[attr-defined]
    where = (e.number(-1e7, 1e7), 0.0, 0.0)
    look = SavedLook(
        new_id(), "look", panes, ("side",), None, (0.5, 0.5), where, 1.0, where, 30.0, 20.0, 1.0,
        False, tuple(d.id for d in doc.drawings), 1 + len(doc.looks),
    )  # fmt: skip
    return replace(doc, looks=(*doc.looks, look))


def _inclined(e: Edits, doc: Document) -> Document:
    hinge = Hinge(View.FRONT, (0, 0, e.number(-9, 9)), (1, 0, 0), e.number(-80, 80))
    view = auxiliary.tilted(new_id(), placing.free_view_name(doc, "slope"), hinge)
    return placing.with_auxiliary(doc, view)


def _group(e: Edits, doc: Document) -> Document:
    return groups.grouped(doc, (e.any_of(doc.items).id,))[0]  # type: ignore[attr-defined]


def _turn_sheet(e: Edits, doc: Document) -> Document:
    how = Flattening(straightening=Straightening(1, e.number(-5, 5)), scale=e.number(0.5, 2))
    return preparing.flattened(doc, e.any_of(doc.sheets).id, how)  # type: ignore[attr-defined]


def _crop(e: Edits, doc: Document) -> Document:
    crop = Crop(e.number(0, 20), e.number(0, 9), e.number(1, 30), e.number(1, 30))
    return preparing.recropped(doc, e.drawing(doc), crop)


def _cut(e: Edits, doc: Document) -> Document:
    sheet = e.any_of(doc.sheets).id  # type: ignore[attr-defined]
    return preparing.cut(doc, sheet, Crop(2, 2, 20, 20), View.TOP)[0]


def _propose(e: Edits, doc: Document) -> Document:
    sheet = e.any_of(doc.sheets).id  # type: ignore[attr-defined]
    return preparing.with_found_views(
        doc, sheet, [preparing.FoundView(Crop(1, 1, 9, 9), View.LEFT, "small")]
    )


def _float(e: Edits, doc: Document) -> Document:
    floating = Floating("plan", (e.number(0, 99), 3.0), (90.0, 80.0))
    return loosening.floated(doc, e.any_of(doc.loose).id, floating)  # type: ignore[attr-defined]


def _resize(e: Edits, doc: Document) -> Document:
    item = e.any_of(doc.references)
    size = size_references.resized(item, 0, e.number(1, 1e6)).size  # type: ignore[arg-type]
    return with_item(doc, item.id, size=size)  # type: ignore[attr-defined]


def _layer(e: Edits, doc: Document) -> Document:
    item = e.any_of(doc.meshes)
    mesh = item.mesh  # type: ignore[attr-defined]
    names = tuple(_NAMES[:2])
    crease = Layer(On.EDGE, np.full(len(mesh.topology.edges), e.number(0, 1), np.float32))
    group = Layer(On.FACE, np.arange(mesh.topology.face_count, dtype=np.int32) % 2, -1, names)
    mesh = mesh.with_layer("crease", crease).with_layer("group", group)
    return with_item(doc, item.id, mesh=mesh)  # type: ignore[attr-defined]


_EDITS: dict[str, Callable[[Edits, Document], Document]] = {
    "bring": lambda e, d: edits.with_drawing(
        d,
        replace(source(), id=new_id()),
        e.any_of(d.views),  # type: ignore[arg-type]
    )[0],
    "sheet": lambda e, d: edits.with_sheet(d, replace(source(), id=new_id()))[0],
    "box": lambda e, d: edits.with_mesh(d, box((0, 0, 0), (1, 2, e.number(1, 9))), "box")[0],
    "made": lambda e, d: with_item(
        d,
        e.any_of(d.meshes).id,  # type: ignore[attr-defined]
        even=e.any_of(((), ("x",), ("x", "z"))),
        made=Made("extrude", (("distance", e.number(-9, 9)), ("along", "out")), (d.meshes[0].id,)),
    ),
    "layer": _layer,
    "delete": lambda e, d: edits.without_item(d, e.any_of(d.items).id),  # type: ignore[attr-defined]
    "remove sheet": lambda e, d: edits.without_sheet(d, e.any_of(d.sheets).id),  # type: ignore[attr-defined]
    "loosen": lambda e, d: loosening.loosened(d, e.drawing(d)),
    "align": lambda e, d: loosening.aligned(d, e.any_of(d.loose).id, View.BACK),  # type: ignore[attr-defined]
    "loose": lambda e, d: loosening.with_loose(d, replace(source(), id=new_id()))[0],
    "float": _float,
    "mark": _mark,
    "guide": lambda e, d: registering.guided(
        d,
        e.landmark(d),
        e.drawing(d),
        e.any_of((None, 0, 1, 2)),  # type: ignore[arg-type]
    ),
    "forget": lambda e, d: registering.without_landmark(d, e.landmark(d)),
    "rename": lambda e, d: registering.renamed_landmark(d, e.landmark(d), str(e.any_of(_NAMES))),
    "fix": lambda e, d: registering.with_fixed(d, e.landmark(d), 1, e.number(-9, 9)),
    "twin": lambda e, d: registering.with_mirror(d, e.landmark(d), e.landmark(d)),
    "length": _length,
    "picture length": _picture_length,
    "pin": lambda e, d: registering.with_pinned(d, e.drawing(d), bool(e._choose(2))),
    "trust": lambda e, d: registering.with_trust(d, e.drawing(d), e.number(0.1, 9)),
    "look": _look,
    "inclined": _inclined,
    "put on a view": lambda e, d: edits.moved_to_view(d, e.drawing(d), e.any_of(d.views)),  # type: ignore[arg-type]
    "drop a view": lambda e, d: placing.without_auxiliary(d, e.any_of(d.auxiliaries).id),  # type: ignore[attr-defined]
    "group": _group,
    "ungroup": lambda e, d: groups.ungrouped(d, e.any_of(d.groups).id),  # type: ignore[attr-defined]
    "alone": lambda e, d: groups.alone(d, (e.any_of(d.items).id,)),  # type: ignore[attr-defined]
    "reference": lambda e, d: size_references.with_reference(d, e.any_of(ReferenceKind))[0],  # type: ignore[arg-type]
    "resize": _resize,
    "name": lambda e, d: with_item(d, e.any_of(d.items).id, name=e.any_of(_NAMES)),  # type: ignore[attr-defined]
    "scale all": lambda e, d: sizing.scaled_project(d, e.number(0.01, 300)),
    "turn the sheet": _turn_sheet,
    "crop": _crop,
    "cut": _cut,
    "propose": _propose,
    "place": lambda e, d: preparing.place_all(d, e.any_of(d.sheets).id),  # type: ignore[attr-defined]
    "tone": lambda e, d: preparing.with_tone(d, e.drawing(d), Tone(brightness=e.number(-1, 1))),
    "duplicate": lambda e, d: placing.duplicated(d, e.drawing(d))[0],
    "slide": lambda e, d: edits.slid(d, e.drawing(d), (e.number(-1e7, 1e7), 1.0)),
    "level": lambda e, d: aligning.put_edge(d, e.drawing(d), "bottom", e.number(-9, 9)),
    "formula": lambda e, d: formulas.with_formula(d, e.drawing(d), "scale", "=front.scale*2"),
    "width": lambda e, d: edits.with_extent(d, e.drawing(d), 0, e.number(0.1, 1e6)),
    "sheet scale": lambda e, d: preparing.with_sheet_scale(
        d,
        e.any_of(d.sheets).id,
        e.number(1e-6, 1e6),  # type: ignore[attr-defined]
    ),
    "unit": lambda e, d: replace(d, unit=e.any_of(Unit)),  # type: ignore[arg-type]
}


def seeded(seed: int) -> Edits:
    rng = np.random.default_rng(seed)
    return Edits(lambda n: int(rng.integers(n)))
