"""Meshes, planes and lines as files of open formats."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from dimetron.document.model import Document
from dimetron.formats.format import Carries, standard, writers
from dimetron.handoff.views import ALL, VIEWS, view_key
from dimetron.handoff.way import Given, HandOffError, Way
from dimetron.mesh.parameters import choice, count, only, switch

if TYPE_CHECKING:
    from dimetron.formats.handover import Wanted

#: What lengths in files may be, with their titles.
UNIT_TITLES = (
    ("mm", "millimetres"),
    ("cm", "centimetres"),
    ("m", "metres"),
    ("in", "inches"),
    ("ft", "feet"),
)


class _Kinds(Sequence[tuple[str, str]]):
    """The formats that can be written; looked up when they are first asked for."""

    def __getitem__(self, at: Any) -> Any:
        return self._all[at]

    def __len__(self) -> int:
        return len(self._all)

    @cached_property
    def _all(self) -> tuple[tuple[str, str], ...]:
        return tuple((e, "glTF" if e == "gltf" else e.upper()) for e in sorted(writers()))


def _carries(what: Carries) -> Callable[[ExportOptions], bool]:
    return lambda how: what in writers()[how.kind].carries


_of_meshes, _of_lines = _carries(Carries.MESHES), _carries(Carries.OUTLINES)
_of_planes, _of_polygons = _carries(Carries.PLANES), _carries(Carries.POLYGONS)
#: As the format's standard says.
_OWN = "own"


@dataclass(frozen=True)
class ExportOptions:
    """How meshes are exported."""

    kind: str = choice("obj", _Kinds(), title="format")
    unit: str = choice("own", ((_OWN, "its own"), *UNIT_TITLES))
    up: str = choice(
        "own", ((_OWN, "its own"), ("z", "Z up"), ("y", "Y up")), title="axis", when=_of_meshes
    )
    meshes: str = choice(
        "shown",
        (("shown", "shown"), ("chosen", "chosen"), ("all", "all")),
        listed=True,
    )
    surface: str = choice(
        "own", (("own", "as set"), ("cage", "cage"), ("smooth", "smooth")), listed=True
    )
    levels: int = count(
        2, low=1, high=5, title="smooth levels", when=only("surface", "smooth"),
        hint="How often each face of a cage is divided",
    )  # fmt: skip
    view: str = choice(ALL, VIEWS, title="views", when=_of_lines)
    triangles: bool = switch(
        False,
        title="as triangles",
        when=_of_polygons,
        hint="Else faces stay as they are",
    )
    colours: bool = switch(
        True, title="with colours", when=_carries(Carries.COLOURS),
        hint="Meshes that have a colour of their own bear it",
    )  # fmt: skip
    planes: bool = switch(
        False, title="with the drawings", when=_of_planes,
        hint="Drawings go along as textured planes at their place",
    )  # fmt: skip
    outlines: bool = switch(
        True, title="traced outlines", when=_of_lines, hint="What was traced or drawn"
    )
    lines: bool = switch(
        False, title="lines of the meshes", when=_of_lines,
        hint="Outlines, sharp edges and borders of the meshes that nothing hides",
    )  # fmt: skip


def taken(doc: Document, which: str, chosen: tuple[str, ...]) -> frozenset[str]:
    """Ids of the meshes that are "shown", "all" or "chosen". Raises HandOffError for none of the
    chosen."""
    found = frozenset(
        item.id
        for item in doc.meshes
        if which == "all" or (item.id in chosen if which == "chosen" else doc.visible(item))
    )
    if which == "chosen" and not found:
        raise HandOffError("No mesh is chosen; click one, or hand off those that are shown.")
    return found


def wanted(given: Given, how: ExportOptions) -> Wanted:
    """What is to be handed on. Raises HandOffError."""
    from dimetron.formats.handover import Wanted

    if _of_lines(how):
        told = (("outlines", how.outlines), ("lines", how.lines))
    else:
        told = (("meshes", True), ("planes", how.planes and _of_planes(how)))
    what = tuple(name for name, on in told if on)
    if not what:
        raise HandOffError("Tick traced outlines, lines of the meshes, or both.")
    levels = {"own": None, "cage": 0, "smooth": how.levels}[how.surface]
    only = taken(given.doc, how.meshes, given.chosen)
    view = view_key(how.view)
    triangles = how.triangles and _of_polygons(how)
    unit, up = standard(Path(f"a.{how.kind}"))
    unit = unit if how.unit == _OWN else how.unit
    up = up if how.up == _OWN else how.up
    return Wanted(what, unit, up, only, levels, triangles, how.colours, view)


def write(given: Given, how: ExportOptions) -> dict[str, bytes]:
    """See ``Way.write``. Raises ExportError, HandOffError, MeshError."""
    from dimetron.formats.export import exported_files  # only exporting needs it
    from dimetron.formats.handover import without_hidden_drawings

    given.progress(0.0)
    shown = without_hidden_drawings(given.doc)
    return exported_files(shown, given.stem, how.kind, wanted(given, how))


WAY = Way(
    "meshes",
    "Meshes",
    "Export…",
    "Meshes, drawings as planes, outlines and lines, in an open format",
    10,
    ExportOptions,
    lambda how: f".{how.kind}",
    write,
    tries=True,
)
